import type { Sequelize } from 'sequelize';
import type { FileFacts } from '@larder/core/relink';
import { countingForRate, rational } from '@larder/core/timecode';
import { selectByIds } from './database';
import { goodHashes } from './fixity';

type FactsRecord = Omit<FileFacts, 'checksum' | 'counting' | 'isListed'> & {
  readonly id: number;
  readonly rateNum: number | null;
  readonly rateDen: number | null;
  readonly dropFrame: number;
  readonly listed: number;
};

/** What relinking compares: what the catalogue says of the files of some assets. Read by itself, since of a million many are asked for. */
export async function factsOf(db: Sequelize, ids: readonly number[]): Promise<Map<number, FileFacts>> {
  const [rows, hashes] = await Promise.all([
    selectByIds<FactsRecord>(
      db,
      `SELECT id, path, bytes, modified_ms AS modifiedMs, fingerprint, rate_num AS rateNum, rate_den AS rateDen, drop_frame AS dropFrame, duration_frames AS durationFrames, start_frame AS startFrame,
         reel, width, height, JSON_VALUE(sound, '$.channels') AS channels, shot_ms AS shotMs, listed FROM asset WHERE id IN (:ids)`,
      ids,
    ),
    goodHashes(db, ids),
  ]);
  return new Map(
    rows.map(({ dropFrame, id, listed, rateDen, rateNum, ...row }) => [
      id,
      {
        ...row,
        channels: row.channels === null ? null : Number(row.channels),
        counting: rateNum && rateDen ? countingForRate(rational(rateNum, rateDen), Boolean(dropFrame)) : null,
        checksum: hashes.get(id) ?? null,
        ...(listed ? { isListed: true, modifiedMs: null } : {}),
      },
    ]),
  );
}
