/** The index that answers searches; its documents come from the database and can always be made again. */
export { MemoryIndex, sortKey } from './memory-index';
export * from './types';
