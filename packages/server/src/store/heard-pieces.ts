import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { packSpoken, unpackSpoken, type SpokenWord } from '@larder/core/dialogue';
import { select } from './database';

/** A piece of a sound in which somebody speaks, in milliseconds from its beginning; `words` is null until it was listened to. */
export interface HeardPiece {
  readonly startMs: number;
  readonly endMs: number;
  /** The channel that it is of, from 0, where these are recognised apart; else 0. */
  readonly channel: number;
  readonly words: readonly SpokenWord[] | null;
}

/** The pieces of a recognition that was begun; empty if it was not, or by another program. */
export async function heardPieces(db: Sequelize, assetId: number, madeBy: string): Promise<HeardPiece[]> {
  const rows = await select<Omit<HeardPiece, 'words'> & { spoken: string | null }>(
    db,
    'SELECT start_ms AS startMs, end_ms AS endMs, channel, spoken FROM heard_piece WHERE asset_id = :assetId AND made_by = :madeBy ORDER BY start_ms, channel',
    { assetId, madeBy },
  );
  return rows.map(({ startMs, endMs, channel, spoken }) => ({
    ...{ startMs, endMs, channel },
    words: spoken === null ? null : unpackSpoken(spoken).words,
  }));
}

/** Begins a recognition anew: with these pieces, none of them listened to. */
export async function beginPieces(
  db: Sequelize,
  assetId: number,
  madeBy: string,
  pieces: readonly Omit<HeardPiece, 'words'>[],
): Promise<void> {
  await db.transaction(async (transaction) => {
    await dropPieces(db, assetId, transaction);
    if (pieces.length === 0) return;
    await db.query('INSERT INTO heard_piece (asset_id, start_ms, end_ms, channel, made_by) VALUES :rows', {
      replacements: { rows: pieces.map(({ startMs, endMs, channel }) => [assetId, startMs, endMs, channel, madeBy]) },
      transaction,
      type: QueryTypes.INSERT,
    });
  });
}

export async function keepPiece(
  db: Sequelize,
  assetId: number,
  { channel, startMs }: Pick<HeardPiece, 'channel' | 'startMs'>,
  words: readonly SpokenWord[],
): Promise<void> {
  await db.query(
    'UPDATE heard_piece SET spoken = :spoken WHERE asset_id = :assetId AND start_ms = :startMs AND channel = :channel',
    {
      replacements: { assetId, startMs, channel, spoken: packSpoken({ words, speakers: [] }) },
      type: QueryTypes.UPDATE,
    },
  );
}

export const dropPieces = (db: Sequelize, assetId: number, transaction?: Transaction): Promise<unknown> =>
  db.query('DELETE FROM heard_piece WHERE asset_id = :assetId', {
    replacements: { assetId },
    type: QueryTypes.DELETE,
    ...(transaction ? { transaction } : {}),
  });
