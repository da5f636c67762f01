import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { packSpoken, spokenMoved, unpackSpoken } from '@larder/core/dialogue';
import { hasPlace } from '@larder/core/relink';
import type { Writing } from './change-feed';
import { changeItems, stringOutsCutFrom } from './cuts';
import { select } from './database';
import { refused } from './errors';
import type { AssetRow } from './models';
import { usedRanges } from './usage';

/** What a relink moved, as the feed keeps it. */
export interface Moved {
  /** Frames. */
  readonly shift: number;
  /** Transcripts of which words fell off the beginning, as they were before. */
  readonly lostWords: readonly LostWords[];
}

export interface LostWords {
  readonly source: string;
  readonly spoken: string;
}

/** What becomes of the length of an asset's file. */
export interface Moving {
  readonly assetId: number;
  readonly name: string;
  /** By how many frames everything in it is moved. */
  readonly shift: number;
  /** Frames of the file that it is pointed at; null where it has none. */
  readonly frames: number | null;
}

/**
 * Refuses where anything that is used of some assets would have no place in their new files. Whoever asks holds the assets locked, so
 * that this sees what was marked or cut after the files were opened, and nothing is added before it is moved.
 */
export async function refuseMisfits(
  db: Sequelize,
  movings: readonly Moving[],
  nothing: string,
  transaction: Transaction,
): Promise<void> {
  const ids = movings.map(({ assetId }) => assetId);
  const used = await usedRanges(db, ids, transaction);
  for (const { assetId, frames, name, shift } of movings) {
    const range = used.get(assetId);
    if (range && !hasPlace(range, shift, frames))
      throw refused(
        `In ${name} something has been marked or cut since for which there is no place in the other file. ${nothing}`,
      );
  }
}

/**
 * Moves everything that stands at a place in time in an asset by so many frames: markers, subclips, what string-outs are cut from, its
 * poster frame, and what is said. Nothing that was cut or named falls out, or the file would have been ruled out. Words may: they are
 * given back, and `put` puts them back.
 */
export async function moveRanges(
  db: Sequelize,
  writing: Writing,
  asset: AssetRow,
  shift: number,
  put: readonly LostWords[] = [],
): Promise<Partial<Moved>> {
  if (shift === 0) return {};
  const { transaction } = writing;
  const moving = { id: asset.id, shift, last: (asset.durationFrames ?? 0) - 1 };
  for (const sql of [
    'UPDATE marker SET start_at = start_at + :shift, end_at = end_at + :shift WHERE asset_id = :id',
    'UPDATE asset SET in_place = in_place + :shift WHERE parent_id = :id',
    `UPDATE asset SET poster = IF(poster + :shift BETWEEN 0 AND :last, CAST(poster + :shift AS SIGNED), NULL) WHERE id = :id AND poster REGEXP '^[0-9]+$'`,
    // Pieces that recognition would go on from stand at other places now.
    'DELETE FROM heard_piece WHERE asset_id = :id',
  ])
    await db.query(sql, { replacements: moving, transaction, type: QueryTypes.UPDATE });
  await moveCuts(db, writing, asset.id, shift);
  return { shift, lostWords: await moveWords(db, asset, shift, put, transaction) };
}

/** In the string-outs that are cut from an asset. */
async function moveCuts(db: Sequelize, writing: Writing, assetId: number, shift: number): Promise<void> {
  for (const id of await stringOutsCutFrom(db, assetId, writing)) {
    const moved = await changeItems(writing, id, (item) =>
      item.assetId === assetId ? { ...item, in: item.in + shift, out: item.out + shift } : null,
    );
    if (moved.length > 0)
      writing.log({ action: 'relink', entity: 'string-out', entityId: id, after: { assetId, shift } });
  }
}

async function moveWords(
  db: Sequelize,
  { id, rateDen, rateNum }: AssetRow,
  shift: number,
  put: readonly LostWords[],
  transaction: Transaction,
): Promise<LostWords[]> {
  if (rateNum === null || rateDen === null) return [];
  const ms = Math.round((shift * 1000 * rateDen) / rateNum);
  const rows = await select<LostWords & { readonly id: number }>(
    db,
    'SELECT id, source, spoken FROM transcript WHERE asset_id = :id FOR UPDATE',
    { id },
    transaction,
  );
  const lost: LostWords[] = [];
  for (const row of rows) {
    const before = unpackSpoken(row.spoken);
    // Put back as it was, unless somebody has corrected it since.
    const whole = put
      .filter(({ source }) => source === row.source)
      .map(({ spoken }) => unpackSpoken(spoken))
      .find((each) => packSpoken(spokenMoved(each, -ms)) === row.spoken);
    const after = whole ?? spokenMoved(before, ms);
    if (after.words.length < before.words.length) lost.push({ source: row.source, spoken: row.spoken });
    await db.query('UPDATE transcript SET spoken = :spoken, version = version + 1 WHERE id = :transcriptId', {
      replacements: { transcriptId: row.id, spoken: packSpoken(after) },
      transaction,
      type: QueryTypes.UPDATE,
    });
  }
  return lost;
}
