import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as later } from 'node:timers/promises';
import { planRelink } from '@larder/core/relink';
import { Home } from '@larder/command/home';
import { Library } from '@larder/command/library';
import { addStorage, ensurePerson } from '@larder/server';
import { QueryTypes } from 'sequelize';
import { withSemblances } from '../packages/server/src/jobs/seen-and-heard';
import { write } from '../packages/server/src/store/change-feed';
import { lostFiles } from '../packages/server/src/store/lost-files';
import { catalogued } from '../packages/server/src/store/relink-candidates';
import { noteSemblance, semblancesOf } from '../packages/server/src/store/semblances';
import { twinList } from '../packages/server/src/store/twin-groups';
import { PASSWORD, type Served } from './served';
import { median, round, type Figure } from './kit';

const CATALOGUED = 1_000_000;
const LOST = 10_000;
const RUNS = 3;
const FOLLOWED = 9;
const MB = 1_000_000;

/**
 * A library of so many clips on cards of a hundred, and lost entries beside them: of ten, four lie in another folder as they were, two
 * have another name besides, two were transcoded, and two are nowhere.
 */
async function fill(db: Served['db'], storageId: number): Promise<void> {
  const columns =
    'kind, name, reel, added_ms, storage_id, path, path_hash, bytes, modified_ms, fingerprint, shelf_state, state_since_ms, duration_ms, rate_num, rate_den, duration_frames, start_frame, width, height';
  // Of five one has no timecode, and is looked at and listened to.
  const rest = `40 * (100 + seq MOD 900), 25, 1, 100 + seq MOD 900, IF(seq MOD 5 = 0, NULL, 90000 + (seq * 37) MOD 2160000), 1920, 1080`;
  await db.query(
    `INSERT INTO asset (${columns}) SELECT 'video', CONCAT('A', LPAD(seq DIV 100, 5, '0'), 'C', LPAD(seq MOD 100, 3, '0'), '.mov'), CONCAT('A', LPAD(seq DIV 100, 5, '0')), seq, ${storageId},
       CONCAT('d', seq DIV 10000, '/A', seq DIV 100, '/', seq, '.mov'), SHA1(CONCAT('d', seq)), seq * 1009, 1, LPAD(HEX(seq * 2654435761), 16, '0'), 'online', 1, ${rest} FROM seq_1_to_${CATALOGUED}`,
  );
  const lost = `(seq * 97)`;
  await db.query(
    `INSERT INTO asset (${columns}) SELECT 'video', CONCAT(IF(seq MOD 10 IN (4, 5), 'Renamed ', ''), 'A', LPAD(${lost} DIV 100, 5, '0'), 'C', LPAD(${lost} MOD 100, 3, '0'), IF(seq MOD 10 > 7, '_gone', ''), '.mov'), CONCAT('A', LPAD(${lost} DIV 100, 5, '0')), seq, ${storageId},
       CONCAT('old/', seq, '.mov'), SHA1(CONCAT('old', seq)), ${lost} * 1009 + IF(seq MOD 10 > 5, 7, 0), 1, LPAD(HEX(${lost} * 2654435761 + IF(seq MOD 10 > 5, 1, 0)), 16, '0'), 'missing', 1, ${rest.replaceAll('seq', lost)} FROM seq_1_to_${LOST}`,
  );
  await db.query(
    `INSERT INTO asset_semblance SELECT id, kind, duration_ms, 2 * duration_ms / 20, RANDOM_BYTES(320), RANDOM_BYTES(128) FROM asset WHERE shelf_state = 'online'`,
  );
  const original = `FROM asset l JOIN asset a ON a.added_ms = l.added_ms * 97 AND a.shelf_state = 'online' AND l.shelf_state = 'missing'`;
  await db.query('ALTER TABLE asset ADD KEY by_added (added_ms)');
  await db.query(
    `INSERT INTO asset_semblance SELECT l.id, m.kind, m.length_ms, m.every_ms, m.picture, m.sound ${original} JOIN asset_semblance m ON m.asset_id = a.id`,
  );
  // What was transcoded is near what was lost.
  await db.query(
    `INSERT INTO near_twin SELECT LEAST(a.id, l.id), GREATEST(a.id, l.id), 0.02, 0.03 ${original} WHERE l.added_ms MOD 10 IN (6, 7)`,
  );
  // For the joins, which look for sizes too.
  await db.query('ALTER TABLE asset ADD KEY by_bytes (bytes)');
  await db.query('ANALYZE TABLE asset');
}

/** Finds the lost ones as a search does before it walks: from the catalogue alone. */
async function planned(db: Served['db'], storageId: number) {
  const ids = (
    await db.query<{ id: number }>(`SELECT id FROM asset WHERE shelf_state = 'missing'`, { type: QueryTypes.SELECT })
  ).map(({ id }) => id);
  const lost = [...(await lostFiles(db, ids)).values()];
  const places = [{ storageId, folder: '', deep: true }];
  const found = (await catalogued(db, lost, { names: '', passOver: [], places })).map(({ assetId, facts }) => ({
    ...{ key: String(assetId), facts, owner: assetId, isItsFile: true },
  }));
  const seen = await withSemblances(db, { lost, candidates: found });
  return { candidates: found.length, plan: planRelink(seen.lost, seen.candidates) };
}

/** So many assets are compared with all that are as long. */
const NOTED = 40;

