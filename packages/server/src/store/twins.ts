import type { Sequelize } from 'sequelize';
import { twinSign, type TwinFacts, type TwinSign } from '@larder/core/ingest';
import { countingForRate, rational } from '@larder/core/timecode';
import { select } from './database';

export interface TwinFound {
  readonly assetId: number;
  readonly assetName: string;
  readonly at: string;
  readonly sign: TwinSign;
}

interface Row {
  readonly assetId: number;
  readonly name: string;
  readonly path: string;
  readonly storage: string;
  readonly bytes: number;
  readonly fingerprint: string | null;
  readonly durationFrames: number | null;
  readonly startFrame: number | null;
  readonly rateNum: number | null;
  readonly rateDen: number | null;
  readonly dropFrame: number;
}

/** What the library has that is the same recording as a file; null if it has nothing of the kind. */
export async function findTwin(db: Sequelize, file: TwinFacts): Promise<TwinFound | null> {
  // Two look-ups along indexes; both files are of one size.
  const rows = await select<Row>(
    db,
    `SELECT a.id AS assetId, a.name, a.path, s.name AS storage, a.bytes, a.fingerprint, a.duration_frames AS durationFrames, a.start_frame AS startFrame, a.rate_num AS rateNum, a.rate_den AS rateDen, a.drop_frame AS dropFrame
     FROM asset a JOIN storage s ON s.id = a.storage_id
     WHERE a.id IN (SELECT id FROM asset WHERE fingerprint = :fingerprint UNION SELECT id FROM asset WHERE name = :name) AND a.bytes = :bytes ORDER BY a.id LIMIT 50`,
    { fingerprint: file.fingerprint ?? '', name: file.name, bytes: file.bytes },
  );
  for (const row of rows) {
    const counting =
      row.rateNum && row.rateDen ? countingForRate(rational(row.rateNum, row.rateDen), Boolean(row.dropFrame)) : null;
    const sign = twinSign(file, { ...row, counting });
    if (sign) return { assetId: row.assetId, assetName: row.name, at: `${row.storage}/${row.path}`, sign };
  }
  return null;
}
