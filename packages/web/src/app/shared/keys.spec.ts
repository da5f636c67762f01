import { TestBed } from '@angular/core/testing';
import { KEY_TABLE, keyOf, Keys, printKey } from './keys';

const press = (key: string, target: EventTarget = document.body, more: KeyboardEventInit = {}) => {
  const event = new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true, ...more });
  target.dispatchEvent(event);
  return event;
};

describe('the table of keys', () => {
  it('gives no key to two commands in the same place', () => {
    const seen = KEY_TABLE.map(({ key, where }) => `${where} ${key}`);
    expect(new Set(seen).size).toBe(seen.length);
  });
  it('every key of it is what pressing it gives', () => {
    for (const { key } of KEY_TABLE) {
      const parts = key.split('+');
      const name = parts.at(-1) === 'Space' ? ' ' : (parts.at(-1) ?? '');
      expect(
        keyOf({
          key: name,
          ctrlKey: parts.includes('Ctrl'),
          altKey: parts.includes('Alt'),
          shiftKey: parts.includes('Shift'),
          metaKey: false,
        }),
      ).toBe(key);
    }
  });
  it('prints as on a keyboard', () =>
    expect(['Ctrl+z', 'Shift+ArrowLeft', 'Space', '/'].map(printKey)).toEqual(['Ctrl+Z', 'Shift+←', 'Space', '/']));
});

describe('pressing keys', () => {
  const listen = (handler: () => boolean | void) =>
    TestBed.runInInjectionContext(() => TestBed.inject(Keys).on('log.circled', handler));

  it('asks the last to come first, and the one before if it does not need the key', () => {
    const [first, second] = [jest.fn(), jest.fn(() => false as const)];
    listen(first);
    listen(second);
    expect(press('c').defaultPrevented).toBe(true);
    expect([first, second].map((each) => each.mock.calls.length)).toEqual([1, 1]);
  });
  it('leaves typing alone', () => {
    const handler = jest.fn();
    listen(handler);
    const field = document.body.appendChild(document.createElement('input'));
    press('c', field);
    expect(handler).not.toHaveBeenCalled();
    field.remove();
  });
});
