/** Text with times, as captions have it: WebVTT and SubRip (SRT). */
export * from './types';
export { readTimedText } from './read';
export { clock, writeTimedText } from './write';
