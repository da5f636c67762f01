/** CMX 3600 edit decision lists. */
export * from './read';
export * from './types';
export * from './write';
