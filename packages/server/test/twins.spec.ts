import type { Sequelize } from 'sequelize';
import { parseQuery } from '@larder/core/query';
import { LibraryIndex } from '@larder/core/search';
import { openDatabase } from '@larder/server';
import { Pronunciations } from '../src/media/pronunciations';
import { IndexKeeper } from '../src/search/keeper';
import { type Client, soundsIn, TestLibrary } from './kit';
import { catalogueMany } from './many';

const SORT = { field: 'number', descending: false } as const;
let library: TestLibrary;
let manager: Client;
let db: Sequelize;
let ids: number[];
let pronunciations: Pronunciations;

beforeAll(async () => {
  library = await TestLibrary.start(1);
  pronunciations = await Pronunciations.read();
  manager = await library.as('manager');
  await soundsIn(library, manager, 'sound', 1);
  const { storages } = await manager.call('storages', null);
  await catalogueMany(library.library, storages[0]?.id ?? 0, 6);
  db = openDatabase(library.library.database.options);
  const [rows] = await db.query(`SELECT id FROM asset WHERE path LIKE 'f/%' ORDER BY id`);
  ids = (rows as { id: number }[]).map(({ id }) => id);
}, 120_000);
afterAll(async () => {
  await db.close();
  await library.stop();
}, 60_000);

/** Makes the nth asset another file, and tells of it. */
async function isNow(at: number, fingerprint: string, bytes = 10): Promise<void> {
  const replacements = { id: ids[at] ?? 0, fingerprint, bytes };
  await db.transaction(async (transaction) => {
    await db.query('UPDATE asset SET fingerprint = :fingerprint, bytes = :bytes WHERE id = :id', {
      replacements,
      transaction,
    });
    await db.query('UPDATE feed_head SET revision = revision + 1', { transaction });
    await db.query(
      `INSERT INTO change_feed SELECT revision, UUID(), 1, NULL, 'relink', 'asset', :id, '{}', '{}' FROM feed_head`,
      { replacements, transaction },
    );
  });
}

/** The twins as an index knows them, by their places in `ids`. */
const twinsIn = (index: LibraryIndex): number[] =>
  index
    .search({ tree: parseQuery('is:twin').tree, sort: SORT, offset: 0, limit: 100 })
    .ids.map((id) => ids.indexOf(id));

describe('twins', () => {
  it('are assets with one file; as it changes, the other is told of too', async () => {
    await isNow(0, 'a');
    await isNow(1, 'a');
    await isNow(2, 'a', 11);
    const keeper = new IndexKeeper(db, new LibraryIndex(), pronunciations);
    await keeper.build();
    expect(twinsIn(keeper.index)).toEqual([0, 1]);
    const then = async (at: number, fingerprint: string, bytes?: number) => {
      await isNow(at, fingerprint, bytes);
      while (await keeper.catchUp());
      return twinsIn(keeper.index);
    };
    expect(await then(3, 'a')).toEqual([0, 1, 3]);
    expect(await then(0, 'b')).toEqual([1, 3]);
    expect(await then(1, 'c')).toEqual([]);
    expect(await then(4, 'b')).toEqual([0, 4]);
    expect(await then(4, 'a', 11)).toEqual([2, 4]);
    expect(twinsIn(keeper.index)).toEqual([2, 4]);
  });

  it('are right after a restart, whatever changed meanwhile', async () => {
    await isNow(0, 'p');
    await isNow(1, 'p');
    await isNow(2, 'q');
    const before = new IndexKeeper(db, new LibraryIndex(), pronunciations);
    await before.build();
    expect(twinsIn(before.index)).toEqual([0, 1]);
    const kept = await before.keep();
    await isNow(1, 'q');
    const after = new IndexKeeper(db, new LibraryIndex(), pronunciations);
    expect(await after.resume(kept)).toBe(true);
    expect(twinsIn(after.index)).toEqual([1, 2]);
  });

  it('are told of all the same where the database went in the middle', async () => {
    await isNow(0, 'x');
    await isNow(1, 'y');
    const keeper = new IndexKeeper(db, new LibraryIndex(), pronunciations);
    await keeper.build();
    expect(twinsIn(keeper.index)).toEqual([]);
    await isNow(1, 'x');
    const query = db.query.bind(db) as (...args: unknown[]) => Promise<unknown>;
    const gone = jest
      .spyOn(db, 'query')
      .mockImplementation(((...args: unknown[]) =>
        String(args[0]).includes('LEFT JOIN asset p') ? Promise.reject(new Error('gone')) : query(...args)) as never);
    await expect(keeper.catchUp()).rejects.toThrow('gone');
    gone.mockRestore();
    while (await keeper.catchUp());
    expect(twinsIn(keeper.index)).toEqual([0, 1]);
  });
});
