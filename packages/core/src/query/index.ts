/** The search language: text → tree → text. One tree is behind the search line, live bins and every other face of a search. */
export { answersQuery, type Said } from './answers';
export * from './combining';
export * from './complete';
export * from './criteria';
export { choiceIn, offeredIn, partsOf, sameTest, withChoice, type Choice } from './facets';
export { beginningOf, hasForms, IRREGULAR, irregularOf, LONGEST_ENDING, stemOf, stemsOf } from './forms';
export {
  alternativesOf,
  HEARD_AS,
  heardCount,
  LEAST_BEGUN,
  MOST_ALTERNATIVES,
  MOST_ITEM_WORDS,
  MOST_ITEMS,
  MOST_LOOKED_FOR,
  type HeardAs,
} from './heard';
export * from './issues';
export { combine, parseQuery, type ParsedQuery } from './parse';
export * from './live-bins';
export * from './matches';
export { placesNamed, readNear } from './near';
export * from './print';
export * from './reference';
export { beginningOfSpan, CALENDAR_WORDS, queryAt, spanAt } from './relative';
export * from './saved';
export * from './says';
export { STARTER_BINS } from './starter-bins';
export * from './tree';
