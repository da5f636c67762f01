import type { Sequelize } from 'sequelize';
import { gathered } from '@larder/core/gather';
import { printOf, type FileFacts, type LostFile } from '@larder/core/relink';
import { selectByIds } from './database';
import { factsOf } from './file-facts';
import { usedRanges } from './usage';

/** What is known of the files of some assets that are looked for, how much of each is used, and what else may be taken for it. */
export async function lostFiles(db: Sequelize, ids: readonly number[]): Promise<Map<number, LostFile>> {
  const [facts, used] = await Promise.all([factsOf(db, ids), usedRanges(db, ids)]);
  const alike = await namesByPrint(db, [...facts.values()]);
  return new Map(
    [...facts].map(([assetId, known]) => [
      assetId,
      { assetId, facts: known, used: used.get(assetId) ?? null, alike: alike.get(printOf(known) ?? '') ?? [] },
    ]),
  );
}

/** So many names that files of one size with the same ends have are enough to know that they are several recordings. */
const MOST_NAMES = 20;

/** What all files in the catalogue are called that have the size and ends of some, by these. */
async function namesByPrint(
  db: Sequelize,
  facts: readonly FileFacts[],
): Promise<ReadonlyMap<string, readonly string[]>> {
  const rows = await selectByIds<{ name: string; fingerprint: string; bytes: number }, string>(
    db,
    'SELECT fingerprint, bytes, name FROM asset WHERE fingerprint IN (:ids) GROUP BY fingerprint, bytes, name',
    [...new Set(facts.flatMap(({ fingerprint }) => fingerprint ?? []))],
  );
  const named = gathered(rows, ({ bytes, fingerprint }) => printOf({ bytes: Number(bytes), fingerprint }));
  return new Map([...named].map(([print, of]) => [print, of.slice(0, MOST_NAMES).map(({ name }) => name)]));
}
