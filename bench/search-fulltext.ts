import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { QueryTypes, type Sequelize } from 'sequelize';
import { Database } from '@larder/command/database';
import { Home } from '@larder/command/home';
import { openDatabase } from '../packages/server/src/store/database';
import { document } from './search-corpus';

const TEXTS = ['name', 'title', 'description', 'notes', 'reel', 'scene', 'place'] as const;
const ORDERS = ['name', 'shot DESC', 'duration', 'added DESC', 'title', 'size DESC'];
const COLUMNS = [
  ...TEXTS,
  'tags',
  'people',
  'kind',
  'verdict',
  'storage',
  'shot',
  'duration',
  'added',
  'size',
] as const;
const BATCH = 1000;

/** The peer: the same rows in MariaDB with FULLTEXT over all that plain words look in, and an index on every column that is ordered by. */
export class FullText {
  private constructor(
    private readonly folder: string,
    private readonly database: Database,
    private readonly db: Sequelize,
  ) {}

  static async filled(n: number): Promise<FullText> {
    const folder = mkdtempSync(join(tmpdir(), 'larder-bench-fulltext-'));
    const home = new Home(folder);
    home.prepare();
    const database = await Database.start(home);
    const db = openDatabase(database.options);
    const peer = new FullText(folder, database, db);
    await db.query('SET GLOBAL innodb_ft_min_token_size = 1').catch(() => undefined);
    await db.query(
      `CREATE TABLE clip (id INT UNSIGNED PRIMARY KEY, ${COLUMNS.map((column) =>
        ['shot', 'duration', 'added', 'size'].includes(column) ? `${column} BIGINT` : `${column} TEXT`,
      ).join(', ')})`,
    );
    await db.query('CREATE TABLE clip_tag (clip INT UNSIGNED, tag VARCHAR(40), PRIMARY KEY (clip, tag), KEY (tag))');
    for (let id = 1; id <= n; id += BATCH) {
      const rows: unknown[] = [];
      const tags: unknown[] = [];
      for (let each = id; each < id + BATCH && each <= n; each += 1) {
        const { values } = document(each);
        const said = (field: (typeof COLUMNS)[number]) => {
          const value = field === 'tags' ? values.tag : values[field];
          return typeof value === 'object' ? value.join(' ') : (value ?? null);
        };
        rows.push([each, ...COLUMNS.map(said)]);
        for (const tag of (values.tag as readonly string[] | undefined) ?? []) tags.push([each, tag]);
      }
      await db.query('INSERT INTO clip VALUES ?', { replacements: [rows], type: QueryTypes.INSERT });
      if (tags.length > 0)
        await db.query('INSERT INTO clip_tag VALUES ?', { replacements: [tags], type: QueryTypes.INSERT });
    }
    for (const column of ['name(40)', 'shot', 'duration', 'added', 'title(40)', 'size'])
      await db.query(`CREATE INDEX by_${column.replace(/\W.*/, '')} ON clip (${column})`);
    await db.query(`CREATE FULLTEXT INDEX words ON clip (${[...TEXTS, 'tags', 'people'].join(', ')})`);
    return peer;
  }

  /** Milliseconds for a whole answer: how many, the first 200 in an order, and six facets. */
  async answer(words: readonly string[], at: number): Promise<number> {
    const wanted = words.map((word) => `+${word}`).join(' ');
    const match = `MATCH (${[...TEXTS, 'tags', 'people'].join(', ')}) AGAINST (:wanted IN BOOLEAN MODE)`;
    const ask = (sql: string) => this.db.query(sql, { replacements: { wanted }, type: QueryTypes.SELECT });
    const began = performance.now();
    await ask(`SELECT COUNT(*) FROM clip WHERE ${match}`);
    await ask(`SELECT id FROM clip WHERE ${match} ORDER BY ${ORDERS[at % ORDERS.length] ?? 'name'}, id LIMIT 200`);
    for (const column of ['kind', 'verdict', 'storage', 'reel', 'shot DIV 86400000'])
      await ask(
        `SELECT ${column} AS said, COUNT(*) AS many FROM clip WHERE ${match} GROUP BY said ORDER BY many DESC LIMIT 20`,
      );
    await ask(
      `SELECT tag, COUNT(*) AS many FROM clip JOIN clip_tag ON clip = id WHERE ${match} GROUP BY tag ORDER BY many DESC LIMIT 20`,
    );
    return performance.now() - began;
  }

  async stop(): Promise<void> {
    await this.db.close();
    await this.database.stop();
    rmSync(this.folder, { recursive: true, force: true, maxRetries: 5 });
  }
}
