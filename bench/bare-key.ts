import type { Page } from 'puppeteer-core';

/** The peer of what is shown: a key that turns one class on, in the same page. */
export const bareKey = (page: Page): Promise<number> =>
  page.evaluate(async () => {
    const mark = document.createElement('i');
    document.body.append(mark);
    document.addEventListener('keydown', () => mark.classList.add('on'), { once: true, capture: true });
    const began = performance.now();
    document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'F20', bubbles: true }));
    while (!mark.classList.contains('on')) await new Promise((resolve) => requestAnimationFrame(resolve));
    await new Promise((resolve) => requestAnimationFrame(resolve));
    mark.remove();
    return performance.now() - began;
  });
