import { formatTimecode } from '../timecode';
import { fold } from '../fields';
import { areNear, distanceOf, isSame, LENGTH_TOLERANCE_MS, soundDistance, type Sense } from '../semblance';
import type { FileFacts } from './facts';
import { bareOf, nameOf, stemOf, tailOf } from './names';
import { BIAS, EVIDENCE_KINDS, WEIGHTS, type EvidenceKind } from './weights';

export type Agreement = 'agrees' | 'disagrees' | 'unknown';

export interface Evidence {
  readonly kind: EvidenceKind;
  readonly agreement: Agreement;
  /** What the catalogue says, and what the candidate says, for reading. */
  readonly expected: string | null;
  readonly found: string | null;
}

/** Exact: the same bytes. Equivalent: the same stretch of time in another container or size. Lookalike: only names and the like. */
export const LIKENESSES = ['exact', 'equivalent', 'lookalike'] as const;
export type Likeness = (typeof LIKENESSES)[number];

export interface Score {
  readonly likeness: Likeness;
  readonly evidence: readonly Evidence[];
  /** Findings that rule the candidate out whatever else agrees. */
  readonly blockedBy: readonly EvidenceKind[];
}

type Reader = (facts: FileFacts) => string | null;

const READERS: Readonly<Record<Exclude<EvidenceKind, Sense>, Reader>> = {
  checksum: (facts) => facts.checksum,
  fingerprint: (facts) => facts.fingerprint,
  size: (facts) => (facts.isListed ? null : String(facts.bytes)),
  timecode: ({ startFrame, counting }) =>
    startFrame === null || !counting ? null : formatTimecode(startFrame, counting),
  duration: ({ durationFrames, isListed }) => (durationFrames === null || isListed ? null : String(durationFrames)),
  reel: (facts) => facts.reel,
  name: ({ path }) => nameOf(path),
  title: ({ path }) => bareOf(path),
  folder: ({ isListed, path }) => (isListed ? null : (path.split('/').at(-2) ?? null)),
  rate: (facts) => facts.counting?.id ?? null,
  raster: ({ width, height }) => (width && height ? `${width}×${height}` : null),
  channels: ({ channels }) => (channels === null ? null : String(channels)),
  shot: ({ shotMs }) => secondOf(shotMs),
  modified: ({ modifiedMs }) => secondOf(modifiedMs),
};

const secondOf = (ms: number | null): string | null =>
  ms === null ? null : new Date(Math.floor(ms / 1000) * 1000).toISOString();

/** Whatever people write in either case. */
const FOLDED: ReadonlySet<EvidenceKind> = new Set(['name', 'reel', 'folder']);

/** Of what is seen and heard, by how many in a hundred bits of their hashes they differ. */
function senseEvidence(kind: Sense, expected: FileFacts, candidate: FileFacts): Evidence {
  const distance = differenceOf(kind, expected, candidate);
  const is = isSame(kind, distance);
  return {
    ...{ kind, agreement: is === null ? 'unknown' : is ? 'agrees' : 'disagrees', expected: null },
    found: distance === null ? null : String(Math.round(100 * distance)),
  };
}

/** From where to where a file runs, in timecode; of one that is only listed, what is made use of. */
export function runOf({ counting, durationFrames, startFrame }: FileFacts): string | null {
  if (startFrame === null || !counting) return null;
  const from = formatTimecode(startFrame, counting);
  return durationFrames === null ? from : `${from} – ${formatTimecode(startFrame + durationFrames, counting)}`;
}

/** Whether a file has all of the timecode that a list makes use of. */
function coverEvidence(expected: FileFacts, candidate: FileFacts): Evidence {
  const is = covers(candidate, expected);
  return {
    ...{ kind: 'timecode', agreement: is === null ? 'unknown' : is ? 'agrees' : 'disagrees' },
    ...{ expected: runOf(expected), found: runOf(candidate) },
  };
}

/** Whether a file runs at least as far as another at both ends, at one rate; null where that is not known. */
export function covers(whole: FileFacts, part: FileFacts): boolean | null {
  if (whole.startFrame === null || part.startFrame === null) return null;
  if (whole.durationFrames === null || part.durationFrames === null) return null;
  return sameTime(whole, part).rate !== false && isWithin(part, whole);
}

/** By how much two files differ in what is seen or heard; null where it is not known, or they are not as long as each other. */
function differenceOf(kind: Sense, { semblance: a }: FileFacts, { semblance: b }: FileFacts): number | null {
  if (!a || !b || Math.abs(a.lengthMs - b.lengthMs) > LENGTH_TOLERANCE_MS) return null;
  return distanceOf(a, b)[kind];
}

const isSense = (kind: EvidenceKind): kind is Sense => kind === 'picture' || kind === 'sound';

function agreementOf(kind: Exclude<EvidenceKind, Sense>, expected: FileFacts, candidate: FileFacts): Agreement {
  const [want, have] = [READERS[kind](expected), READERS[kind](candidate)];
  if (want === null || have === null) return 'unknown';
  return (FOLDED.has(kind) ? fold(want) === fold(have) : want === have) ? 'agrees' : 'disagrees';
}

