/** Finding lost originals again: evidence, scores, and plans for many at once. */
export * from './plan';
export * from './score';
export * from './weights';
