import { fold } from '../fields';
import { gathered } from '../gather';
import { assigned } from './assignment';
import type { FileFacts } from './facts';
import { bareOf, stemOf } from './names';
import {
  blocksOf,
  covers,
  findingsOf,
  haveSamePrint,
  isOnItsReel,
  likenessOf,
  LIKENESSES,
  printOf,
  score,
  strengthOf,
  type Likeness,
  type Score,
  type UsedRange,
} from './score';

export interface LostFile {
  readonly assetId: number;
  readonly facts: FileFacts;
  readonly used: UsedRange | null;
  /** Paths or names of what else the catalogue has with its size and ends. */
  readonly alike?: readonly string[];
}

export interface Candidate {
  /** Whatever tells the candidate apart for the caller, a path for instance. */
  readonly key: string;
  readonly facts: FileFacts;
  /** The lost assets that it nearly looks or sounds like, so that it is compared with them whatever it is called. */
  readonly near?: readonly number[];
}

export interface Match extends Score {
  readonly key: string;
  /**
   * How likely it is that this is the file, of all that were found and that none of them is, from 0 to 1; 0 for what is ruled out.
   * A multinomial logit with an outside option (D. McFadden, “Conditional logit analysis of qualitative choice behavior”, 1974; from
   * memory).
   */
  readonly probability: number;
}

export interface Proposal {
  readonly assetId: number;
  /** Best first. The first is given to no other proposal as its first; empty if nothing looks like the lost file. */
  readonly matches: readonly Match[];
}

const MAX_MATCHES = 5;
/** Below this a candidate is not worth a person's look. Low, since hiding the one that matters is worse than showing one too many. */
const MIN_PROBABILITY = 0.005;
const LEAST_STRENGTH = Math.log(MIN_PROBABILITY);
/** The same bytes are taken away from nobody, whatever two others would gain by it; still less what a person points at. */
const EXACT_WORTH = 1000;
const POINTED_WORTH = 1_000_000;
/** Where more than these meet, it says nothing by itself: `C0001` in a library of a thousand cards. */
export const MOST_MEETING = 400;

/** Keys under which a lost file and a candidate must meet at least once to be compared, so that not every pair is. */
function meetingPoints(facts: FileFacts) {
  const { path, bytes, checksum, durationFrames, fingerprint, isListed, reel, startFrame } = facts;
  const stem = stemOf(path);
  return {
    /** Those by which the same file is known: never too many. */
    sure: [...(fingerprint ? [`print:${fingerprint}`] : []), ...(checksum ? [`sum:${checksum}`] : [])],
    others: [
      ...[`stem:${stem}`, `bare:${bareOf(path)}`],
      ...(isListed ? [] : [`bytes:${bytes}`]),
      ...(startFrame === null ? [] : [`start:${startFrame}+${durationFrames ?? ''}`]),
      ...(reel === null ? [] : [`card:${reel} ${stem}`, ...(startFrame === null ? [] : [`on:${reel} ${startFrame}`])]),
    ],
  };
}

/** A lost file beside a candidate, by their places. */
interface Pair {
  readonly lost: number;
  readonly candidate: number;
  readonly strength: number;
  readonly likeness: Likeness;
  readonly isBlocked: boolean;
  readonly isPointed: boolean;
  /** See `likenessOf`. */
  readonly isShared: boolean;
}

const better = (a: Pair, b: Pair): number =>
  Number(b.isPointed) - Number(a.isPointed) ||
  Number(a.isBlocked) - Number(b.isBlocked) ||
  LIKENESSES.indexOf(a.likeness) - LIKENESSES.indexOf(b.likeness) ||
  b.strength - a.strength ||
  a.candidate - b.candidate;

/** That a person says of a lost file which candidate it is. */
export interface Pointed {
  readonly assetId: number;
  readonly key: string;
}

/**
 * Proposes candidates for many lost files at once. A candidate is the first choice of at most one of them: all of them are given out
 * so that what speaks for it together is most. What a person points at comes first, however little speaks for it.
 */
export function planRelink(
  lost: readonly LostFile[],
  candidates: readonly Candidate[],
  pointed: Pointed | null = null,
): Proposal[] {
  const shared = sharedPrints(lost, candidates);
  const pairs = pairsOf(lost, candidates, pointed, shared);
  const first = assigned(
    pairs.flat().flatMap(({ candidate, isBlocked, isPointed, likeness, lost: to, strength }) => {
      const known = isPointed ? POINTED_WORTH : likeness === 'exact' ? EXACT_WORTH : 0;
      const worth = strength - LEAST_STRENGTH + known;
      return isBlocked || worth <= 0 ? [] : [{ to, thing: candidate, worth }];
    }),
  );
  const taken = new Set(first.values());
  return lost.map(({ assetId, facts, used }, at) => {
    const mine = pairs[at] ?? [];
    const whole = mine.reduce((sum, { isBlocked, strength }) => sum + (isBlocked ? 0 : Math.exp(strength)), 1);
    const chosen = mine.find(({ candidate }) => candidate === first.get(at));
    const others = mine.filter((pair) => pair !== chosen && !taken.has(pair.candidate)).sort(better);
    const matches = [...(chosen ? [chosen] : []), ...others].flatMap((pair): Match[] => {
      const probability = pair.isBlocked ? 0 : Math.exp(pair.strength) / whole;
      const { facts: found, key } = candidates[pair.candidate] as Candidate;
      // Of files that begin and end alike it may be any, however little speaks for it.
      const isKept = pair.isPointed || pair.likeness !== 'lookalike' || haveSamePrint(facts, found);
      if (!isKept && Math.exp(pair.strength) / whole < MIN_PROBABILITY) return [];
      return [{ key, probability, ...score(facts, found, used, pair.isShared) }];
    });
    return { assetId, matches: matches.slice(0, MAX_MATCHES) };
  });
}

