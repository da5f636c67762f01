/** OpenTimelineIO JSON. */
export * from './read';
export * from './types';
export * from './write';
