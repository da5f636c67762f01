import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { PosterChoice, Posters, Written } from '@larder/contract';
import { enqueue } from '../jobs/queue';
import { write, type Writing } from './change-feed';
import { select } from './database';
import { notFound, refused } from './errors';

/** As it is kept: a number of a frame, or the word. */
export const posterChoice = (kept: string | null): PosterChoice =>
  kept === null || kept === 'not-black' ? kept : Number(kept);

/** Somebody waits to see it. */
const POSTER_PRIORITY = 60;

interface Shown {
  readonly id: number;
  readonly name: string;
  readonly kind: string;
  readonly frames: number | null;
  readonly poster: PosterChoice;
}

/** Of some assets those with moving pictures, locked. */
async function shownBy(db: Sequelize, ids: readonly number[], transaction: Transaction): Promise<Shown[]> {
  const rows = await select<Omit<Shown, 'poster'> & { poster: string | null }>(
    db,
    `SELECT id, name, kind, duration_frames AS frames, poster FROM asset WHERE id IN (:ids) AND kind IN ('video', 'sequence') ORDER BY id FOR UPDATE`,
    { ids },
    transaction,
  );
  return rows.map((row) => ({ ...row, poster: posterChoice(row.poster) }));
}

/** Says by which frame each of some assets is shown, and has it made. Those without moving pictures are passed over. */
export async function setPosters(db: Sequelize, personId: number, { assetIds, way, ...at }: Posters): Promise<Written> {
  const { revision, group, changed } = await write(db, personId, async (writing) => {
    const rows = await shownBy(db, assetIds, writing.transaction);
    if (rows.length === 0) throw refused('There are no moving pictures among these.');
    const chosen = ({ name, frames }: Shown): PosterChoice => {
      const last = Math.max(0, (frames ?? 1) - 1);
      switch (way) {
        case 'frame':
          if (at.frame > last) throw refused(`${name} has no frame ${at.frame}.`);
          return at.frame;
        case 'start':
          return 0;
        case 'middle':
          return Math.floor(last / 2);
        case 'percent':
          return Math.floor((last * at.percent) / 100);
        case 'not-black':
          return 'not-black';
        case 'library':
          return null;
        default:
          return way satisfies never;
      }
    };
    await put(db, writing, new Map(rows.map((row) => [row.id, { row, choice: chosen(row) }])));
  });
  return { revision, group, changed };
}

export interface PosterSides {
  readonly entityId: number;
  readonly before: { readonly poster?: PosterChoice };
  readonly after: { readonly poster?: PosterChoice };
}

/** Shows assets by what they were shown by before a change; refuses where somebody has chosen another frame since. */
export async function putPostersBack(db: Sequelize, writing: Writing, changes: readonly PosterSides[]): Promise<void> {
  const rows = await shownBy(
    db,
    changes.map(({ entityId }) => entityId),
    writing.transaction,
  );
  if (rows.length === 0) throw notFound('asset');
  const byId = new Map(changes.map((change) => [change.entityId, change]));
  if (rows.some(({ id, poster }) => poster !== (byId.get(id)?.after.poster ?? null)))
    throw refused('Somebody has chosen another poster frame since. Nothing was undone.');
  await put(
    db,
    writing,
    new Map(rows.map((row) => [row.id, { row, choice: byId.get(row.id)?.before.poster ?? null }])),
  );
}

async function put(
  db: Sequelize,
  { transaction, log }: Writing,
  chosen: ReadonlyMap<number, { readonly row: Shown; readonly choice: PosterChoice }>,
): Promise<void> {
  const changed = [...chosen.values()].filter(({ row, choice }) => row.poster !== choice);
  if (changed.length === 0) return;
  const rows = changed.map(({ row, choice }) => ({ id: row.id, poster: choice === null ? null : String(choice) }));
  await db.query(
    `UPDATE asset a JOIN JSON_TABLE(:rows, '$[*]' COLUMNS (id BIGINT PATH '$.id', poster LONGTEXT PATH '$.poster')) r ON r.id = a.id SET a.poster = r.poster`,
    { replacements: { rows: JSON.stringify(rows) }, transaction, type: QueryTypes.UPDATE },
  );
  await enqueue(
    changed.map(({ row }) => ({
      ...{ kind: 'poster' as const, subject: row.name, payload: { assetId: row.id }, assetId: row.id },
      ...{ unit: '', priority: POSTER_PRIORITY },
    })),
    transaction,
  );
  for (const { row, choice } of changed)
    log({
      ...{ action: 'poster', entity: 'asset', entityId: row.id },
      ...{ before: { poster: row.poster }, after: { poster: choice } },
    });
}