/** How long it takes to find what an asset is near to, as its renditions are made. */
async function near(db: Served['db'], print: (figure: Figure) => void): Promise<void> {
  const times: number[] = [];
  let compared = 0;
  for (let at = 0; at < NOTED; at += 1) {
    const id = 1 + at * 21_013;
    const own = (await semblancesOf(db, [id])).get(id);
    if (!own) throw new Error('an asset without its looks');
    times.push(1000 * (await seconds(() => noteSemblance(db, { id, kind: 'video' }, own))));
    const [row] = await db.query<{ count: number }>(
      'SELECT COUNT(*) AS count FROM asset_semblance WHERE length_ms BETWEEN :from AND :to',
      { replacements: { from: own.lengthMs - 250, to: own.lengthMs + 250 }, type: QueryTypes.SELECT },
    );
    compared += Number(row?.count ?? 0);
  }
  const peer = 1000 * (await seconds(() => db.query('SELECT MAX(CRC32(picture)) FROM asset_semblance')));
  const time = median(times);
  print({
    ...{
      name: 'relink.near',
      value: round(time),
      unit: `ms an asset, each with ${Math.round(compared / NOTED)} of its length`,
    },
    ...{ peer: `reading all of them in the database, ${Math.round(peer)} ms`, ratio: round(time / peer) },
  });
}

/** The most memory that this process takes while it does something, in bytes. */
async function peak<T>(work: () => Promise<T>): Promise<{ readonly value: T; readonly bytes: number }> {
  global.gc?.();
  let [bytes, over] = [0, false];
  const watched = (async () => {
    while (!over) {
      bytes = Math.max(bytes, process.memoryUsage().rss);
      await later(20);
    }
  })();
  const value = await work();
  over = true;
  await watched;
  return { value, bytes };
}

const seconds = async (work: () => Promise<unknown>): Promise<number> => {
  const began = performance.now();
  await work();
  return (performance.now() - began) / 1000;
};

/** As the list of twins is made anew by the database alone. */
const GROUPED = `SELECT COUNT(*) AS twins FROM (SELECT fingerprint FROM asset WHERE fingerprint IS NOT NULL GROUP BY fingerprint, bytes HAVING COUNT(*) > 1
  UNION ALL SELECT reel FROM asset WHERE reel IS NOT NULL GROUP BY kind, reel, start_frame, duration_frames, rate_num, rate_den, drop_frame HAVING COUNT(*) > 1) g`;

/** How long the list of twins takes at first, and again after each change of the library. */
async function twins(db: Served['db'], personId: number, print: (figure: Figure) => void): Promise<void> {
  const list = () => twinList(db, { offset: 0, limit: 25 });
  const first = await seconds(list);
  const followed: number[] = [];
  for (let run = 0; run < FOLLOWED; run += 1) {
    await write(db, personId, ({ log }) => {
      log({ action: 'edit', entity: 'asset', entityId: 1 + run * 97 });
      return Promise.resolve();
    });
    followed.push(await seconds(list));
  }
  const { total } = await list();
  const peer = await seconds(() => db.query(GROUPED, { type: QueryTypes.SELECT }));
  const told = `grouping all in the database, ${round(peer)} s`;
  const unit = `s, ${total} groups of ${CATALOGUED} assets`;
  print({ name: 'relink.twins.first', value: round(first), unit, peer: told, ratio: round(first / peer) });
  const after = median(followed);
  print({ name: 'relink.twins.followed', value: round(after), unit, peer: told, ratio: round(after / peer) });
}

/** How long a plan for 10,000 lost files takes among a million, and joins on name and size in the same database. */
export async function plan(print: (figure: Figure) => void): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'larder-bench-'));
  const library = await Library.open({ home: new Home(join(folder, 'home')), port: 0, demoPassword: null });
  try {
    await library.withModels(async (db) => {
      const { id } = await ensurePerson('keeper', 'Keeper', 'manager', PASSWORD);
      const { id: storageId } = await addStorage(db, id, { name: 'Large', rootPath: folder });
      await fill(db, storageId);
      const times: number[] = [];
      const peers: number[] = [];
      const peaks: number[] = [];
      let right = 0;
      let found = 0;
      for (let run = 0; run < RUNS; run += 1) {
        const { bytes } = await peak(async () => {
          times.push(
            await seconds(async () => {
              const { candidates, plan: proposals } = await planned(db, storageId);
              found = candidates;
              right = proposals.filter(({ matches: [first] }) => first && first.likeness !== 'lookalike').length;
            }),
          );
        });
        peaks.push(bytes / MB);
        peers.push(
          await seconds(() =>
            db.query(
              `SELECT l.id, c.id AS found FROM asset l JOIN asset c ON c.name = l.name AND c.id <> l.id AND c.shelf_state = 'online' WHERE l.shelf_state = 'missing'
               UNION SELECT l.id, c.id FROM asset l JOIN asset c ON c.bytes = l.bytes AND c.id <> l.id AND c.shelf_state = 'online' WHERE l.shelf_state = 'missing'`,
              { type: QueryTypes.SELECT },
            ),
          ),
        );
      }
      const [time, peer] = [median(times), median(peers)];
      const unit = `s for ${LOST} lost of ${CATALOGUED}, ${found} candidates, ${right} exact or equivalent`;
      const told = (each: number) => `joins on name and on size, ${round(each)} s`;
      print({ name: 'relink.plan', value: round(time), unit, peer: told(peer), ratio: round(time / peer) });
      print({ name: 'relink.plan.memory', value: Math.round(median(peaks)), unit: 'MB', peer: null, ratio: null });
      print({
        name: 'relink.vsSql',
        value: round(peer / time),
        unit: 'times as quick',
        peer: told(peer),
        ratio: round(peer / time),
      });
      await twins(db, id, print);
      await near(db, print);
    });
  } finally {
    await library.stop();
    rmSync(folder, { recursive: true, force: true, maxRetries: 5 });
  }
}
