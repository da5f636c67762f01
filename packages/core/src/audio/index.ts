/** Sound as numbers: peaks for drawing, loudness, and where in it somebody speaks. */
export * from './loudness';
export * from './peaks';
export * from './sound-frames';
export * from './sound-parts';
export * from './channels-apart';
