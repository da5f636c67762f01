/** Sound as numbers: peaks for drawing, loudness. */
export * from './loudness';
export * from './peaks';
