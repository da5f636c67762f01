import type { Sequelize } from 'sequelize';
import { gathered } from '@larder/core/gather';
import { toldStart, type FileFacts, type LostFile } from '@larder/core/relink';
import { areNear, LENGTH_TOLERANCE_MS, type Semblance } from '@larder/core/semblance';
import type { Probed } from '../media/probe';
import { nearPairsOf, semblancesOf } from '../store/semblances';
import type { FoundCandidate } from './relink-files';

type Seen = Pick<FoundCandidate, 'facts' | 'isItsFile' | 'near' | 'owner'>;

/** Those of which timecode does not tell. */
const quietOf = (lost: readonly Pick<LostFile, 'assetId' | 'facts'>[]): number[] =>
  lost.filter(({ facts }) => toldStart(facts) === null).map(({ assetId }) => assetId);

/** What lost originals and candidates look and sound like, where timecode does not tell of it, and which are near each other. */
export async function withSemblances<Lost extends LostFile, Found extends Seen>(
  db: Sequelize,
  { candidates, lost }: { readonly candidates: readonly Found[]; readonly lost: readonly Lost[] },
): Promise<{ readonly candidates: readonly Found[]; readonly lost: readonly Lost[] }> {
  const quiet = quietOf(lost);
  if (quiet.length === 0) return { candidates, lost };
  const ids = new Set(quiet);
  const pairs = (await nearPairsOf(db, quiet)).flatMap(({ assetId, otherId }) => [
    { owner: otherId, to: assetId },
    { owner: assetId, to: otherId },
  ]);
  const near = gathered(
    pairs.filter(({ to }) => ids.has(to)),
    ({ owner }) => owner,
  );
  const seenIn = ({ facts, isItsFile, owner }: Seen): number | null =>
    isItsFile && toldStart(facts) === null ? owner : null;
  const owners = candidates.flatMap((candidate) => seenIn(candidate) ?? []);
  const semblances = await semblancesOf(db, [...new Set([...quiet, ...owners])]);
  const seen = (facts: FileFacts, id: number | null): FileFacts => {
    const semblance = id === null ? undefined : semblances.get(id);
    return semblance ? { ...facts, semblance } : facts;
  };
  const lengths = byLength(quiet, semblances);
  return {
    lost: lost.map((file) => ({ ...file, facts: seen(file.facts, file.assetId) })),
    candidates: candidates.map((candidate) => ({
      ...candidate,
      facts: seen(candidate.facts, seenIn(candidate)),
      near: [
        ...(near.get(seenIn(candidate) ?? 0) ?? []).map(({ to }) => to),
        ...nearTo(candidate.facts.semblance ?? null, lengths),
      ],
    })),
  };
}

/** Lost originals by how long they are, in steps of the tolerance. */
type Lengths = ReadonlyMap<number, readonly (readonly [assetId: number, is: Semblance])[]>;

const stepOf = (lengthMs: number): number => Math.floor(lengthMs / LENGTH_TOLERANCE_MS);

function byLength(ids: readonly number[], semblances: ReadonlyMap<number, Semblance>): Lengths {
  const known = ids.flatMap((id): [number, Semblance][] => {
    const semblance = semblances.get(id);
    return semblance && (semblance.picture ?? semblance.sound) ? [[id, semblance]] : [];
  });
  return gathered(known, ([, { lengthMs }]) => stepOf(lengthMs));
}

/** Those whose length could be this one. */
const asLong = (lengthMs: number, lengths: Lengths) =>
  [-1, 0, 1].flatMap((off) => lengths.get(stepOf(lengthMs) + off) ?? []);

/** What a file that was just looked at is near to; what is catalogued was compared before. */
const nearTo = (semblance: Semblance | null, lengths: Lengths): number[] =>
  semblance === null
    ? []
    : asLong(semblance.lengthMs, lengths).flatMap(([assetId, is]) => (areNear(is, semblance) ? [assetId] : []));

/**
 * Which files are worth a look at their pictures and their sound: as long as a lost original of which timecode does not tell. Gives how
 * many milliseconds its pictures are apart, null for no look.
 */
export async function looksOf(
  db: Sequelize,
  lost: readonly Pick<LostFile, 'assetId' | 'facts'>[],
): Promise<(probed: Probed) => number | null> {
  const quiet = quietOf(lost);
  const lengths = byLength(quiet, await semblancesOf(db, quiet));
  return ({ facts }) => {
    if (toldStart(facts) !== null || facts.durationMs === null) return null;
    const { durationMs, kind } = facts;
    const [nearest] = asLong(durationMs, lengths)
      .filter(([, { picture }]) => (picture !== null) === (kind === 'video'))
      .toSorted(([, a], [, b]) => Math.abs(a.lengthMs - durationMs) - Math.abs(b.lengthMs - durationMs));
    return nearest?.[1].everyMs ?? null;
  };
}
