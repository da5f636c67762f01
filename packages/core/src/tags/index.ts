/** Controlled words: how they are compared, lettered, and told from their doubles. */
export { foldTag } from './fold-tag';
export { lettersOf, LETTERS } from './letters';
export { nearDoubles, type NearDouble } from './near-doubles';
export {
  PATTERNS,
  PATTERN_LABELS,
  tagChangeSchema,
  tagSetSchema,
  type Pattern,
  type TagChange,
  type TagSetChange,
} from './schema';
