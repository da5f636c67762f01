import { openDatabase } from '@larder/server';
import type { Library } from '@larder/command/library';

/**
 * Catalogues `count` clips that have no files, straight into the database: `clip_1.mov` titled `Lock 1` on reel `R0` and so
 * on, each ten bytes and a millisecond longer than the one before. The index is told by a change of their storage.
 */
export async function catalogueMany(library: Library, storageId: number, count: number, folder = 'f'): Promise<void> {
  const db = openDatabase(library.database.options);
  await db.query(
    `INSERT INTO asset (kind, name, title, reel, added_ms, storage_id, path, path_hash, bytes, modified_ms, shelf_state, state_since_ms, duration_ms, rate_num, rate_den, duration_frames)
     SELECT 'video', CONCAT('clip_', seq, '.mov'), CONCAT('Lock ', seq), CONCAT('R', seq DIV 1000), seq, ${storageId}, CONCAT('${folder}/', seq), SHA1(CONCAT('${folder}/', seq)), seq * 10, 1, 'online', 1, seq, 25, 1, 100 FROM seq_1_to_${count}`,
  );
  await db.transaction(async (transaction) => {
    await db.query(`UPDATE feed_head SET revision = revision + 1`, { transaction });
    await db.query(
      `INSERT INTO change_feed SELECT revision, UUID(), 1, NULL, 'add', 'storage', ${storageId}, '{}', '{}' FROM feed_head`,
      { transaction },
    );
  });
  await db.close();
}
