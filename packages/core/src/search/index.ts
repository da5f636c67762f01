/** The index that answers searches; its documents come from the database and can always be made again. */
export { AssemblyCode } from './assembly';
export { firstNot, firstNotNear } from './first-not';
export { firstOf } from './first-of';
export type { Group } from './grouping';
export {
  LibraryIndex,
  mergeOf,
  SEGMENT_SIZES,
  type KeptParts,
  type MergePlan,
  type SegmentSizes,
} from './library-index';
export { rarityOf, shareOf, weightOf, worthOf } from './relevance';
export { packFlat, unpackFlat, unpackSegment } from './pack';
export { SEGMENT_VERSION, type SegmentData } from './segment';
export { sortKey } from './sort-key';
export { GrowingNumbers } from './strings';
export { spreadOf, type Bar, type Spread } from './spread';
export * from './types';
