import '@angular/localize/init';
import { setupZonelessTestEnv } from 'jest-preset-angular/setup-env/zoneless';

setupZonelessTestEnv();

// What a document without layout lacks: everything is as large as a window, nothing resizes, and media neither load nor play.
class NoResizing implements ResizeObserver {
  observe(): void {}
  unobserve(): void {}
  disconnect(): void {}
}
globalThis.ResizeObserver = NoResizing;
for (const [name, size] of [
  ['clientWidth', 900],
  ['clientHeight', 600],
] as const)
  Object.defineProperty(HTMLElement.prototype, name, { configurable: true, get: () => size });
Element.prototype.scrollTo = () => undefined;
HTMLMediaElement.prototype.play = function (): Promise<void> {
  this.dispatchEvent(new Event('play'));
  return Promise.resolve();
};
HTMLMediaElement.prototype.pause = () => undefined;
afterEach(() => {
  document.body.replaceChildren();
  localStorage.clear();
});
