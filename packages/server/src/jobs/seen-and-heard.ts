import type { Sequelize } from 'sequelize';
import { gathered } from '@larder/core/gather';
import { toldStart, type FileFacts, type LostFile } from '@larder/core/relink';
import { nearPairsOf, semblancesOf } from '../store/semblances';
import type { FoundCandidate } from './relink-files';

type Seen = Pick<FoundCandidate, 'facts' | 'isItsFile' | 'near' | 'owner'>;

/** What lost originals and candidates look and sound like, where timecode does not tell of it, and which are near each other. */
export async function withSemblances<Lost extends LostFile, Found extends Seen>(
  db: Sequelize,
  { candidates, lost }: { readonly candidates: readonly Found[]; readonly lost: readonly Lost[] },
): Promise<{ readonly candidates: readonly Found[]; readonly lost: readonly Lost[] }> {
  const quiet = lost.filter(({ facts }) => toldStart(facts) === null).map(({ assetId }) => assetId);
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
  return {
    lost: lost.map((file) => ({ ...file, facts: seen(file.facts, file.assetId) })),
    candidates: candidates.map((candidate) => ({
      ...candidate,
      facts: seen(candidate.facts, seenIn(candidate)),
      near: (near.get(seenIn(candidate) ?? 0) ?? []).map(({ to }) => to),
    })),
  };
}
