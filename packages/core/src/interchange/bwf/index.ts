/** Broadcast WAVE: the bext chunk of EBU Tech 3285 and the iXML chunk. */
export * from './read';
export * from './types';
export * from './write';
