/** Text with times, as captions have it: WebVTT, SubRip (SRT) and TTML. */
export * from './types';
export { readTimedText } from './read';
export { clock } from './clock';
export { writeTimedText } from './write';