/**
 * All that speaks for and against one candidate, for reading, and what kind of likeness that is.
 * @param used what is made use of @param isShared see `likenessOf`
 */
export function score(
  expected: FileFacts,
  candidate: FileFacts,
  used: UsedRange | null = null,
  isShared = false,
): Score {
  const evidence = EVIDENCE_KINDS.map((kind): Evidence => {
    if (isSense(kind)) return senseEvidence(kind, expected, candidate);
    if (kind === 'timecode' && expected.isListed) return coverEvidence(expected, candidate);
    return {
      ...{ kind, agreement: agreementOf(kind, expected, candidate) },
      ...{ expected: READERS[kind](expected), found: READERS[kind](candidate) },
    };
  });
  return {
    likeness: likenessOf(expected, candidate, isShared),
    evidence,
    blockedBy: blocksOf(expected, candidate, used),
  };
}

/** Whether two values are the same; null where one is not known. */
const same = <T>(a: T | null, b: T | null): boolean | null => (a === null || b === null ? null : a === b);
const sameTime = (a: FileFacts, b: FileFacts) => ({
  rate: same(a.counting?.id ?? null, b.counting?.id ?? null),
  start: same(a.startFrame, b.startFrame),
  length: same(a.durationFrames, b.durationFrames),
});

/**
 * What kind of likeness it is; of what has no timecode of its own, by what is seen and heard. `isShared`: other recordings have what would
 * tell, so that it does not tell which of them it is. That is the same size and ends, as files of one take have that hold a track each and
 * begin and end in silence; of what a list names, reels of several productions that are called the same and ran at the same time.
 */
export function likenessOf(expected: FileFacts, candidate: FileFacts, isShared = false): Likeness {
  if (expected.isListed) {
    const isNamed = nameFinding(expected, candidate) !== null;
    return isOnItsReel(expected, candidate) && (!isShared || isNamed) ? 'equivalent' : 'lookalike';
  }
  const { length, rate, start } = sameTime(expected, candidate);
  const whole = same(expected.checksum, candidate.checksum);
  const ends = !isShared && haveSamePrint(expected, candidate);
  // Files of one size whose ends are alike may differ between them. A reel does not tell: people edit it, and names give it.
  if (whole ?? (ends && ![length, rate, start].includes(false))) return 'exact';
  if (isSeenSame(expected, candidate)) return 'equivalent';
  if (rate !== true || start !== true || length !== true) return 'lookalike';
  // Every card of a day may begin at the same hour: what is said to be another reel, and called otherwise, is another recording.
  const reel = same(foldedOf(expected.reel), foldedOf(candidate.reel));
  return reel === false && bareOf(expected.path) !== bareOf(candidate.path) ? 'lookalike' : 'equivalent';
}

/**
 * Whether a file is what a list names by reel and timecode: what is on one reel at one time is one recording (common practice, no source).
 */
export const isOnItsReel = (listed: FileFacts, candidate: FileFacts): boolean =>
  covers(candidate, listed) === true && same(foldedOf(listed.reel), foldedOf(candidate.reel)) === true;

/** Whether pictures, or sound where there are none, say that it is the same stretch of time, and nothing says that it is not. */
function isSeenSame(expected: FileFacts, candidate: FileFacts): boolean {
  const [a, b] = [expected.semblance, candidate.semblance];
  // The same pictures may have been given another sound: two cameras, or a mix of what was recorded.
  if (!a || !b || !areNear(a, b) || isSame('sound', soundDistance(a, b)) === false) return false;
  const { rate } = sameTime(expected, candidate);
  const longer = Math.abs((expected.durationFrames ?? 0) - (candidate.durationFrames ?? 0));
  // Sound that was coded anew is longer by what fills up its last block, and some containers round to the next frame.
  const isAsLong = longer <= 1 || !a.picture;
  return rate !== false && isAsLong && same(toldStart(expected), toldStart(candidate)) !== false;
}

/** Size and ends of a file, as far as they are known. */
export const printOf = ({ bytes, fingerprint }: Pick<FileFacts, 'bytes' | 'fingerprint'>): string | null =>
  fingerprint === null ? null : `${fingerprint} ${bytes}`;

export const haveSamePrint = (a: FileFacts, b: FileFacts): boolean => printOf(a) !== null && printOf(a) === printOf(b);

const foldedOf = (text: string | null): string | null => (text === null ? null : fold(text));

/** What bins, string-outs and people make use of, in frames from the start of the media; `to` is behind the last. */
export interface UsedRange {
  readonly from: number;
  readonly to: number;
}

/**
 * By how many frames everything in the lost original has to be moved so that it stands at the same timecode in the candidate; 0 where
 * either says no timecode of its own, since then both are taken to begin together.
 */
export function shiftOf(expected: FileFacts, candidate: FileFacts): number {
  // A list counts from where it was told to, which is from nought where the file says nothing.
  if (expected.isListed) return (expected.startFrame ?? 0) - (candidate.startFrame ?? 0);
  const [was, is] = [toldStart(expected), toldStart(candidate)];
  return was === null || is === null ? 0 : was - is;
}

