import type { Sequelize } from 'sequelize';
import { gathered } from '@larder/core/gather';
import { bareOf, printOf, type FileFacts, type LostFile } from '@larder/core/relink';
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
  // Of two names it is known that they are of several recordings; all others would tell no more.
  return new Map([...named].map(([print, of]) => [print, differing(of.map(({ name }) => name))]));
}

/** One name, and one that says something else, if there is any. */
function differing(names: readonly string[]): string[] {
  const [first, ...others] = names;
  if (first === undefined) return [];
  const other = others.find((name) => bareOf(name) !== bareOf(first));
  return other === undefined ? [first] : [first, other];
}
