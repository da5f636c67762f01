/** ASC MHL 2.0 hash lists: which files were copied, with a hash of every byte of each. */
export * from './c4';
export * from './read';
export * from './types';
export * from './write';
