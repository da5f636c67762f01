import { fold } from '../fields';
import { LIKENESSES, score, type FileFacts, type Score } from './score';

export interface LostFile {
  readonly assetId: number;
  readonly facts: FileFacts;
  /** Frames from the start of the media that bins and string-outs make use of. */
  readonly neededFrames: number;
}

export interface Candidate {
  /** Whatever tells the candidate apart for the caller, a path for instance. */
  readonly key: string;
  readonly facts: FileFacts;
}

export interface Match extends Score {
  readonly key: string;
}

export interface Proposal {
  readonly assetId: number;
  /** Best first. The first is given to no other proposal as its first; empty if nothing looks like the lost file. */
  readonly matches: readonly Match[];
}

const MAX_MATCHES = 5;
/** Below this a candidate is not worth a person's look. Low, since hiding the one that matters is worse than showing one too many. */
const MIN_PROBABILITY = 0.005;

const stem = (name: string): string => fold(name).replace(/\.[^.]*$/, '');

/** Keys under which a lost file and a candidate must meet at least once to be compared, so that not every pair is. */
function meetingPoints({ name, bytes, fingerprint, startFrame, durationFrames }: FileFacts): string[] {
  const points = [`stem:${stem(name)}`, `bytes:${bytes}`];
  if (fingerprint) points.push(`print:${fingerprint}`);
  if (startFrame !== null && durationFrames !== null) points.push(`time:${startFrame}+${durationFrames}`);
  return points;
}

const better = (a: Score, b: Score): number =>
  LIKENESSES.indexOf(a.likeness) - LIKENESSES.indexOf(b.likeness) || b.probability - a.probability;

/**
 * Proposes candidates for many lost files at once. A candidate is the first choice of at most one of them: the pair that
 * fits best takes it, and the others move to their next best.
 */
export function planRelink(lost: readonly LostFile[], candidates: readonly Candidate[]): Proposal[] {
  const byPoint = new Map<string, Candidate[]>();
  for (const candidate of candidates)
    for (const point of meetingPoints(candidate.facts)) {
      const list = byPoint.get(point);
      if (list) list.push(candidate);
      else byPoint.set(point, [candidate]);
    }

  const pairs = lost.flatMap(({ assetId, facts, neededFrames }) =>
    [...new Set(meetingPoints(facts).flatMap((point) => byPoint.get(point) ?? []))]
      .map((candidate) => ({ assetId, match: { key: candidate.key, ...score(facts, candidate.facts, neededFrames) } }))
      .filter(({ match }) => match.probability >= MIN_PROBABILITY || match.likeness !== 'lookalike'),
  );
  pairs.sort((a, b) => better(a.match, b.match) || a.assetId - b.assetId || (a.match.key < b.match.key ? -1 : 1));

  const first = new Map<number, Match>();
  const taken = new Set<string>();
  for (const { assetId, match } of pairs) {
    if (first.has(assetId) || taken.has(match.key) || match.blockedBy.length > 0) continue;
    first.set(assetId, match);
    taken.add(match.key);
  }
  return lost.map(({ assetId }) => {
    const chosen = first.get(assetId);
    const others = pairs
      .filter((pair) => pair.assetId === assetId && pair.match !== chosen && !taken.has(pair.match.key))
      .map((pair) => pair.match);
    return { assetId, matches: [...(chosen ? [chosen] : []), ...others].slice(0, MAX_MATCHES) };
  });
}
