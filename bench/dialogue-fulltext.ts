import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { QueryTypes, type Sequelize } from 'sequelize';
import { saidText } from '@larder/core/dialogue';
import { Database } from '@larder/command/database';
import { Home } from '@larder/command/home';
import { openDatabase } from '../packages/server/src/store/database';
import { spokenFile } from './dialogue-corpus';

const BATCH = 200;
/** Files in an answer, as the dialogue section asks for. */
const WINDOW = 25;

/** The peer: the same transcripts in MariaDB with FULLTEXT. */
export class SpokenFullText {
  private constructor(
    private readonly folder: string,
    private readonly database: Database,
    private readonly db: Sequelize,
  ) {}

  static async filled(files: number): Promise<SpokenFullText> {
    const folder = mkdtempSync(join(tmpdir(), 'larder-bench-spoken-'));
    const home = new Home(folder);
    home.prepare();
    const database = await Database.start(home);
    const db = openDatabase(database.options);
    await db.query('CREATE TABLE spoken (id INT UNSIGNED PRIMARY KEY, said MEDIUMTEXT)');
    for (let id = 1; id <= files; id += BATCH) {
      const rows = Array.from({ length: Math.min(BATCH, files + 1 - id) }, (_unused, at) => [
        id + at,
        saidText(spokenFile(id + at).spoken.words),
      ]);
      await db.query('INSERT INTO spoken VALUES ?', { replacements: [rows], type: QueryTypes.INSERT });
    }
    await db.query('CREATE FULLTEXT INDEX words ON spoken (said)');
    return new SpokenFullText(folder, database, db);
  }

  /** Milliseconds for how many files say it, and the best of them; `asked` in boolean mode. */
  async answer(asked: string): Promise<number> {
    const match = 'MATCH (said) AGAINST (:asked IN BOOLEAN MODE)';
    const ask = (sql: string) => this.db.query(sql, { replacements: { asked }, type: QueryTypes.SELECT });
    const began = performance.now();
    await ask(`SELECT COUNT(*) FROM spoken WHERE ${match}`);
    await ask(`SELECT id, ${match} AS fits FROM spoken WHERE ${match} ORDER BY fits DESC, id LIMIT ${WINDOW}`);
    return performance.now() - began;
  }

  async stop(): Promise<void> {
    await this.db.close();
    await this.database.stop();
    rmSync(this.folder, { recursive: true, force: true, maxRetries: 5 });
  }
}
