/** The index that answers searches; its documents come from the database and can always be made again. */
export type { Group } from './grouping';
export { MemoryIndex } from './memory-index';
export { sortKey } from './sort-key';
export * from './types';
