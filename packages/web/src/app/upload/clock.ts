import { InjectionToken } from '@angular/core';

/** Milliseconds that only go up. */
export const CLOCK = new InjectionToken<() => number>('clock', { factory: () => () => performance.now() });