/** Whether a range has its place in a file of so many frames, null for unknown, in which everything is moved by `shift` frames. */
export const hasPlace = ({ from, to }: UsedRange, shift: number, durationFrames: number | null): boolean =>
  from + shift >= 0 && (durationFrames === null || to + shift <= durationFrames);

export function blocksOf(expected: FileFacts, candidate: FileFacts, used: UsedRange | null): EvidenceKind[] {
  const blocks: EvidenceKind[] = [];
  if (sameTime(expected, candidate).rate === false) blocks.push('rate');
  else if (used && !hasPlace(used, shiftOf(expected, candidate), candidate.durationFrames)) blocks.push('duration');
  return blocks;
}

type Groups = typeof WEIGHTS;
/** What was found in each group; null where nothing is known. */
export type Findings = { readonly [Group in keyof Groups]: keyof Groups[Group] | null };

function contentOf(expected: FileFacts, candidate: FileFacts, isShared: boolean): Findings['content'] {
  if (expected.isListed) return null;
  const whole = same(expected.checksum, candidate.checksum);
  if (whole === true) return 'checksum';
  if (expected.bytes !== candidate.bytes) return 'other';
  if (whole === false) return 'otherBytes';
  const ends = same(expected.fingerprint, candidate.fingerprint);
  if (ends === null) return 'size';
  return !ends ? 'otherBytes' : isShared ? 'size' : 'ends';
}

function timeOf(expected: FileFacts, candidate: FileFacts, isShared: boolean): Findings['time'] {
  if (expected.isListed) {
    const is = covers(candidate, expected);
    const tells = !isShared && isOnItsReel(expected, candidate);
    return is === null ? null : !is ? 'otherStart' : tells ? 'same' : 'within';
  }
  const { length } = sameTime(expected, candidate);
  const start = same(toldStart(expected), toldStart(candidate));
  if (start === null)
    return length === null ? null : length || isSeenSame(expected, candidate) ? 'lengthOnly' : 'other';
  if (start) return length === false ? 'startOnly' : 'same';
  return isWithin(candidate, expected) || isWithin(expected, candidate) ? 'within' : 'otherStart';
}

const sense = (kind: Sense, expected: FileFacts, candidate: FileFacts): 'same' | 'other' | null =>
  either(isSame(kind, differenceOf(kind, expected, candidate)));

/** What begins at nought has no timecode of its own, or it was lost on the way. */
export const toldStart = ({ startFrame }: Pick<FileFacts, 'startFrame'>): number | null =>
  startFrame === 0 ? null : startFrame;

/** Whether one covers part of the time of the other, and nothing else. */
function isWithin(part: FileFacts, whole: FileFacts): boolean {
  const { durationFrames, startFrame } = part;
  if (startFrame === null || durationFrames === null || whole.startFrame === null || whole.durationFrames === null)
    return false;
  const end = whole.startFrame + whole.durationFrames;
  return startFrame >= whole.startFrame && startFrame + durationFrames <= end;
}

function nameFinding({ isListed, path: expected }: FileFacts, { path: candidate }: FileFacts): Findings['name'] {
  if (fold(nameOf(expected)) === fold(nameOf(candidate))) return 'same';
  if (stemOf(expected) === stemOf(candidate)) return 'stem';
  if (bareOf(expected) === bareOf(candidate)) return 'bare';
  // What a list calls a clip is what somebody called it while cutting.
  return isListed ? null : 'other';
}

const either = (is: boolean | null): 'same' | 'other' | null => (is === null ? null : is ? 'same' : 'other');
const second = (ms: number | null): number | null => (ms === null ? null : Math.floor(ms / 1000));

export function findingsOf(expected: FileFacts, candidate: FileFacts, isShared = false): Findings {
  const tail = tailOf(expected.path, candidate.path);
  const raster = same(expected.width, candidate.width);
  return {
    content: contentOf(expected, candidate, isShared),
    time: timeOf(expected, candidate, isShared),
    picture: sense('picture', expected, candidate),
    sound: sense('sound', expected, candidate),
    reel: either(same(foldedOf(expected.reel), foldedOf(candidate.reel))),
    name: nameFinding(expected, candidate),
    folder: expected.isListed ? null : tail > 1 ? 'several' : tail === 1 ? 'one' : 'none',
    raster: either(raster === true ? same(expected.height, candidate.height) : raster),
    channels: either(same(expected.channels, candidate.channels)),
    shot: either(same(second(expected.shotMs), second(candidate.shotMs))),
    modified: either(same(second(expected.modifiedMs), second(candidate.modifiedMs))),
  };
}

/** What all of it says together: the logarithm of the odds that this is the lost original rather than that none of those found is. */
export function strengthOf(findings: Findings): number {
  let sum = BIAS;
  for (const [group, levels] of Object.entries(WEIGHTS) as [keyof Groups, Readonly<Record<string, number>>][]) {
    const found = findings[group];
    if (found !== null) sum += levels[found] ?? 0;
  }
  return sum;
}
