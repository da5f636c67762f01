/** Finding lost originals again: evidence, scores, plans for many at once, and what became of whole folders. */
export { assigned, type Worth } from './assignment';
export type { FileFacts } from './facts';
export { bareOf, beginningOf } from './names';
export {
  meetings,
  MOST_MEETING,
  planRelink,
  sharedPrints,
  type Candidate,
  type LostFile,
  type Match,
  type Pointed,
  type Proposal,
} from './plan';
export { isNamed, PASSED_OVER, passesOver } from './pass-over';
export { placeBy, ruleKey, ruleOf, rulesIn, type Explained, type MoveRule, type Place } from './rules';
export { byReel, timecodesOf, wantedRanges, writeRestoreList, type ToRestore } from './restore';
export * from './score';
export { BIAS, EVIDENCE_KINDS, WEIGHTS, type EvidenceKind } from './weights';