/** Each lost file beside all that it meets anywhere. */
function pairsOf(
  lost: readonly LostFile[],
  candidates: readonly Candidate[],
  pointed: Pointed | null,
  shared: ReadonlySet<string | null>,
): Pair[][] {
  const met = meetings(lost, candidates);
  const near = new Map<number, number[]>();
  candidates.forEach((candidate, at) => {
    for (const assetId of candidate.near ?? []) near.set(assetId, [...(near.get(assetId) ?? []), at]);
  });
  const shown = pointed ? candidates.findIndex(({ key }) => key === pointed.key) : -1;
  return lost.map(({ assetId, facts, used }, at) => {
    const isPointed = shown >= 0 && assetId === pointed?.assetId;
    const isShared = isAmbiguous(facts, met[at] ?? new Set(), candidates) || shared.has(printOf(facts));
    return Array.from(
      new Set([...(met[at] ?? []), ...(near.get(assetId) ?? []), ...(isPointed ? [shown] : [])]),
      (candidate): Pair => {
        const { facts: found } = candidates[candidate] as Candidate;
        return {
          ...{ lost: at, candidate, isShared, isPointed: isPointed && candidate === shown },
          likeness: likenessOf(facts, found, isShared),
          strength: strengthOf(findingsOf(facts, found, isShared)),
          isBlocked: blocksOf(facts, found, used).length > 0,
        };
      },
    );
  });
}

/**
 * Size and ends that several recordings have: more than one name stands for them in the catalogue, or among what was found. A copy is
 * mostly called as what it was copied from, and what holds another track of the same take never is.
 */
export function sharedPrints(lost: readonly LostFile[], candidates: readonly Candidate[]): ReadonlySet<string | null> {
  const shared = new Set<string | null>();
  const note = (names: Map<string, string>, facts: FileFacts, path: string): void => {
    const print = printOf(facts);
    if (print === null) return;
    const name = bareOf(path);
    if ((names.get(print) ?? name) !== name) shared.add(print);
    names.set(print, name);
  };
  const [known, found] = [new Map<string, string>(), new Map<string, string>()];
  for (const { alike = [], facts } of lost) for (const path of [facts.path, ...alike]) note(known, facts, path);
  for (const { facts } of candidates) note(found, facts, facts.path);
  return shared;
}

/** Whether files of several names are on the reel of a clip that is known from a list, at its time. */
function isAmbiguous(facts: FileFacts, met: ReadonlySet<number>, candidates: readonly Candidate[]): boolean {
  if (!facts.isListed) return false;
  const names = new Set<string>();
  for (const at of met) {
    const found = candidates[at]?.facts;
    if (found && isOnItsReel(facts, found)) names.add(bareOf(found.path));
  }
  return names.size > 1;
}

/** Candidates by the reel that they are on. */
const byReelOf = (candidates: readonly Candidate[]): Map<string, number[]> =>
  gathered(
    candidates.flatMap(({ facts }, at) => (facts.reel ? [at] : [])),
    (at) => fold(candidates[at]?.facts.reel ?? ''),
  );

/** Which candidates each lost file meets anywhere, by their places. */
export function meetings(lost: readonly Pick<LostFile, 'facts'>[], candidates: readonly Candidate[]): Set<number>[] {
  const byPoint = new Map<string, number[]>();
  candidates.forEach(({ facts }, at) => {
    const { others, sure } = meetingPoints(facts);
    for (const point of [...sure, ...others]) {
      const list = byPoint.get(point);
      if (list) list.push(at);
      else byPoint.set(point, [at]);
    }
  });
  const at = (point: string): readonly number[] => byPoint.get(point) ?? [];
  const onReel = lost.some(({ facts }) => facts.isListed) ? byReelOf(candidates) : new Map<string, number[]>();
  return lost.map(({ facts }) => {
    const { others, sure } = meetingPoints(facts);
    const few = others.map(at).filter(({ length }) => length <= MOST_MEETING);
    const onIts = facts.isListed ? (onReel.get(fold(facts.reel ?? '')) ?? []) : [];
    const covering = onIts.filter((each) => covers((candidates[each] as Candidate).facts, facts));
    return new Set([...sure.map(at), ...few, ...(covering.length <= MOST_MEETING ? covering : [])].flat());
  });
}
