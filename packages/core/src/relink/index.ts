/** Finding lost originals again: evidence, scores, plans for many at once, and what became of whole folders. */
export { assigned, type Worth } from './assignment';
export type { FileFacts } from './facts';
export { meetings, planRelink, type Candidate, type LostFile, type Match, type Proposal } from './plan';
export { placeBy, ruleKey, ruleOf, rulesIn, type Explained, type MoveRule, type Place } from './rules';
export * from './score';
export { BIAS, EVIDENCE_KINDS, WEIGHTS, type EvidenceKind } from './weights';
