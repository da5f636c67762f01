import { mkdirSync, mkdtempSync, renameSync, rmSync, symlinkSync, utimesSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import fc from 'fast-check';
import { folderOf } from '@larder/core/shelf';
import { lookOver, type Look } from '../src/jobs/scan-look';
import { digestOf, folderDigests, knownIn, sameDigest, storageDigest, together } from '../src/store/shelf-digest';
import { quickWalk, QuickWalkFailed } from '../src/media/quick-walk';
import { walk, type WalkOptions } from '../src/media/walk';
import { type Client, scanned, TestLibrary } from './kit';
import { wave } from './wave';

let library: TestLibrary;
let manager: Client;
let card: string;
let storageId: number;

const lay = (path: string, content: Buffer) => {
  mkdirSync(dirname(join(card, path)), { recursive: true });
  writeFileSync(join(card, path), content);
};

/** Names that sort, fold or are reckoned differently by a database that is not told otherwise. */
const NAMES = [
  'a.wav',
  'A.wav',
  'ä.wav',
  'day 1/a.wav',
  'Day 1/a.wav',
  'day 1/𝄞 bell.wav',
  'day 1&/x.wav',
  'day 1/in/b.wav',
];

beforeAll(async () => {
  library = await TestLibrary.start(1);
  manager = await library.as('manager');
  card = library.shelf('card');
  NAMES.forEach((name, n) => lay(name, wave(n)));
  ({ storageId } = await scanned(manager, 'Card', card));
}, 120_000);
afterAll(() => library.stop(), 60_000);

const look = (folders = [{ path: '', deep: true }], kind: 'local' | 'network' = 'local'): Promise<Look> =>
  library.library.withModels((db) =>
    lookOver(
      { db, signal: new AbortController().signal, report: () => undefined },
      { id: storageId, rootPath: card, kind },
      folders,
    ),
  );
const differing = async (folders?: { path: string; deep: boolean }[]) =>
  (await look(folders)).differing.map(({ folder }) => folder).sort();

describe('a first look at folders', () => {
  it('sees nothing to do where all is as it was', async () => {
    expect(await look()).toEqual({
      seen: NAMES.length,
      known: NAMES.length,
      unchanged: NAMES.length,
      differing: [],
      gone: [],
      unreadable: [],
      unnameable: [],
    });
  });

  it('finds the folder in which one thing is new, gone, larger, renamed or of another time', async () => {
    const path = join(card, 'day 1/a.wav');
    lay('day 1/in/new.wav', wave(20));
    expect(await differing()).toEqual(['day 1/in']);
    expect(await differing([{ path: 'day 1', deep: false }])).toEqual([]);
    rmSync(join(card, 'day 1/in/new.wav'));
    renameSync(path, join(card, 'day 1/b.wav'));
    expect(await differing()).toEqual(['day 1']);
    renameSync(join(card, 'day 1/b.wav'), path);
    expect(await differing()).toEqual([]);
    utimesSync(path, 1, 1);
    expect(await differing()).toEqual(['day 1']);
    renameSync(join(card, 'Day 1'), join(card, '.away'));
    expect((await look()).gone).toEqual(['Day 1']);
    renameSync(join(card, '.away'), join(card, 'Day 1'));
  });

  it('a file with the same bytes under another time is read once, and then known by that time', async () => {
    const { job } = await scanned(manager, 'Card', card);
    expect(job.state).toBe('done');
    expect(await differing()).toEqual([]);
    const { total } = await manager.call('search', { query: 'is:online', limit: 0 });
    expect(total).toBe(NAMES.length);
  });

  it('looks again at a folder in which something is missing, though the rest is as it was', async () => {
    rmSync(join(card, 'ä.wav'));
    await scanned(manager, 'Card', card);
    expect(await differing()).toEqual(['']);
    lay('ä.wav', wave(2));
    await scanned(manager, 'Card', card);
    expect(await differing()).toEqual([]);
  });
});

describe('what the catalogue has of folders', () => {
  it('is reckoned by the database as the disk is, and given out folder by folder', () =>
    library.library.withModels(async (db) => {
      const digests = await folderDigests(db, storageId);
      expect([...digests.keys()].sort()).toEqual([...new Set(NAMES.map(folderOf))].sort());
      for (const [folder, digest] of digests) {
        const known = await knownIn(db, storageId, folder);
        expect(known.map(({ path }) => path).sort()).toEqual(NAMES.filter((name) => folderOf(name) === folder).sort());
        expect(sameDigest(digest, digestOf(known))).toBe(true);
      }
      const all = [...digests.values()].reduce((sum, each) => together(sum, each));
      expect(await storageDigest(db, storageId)).toEqual(all);
      expect(await storageDigest(db, 999)).toEqual({ files: 0, high: 0, low: 0, settled: true });
    }));

  it('is told apart whenever two lists are not the same, whatever was swapped between files', () => {
    const files = fc.uniqueArray(
      fc.record({ path: fc.constantFrom('a', 'b', 'c', 'd'), bytes: fc.nat(3), modifiedMs: fc.nat(3) }),
      { selector: ({ path }) => path },
    );
    const text = (list: readonly object[]) => JSON.stringify(list.map((each) => JSON.stringify(each)).sort());
    fc.assert(
      fc.property(files, files, (a, b) => sameDigest(digestOf(a), digestOf(b)) === (text(a) === text(b))),
      { numRuns: 3000 },
    );
  });
});

type Way = (root: string, folder: string, options: Omit<WalkOptions, 'onUnreadable'>) => ReturnType<typeof walk>;

describe('the two ways of walking', () => {
  const STEPS = ['a', 'B', 'lost+FOUND', '.hidden', 'day 1', 'ünter', 'new\nline'];
  const FILES = [
    'x.wav',
    'X.wav',
    'x.xmp',
    's_001.png',
    's_002.png',
    's_003.png',
    'note.txt',
    '.y.wav',
    '-z.wav',
    'Thumbs.DB',
  ];
  const folders = fc.array(fc.constantFrom(...STEPS), { maxLength: 3 });
  const trees = fc.array(fc.tuple(folders, fc.constantFrom(...FILES), fc.nat(2000)), { maxLength: 30 });
  const gather = async (way: Way, root: string, deep: boolean) => {
    const all: unknown[] = [];
    const unnameable: unknown[] = [];
    const onUnnameable = (folder: string, things: number) => void unnameable.push(`${folder} ${things}`);
    for await (const items of way(root, '', { deep, onUnnameable })) all.push(JSON.stringify(items));
    return [all.sort(), unnameable.sort()];
  };

  it('find the same things, by the same sizes and times', () =>
    fc.assert(
      fc.asyncProperty(trees, fc.boolean(), async (tree, deep) => {
        const root = mkdtempSync(join(tmpdir(), 'larder-walk-'));
        for (const [steps, name, seed] of tree) {
          const folder = join(root, ...steps);
          mkdirSync(folder, { recursive: true });
          writeFileSync(join(folder, name), 'x'.repeat(seed));
          utimesSync(join(folder, name), seed, 1_700_000_000 + seed / 7);
        }
        if (tree.length > 10) {
          mkdirSync(Buffer.concat([Buffer.from(root), Buffer.from('/odd-\xe9', 'latin1')]));
          writeFileSync(Buffer.concat([Buffer.from(root), Buffer.from('/odd-\xe9/in.wav', 'latin1')]), '');
          writeFileSync(Buffer.concat([Buffer.from(root), Buffer.from('/odd-\xe8.wav', 'latin1')]), '');
          symlinkSync(root, join(root, 'round.wav'));
        }
        try {
          expect(await gather(quickWalk, root, deep)).toEqual(await gather(walk, root, deep));
        } finally {
          rmSync(root, { recursive: true });
        }
      }),
      { numRuns: 60 },
    ));

  it('the quick one fails as a whole where something is not there', async () => {
    await expect(gather(quickWalk, join(card, 'nowhere'), true)).rejects.toBeInstanceOf(QuickWalkFailed);
  });

  it('a storage on the network is walked with many questions at once, to the same end', async () => {
    expect(await look(undefined, 'network')).toEqual(await look());
  });
});
