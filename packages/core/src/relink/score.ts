import { formatTimecode, type Counting } from '../timecode';
import { fold } from '../fields';
import { EVIDENCE_KINDS, PRIOR_LOG_ODDS, WEIGHTS, type EvidenceKind } from './weights';

/** What is known of a file; null where it is not known. Both the lost original and each candidate are described so. */
export interface FileFacts {
  /** File name with its extension. */
  readonly name: string;
  readonly bytes: number;
  readonly modifiedMs: number | null;
  /** Hash over the size and both ends of the file. */
  readonly fingerprint: string | null;
  readonly counting: Counting | null;
  readonly durationFrames: number | null;
  /** Start timecode as a frame count at `counting`. */
  readonly startFrame: number | null;
  readonly reel: string | null;
  readonly width: number | null;
  readonly height: number | null;
}

export type Agreement = 'agrees' | 'disagrees' | 'unknown';

export interface Evidence {
  readonly kind: EvidenceKind;
  readonly agreement: Agreement;
  /** What the catalogue says, and what the candidate says, for reading. */
  readonly expected: string | null;
  readonly found: string | null;
}

/** Exact: the same bytes at both ends and the same size. Equivalent: the same stretch of time. Lookalike: only names and the like. */
export const LIKENESSES = ['exact', 'equivalent', 'lookalike'] as const;
export type Likeness = (typeof LIKENESSES)[number];

export interface Score {
  readonly likeness: Likeness;
  /** The chance, from 0 to 1, that this is the file sought, if the weights hold. */
  readonly probability: number;
  readonly evidence: readonly Evidence[];
  /** Findings that rule the candidate out whatever else agrees. */
  readonly blockedBy: readonly EvidenceKind[];
}

type Reader = (facts: FileFacts) => string | null;

const timecode: Reader = ({ startFrame, counting }) =>
  startFrame === null || !counting ? null : formatTimecode(startFrame, counting);

const READERS: Readonly<Record<EvidenceKind, Reader>> = {
  fingerprint: (facts) => facts.fingerprint,
  size: (facts) => String(facts.bytes),
  name: (facts) => facts.name,
  timecode,
  duration: (facts) => (facts.durationFrames === null ? null : String(facts.durationFrames)),
  reel: (facts) => facts.reel,
  rate: (facts) => facts.counting?.id ?? null,
  raster: ({ width, height }) => (width && height ? `${width}×${height}` : null),
  modified: (facts) =>
    facts.modifiedMs === null ? null : new Date(Math.floor(facts.modifiedMs / 1000) * 1000).toISOString(),
};

function compare(kind: EvidenceKind, expected: string | null, found: string | null): Agreement {
  if (expected === null || found === null) return 'unknown';
  const same = kind === 'name' || kind === 'reel' ? fold(expected) === fold(found) : expected === found;
  return same ? 'agrees' : 'disagrees';
}

/** Weighs one candidate against the lost original. `neededFrames` is how much of it is used, from its first frame. */
export function score(expected: FileFacts, candidate: FileFacts, neededFrames = 0): Score {
  const evidence = EVIDENCE_KINDS.map((kind): Evidence => {
    const [want, have] = [READERS[kind](expected), READERS[kind](candidate)];
    return { kind, agreement: compare(kind, want, have), expected: want, found: have };
  });
  const agreement = (kind: EvidenceKind) => evidence.find((each) => each.kind === kind)?.agreement;
  const logOdds = evidence.reduce(
    (sum, { kind, agreement: found }) => (found === 'unknown' ? sum : sum + WEIGHTS[kind][found]),
    PRIOR_LOG_ODDS,
  );
  const exact = agreement('fingerprint') === 'agrees' && agreement('size') === 'agrees';
  const sameTime =
    agreement('timecode') === 'agrees' && agreement('duration') === 'agrees' && agreement('rate') === 'agrees';
  const blockedBy: EvidenceKind[] = [];
  if (agreement('rate') === 'disagrees') blockedBy.push('rate');
  if (candidate.durationFrames !== null && candidate.durationFrames < neededFrames) blockedBy.push('duration');
  return {
    likeness: exact ? 'exact' : sameTime ? 'equivalent' : 'lookalike',
    probability: 1 / (1 + Math.exp(-logOdds)),
    evidence,
    blockedBy,
  };
}
