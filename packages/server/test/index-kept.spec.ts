import { mkdtempSync, readdirSync, readFileSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Xxh64 } from '@node-rs/xxhash';
import { Dictionary, readSpoken, SpokenIndex } from '@larder/core/dialogue';
import { parseQuery } from '@larder/core/query';
import { LibraryIndex, type SearchDocument } from '@larder/core/search';
import { dist } from '@larder/command/home';
import { Merger } from '../src/search/merger';
import { IndexSnapshots, type Kept } from '../src/search/snapshot';
import { foundBy, scanned, TestLibrary, until, type Client } from './kit';
import { wave } from './wave';

const { tree } = parseQuery('lock tag:dawn');
const document = (id: number): SearchDocument => ({
  id,
  values: { name: `lock ${id}`, tag: id % 3 === 0 ? ['dawn', 'bell'] : ['dusk'], duration: id * 10 },
});
const sort = { field: 'duration', descending: true } as const;
const answer = (index: LibraryIndex) => index.search({ tree, sort, offset: 0, limit: 50 });

describe('what is kept of an index', () => {
  const folder = mkdtempSync(join(tmpdir(), 'larder-index-'));
  afterAll(() => rmSync(folder, { recursive: true, force: true }));
  const state = { revision: 7, mark: 'a', documents: '1' };
  const pronouncer = new Dictionary('low L OW\nlo L OW\nwater W AO T ER\n');
  const spoken = new SpokenIndex(pronouncer);
  const words = ['low', 'water.'].map((text, at) => ({
    ...{ text, startMs: at * 400, endMs: at * 400 + 300, certainty: 0.5 },
    others: at === 0 ? [{ text: 'lo', certainty: 0.3 }] : [],
  }));
  for (const id of [4, 5, 6]) spoken.upsert([{ id, wholeId: 0, spoken: { words, speakers: [] } }]);
  const index = new LibraryIndex();
  const filling = index.fill();
  filling.add(Array.from({ length: 500 }, (_unused, at) => document(at + 1)));
  filling.done();
  index.remove([3, 6]);
  index.upsert([{ id: 9, values: { name: 'gone elsewhere' } }, document(900)]);

  it('answers as before, and its large part is written once', async () => {
    await new IndexSnapshots(folder).save({ parts: index.keep(), spoken: spoken.keep(), state });
    const kept = await new IndexSnapshots(folder).load();
    expect(kept?.state).toEqual(state);
    const again = new LibraryIndex();
    again.restore(kept?.parts ?? []);
    expect(again.size).toBe(499);
    expect(answer(again)).toEqual(answer(index));
    expect(answer(again).total).toBe(164);
    const heard = SpokenIndex.restored(kept?.spoken ?? spoken.keep(), pronouncer);
    const asked = { items: readSpoken('"lo water"'), how: 'all', withinMs: 0 } as const;
    expect(heard.find(asked, 4, null).notches).toEqual(spoken.find(asked, 4, null).notches);
    expect(heard.find(asked, 4, null).files.map(({ id }) => id)).toEqual([4, 5, 6]);
    const snapshots = new IndexSnapshots(folder);
    await snapshots.load();
    const before = readdirSync(folder).sort();
    again.remove([12]);
    await new IndexSnapshots(folder).save({
      parts: again.keep(),
      spoken: spoken.keep(),
      state: { ...state, revision: 8 },
    });
    expect(readdirSync(folder)).toHaveLength(before.length);
    expect((await new IndexSnapshots(folder).load())?.state.revision).toBe(8);
  });

  it.each<[string, (file: string) => void]>([
    ['cut off', (file) => truncateSync(file, readFileSync(file).length - 5)],
    [
      'changed in one bit',
      (file) => {
        const bytes = readFileSync(file);
        bytes[bytes.length >> 1] = (bytes[bytes.length >> 1] ?? 0) ^ 1;
        writeFileSync(file, bytes);
      },
    ],
    ['gone', (file) => rmSync(file)],
    ['empty', (file) => truncateSync(file, 0)],
  ])('is not used where a segment is %s', async (_what, damage) => {
    await new IndexSnapshots(folder).save({ parts: index.keep(), spoken: spoken.keep(), state });
    const [file] = readdirSync(folder).filter((name) => name.endsWith('.bin'));
    damage(join(folder, file ?? ''));
    expect(await new IndexSnapshots(folder).load()).toBeNull();
  });

  it.each<[string, (text: string) => string]>([
    ['is empty', () => ''],
    ['is no list of segments', () => '{}'],
    ['names another file', (text) => text.replace(/segment-[^"]*/, '../../etc/passwd')],
    ['says that other documents are gone', (text) => text.replace(/"dead":"[^"]*"/, '"dead":"AAAA"')],
    ['is cut off', (text) => text.slice(0, -20)],
  ])('is not used where the manifest %s', async (_what, change) => {
    await new IndexSnapshots(folder).save({ parts: index.keep(), spoken: spoken.keep(), state });
    const file = join(folder, 'index.txt');
    writeFileSync(file, change(readFileSync(file, 'utf8')));
    expect(await new IndexSnapshots(folder).load()).toBeNull();
  });

  it('is not used where it is of another form, though whole', async () => {
    const text = JSON.stringify({ version: 2, segments: [] });
    writeFileSync(join(folder, 'index.txt'), `${new Xxh64(0n).update(text).digest().toString(16)}\n${text}`);
    expect(await new IndexSnapshots(folder).load()).toBeNull();
  });
});

describe('merging in a thread of its own', () => {
  it('goes on while the index changes, and loses nothing', async () => {
    const sizes = { fresh: 8, fan: 4, quick: 32, besideShare: 0.1, besideLeast: 50, deadShare: 0.2 };
    const index = new LibraryIndex(undefined, undefined, sizes);
    const plain = new LibraryIndex();
    const put = (documents: readonly SearchDocument[]) => [index, plain].forEach((each) => each.upsert(documents));
    for (let at = 0; at < 400; at += 20) put(Array.from({ length: 20 }, (_unused, n) => document(at + n + 1)));
    const merger = new Merger(dist('merge-thread.mjs'), index);
    const merging = merger.mergeIfDue();
    // One at a time.
    expect(await merger.mergeIfDue()).toBe(false);
    [index, plain].forEach((each) => each.remove([30, 60]));
    put([{ id: 90, values: { name: 'lock again' } }]);
    expect(await merging).toBe(true);
    expect(answer(index)).toEqual(answer(plain));
    expect(index.size).toBe(398);
  });

  it('leaves the index as it is where it fails', async () => {
    const index = new LibraryIndex(undefined, undefined, {
      fresh: 1,
      fan: 2,
      quick: 1,
      besideShare: 0,
      besideLeast: 1,
      deadShare: 0.2,
    });
    index.upsert([document(3), document(6)]);
    index.upsert([document(9), document(12)]);
    const before = answer(index);
    expect(await new Merger(dist('no-such-script.mjs'), index).mergeIfDue()).toBe(false);
    expect(answer(index)).toEqual(before);
    expect(await new Merger(dist('merge-thread.mjs'), index).mergeIfDue()).toBe(true);
    expect(answer(index)).toEqual(before);
  });
});

describe('a library that is started again', () => {
  let library: TestLibrary;
  let maren: Client;
  beforeAll(async () => {
    library = await TestLibrary.start(1);
    maren = await library.as('manager');
    for (let n = 0; n < 5; n += 1) writeFileSync(join(library.shelf('sound'), `lock ${n}.wav`), wave(n));
    await scanned(maren, 'Sound', library.shelf('sound'));
  }, 120_000);
  afterAll(() => library.stop(), 60_000);

  it('goes on from what it kept, with what was written meanwhile, and builds anew what is damaged', async () => {
    const found = async (query: string) => (await maren.call('searchIds', { query })).ids.length;
    const tag = async (name: string) => {
      const { ids, revision } = await maren.call('searchIds', { query: 'lock' });
      await maren.call('edit', {
        assetIds: [...ids],
        seenRevision: revision,
        set: {},
        addTags: [name],
        removeTags: [],
      });
    };
    await until('the sounds', () => foundBy(maren, 'lock', 5));
    await tag('dawn');
    await until('the tag', async () => (await found('tag:dawn')) === 5);
    const folder = library.library.options.home.at('index');
    const segments = () => readdirSync(folder).filter((name) => name.endsWith('.bin'));
    const again = async (meanwhile?: () => void | Promise<void>) => {
      library = await library.again(meanwhile);
      maren = await library.as('manager');
    };
    await again();
    expect(await found('tag:dawn')).toBe(5);
    await tag('dusk');
    await until('the tag', async () => (await found('tag:dusk')) === 5);
    await again();
    expect(await found('tag:dawn tag:dusk')).toBe(5);
    await again(() => segments().forEach((name) => truncateSync(join(folder, name), 100)));
    expect(await found('tag:dawn tag:dusk')).toBe(5);
    // Of another library, as after a copy was put back: the change that it ended with is not there.
    await again(async () => {
      const snapshots = new IndexSnapshots(folder);
      const kept = (await snapshots.load()) as Kept;
      expect(kept.state.mark).toEqual(expect.any(String));
      await snapshots.save({ ...kept, parts: [], state: { ...kept.state, mark: 'of another' } });
    });
    expect(await found('tag:dawn tag:dusk')).toBe(5);
  }, 120_000);
});
