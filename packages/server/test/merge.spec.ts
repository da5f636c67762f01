import { copyFileSync, mkdirSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { openDatabase } from '@larder/server';
import { makeClip, allJobsEnded, mended, planned, scanned, TestLibrary, treeHash, type Client } from './kit';
import { waveHeader } from './wave';

let library: TestLibrary;
let manager: Client;
let editor: Client;
let shelf: string;
let storageId: number;
/** Three of one recording: two with the same bytes, one in another form; and one that is alone. */
let [first, second, other, alone] = [0, 0, 0, 0];

const find = async (query: string): Promise<readonly number[]> => {
  const { revision: atLeast } = await manager.call('rows', { ids: [] });
  return (await manager.call('searchIds', { query, atLeast })).ids;
};
const asset = async (id: number) => (await manager.call('rows', { ids: [id] })).assets[0];
const edit = (id: number, set: Record<string, unknown>, addTags: string[] = []) =>
  editor.call('edit', {
    ...{ assetIds: [id], seenRevision: Number.MAX_SAFE_INTEGER, set: set as never, addTags, removeTags: [] },
  });
const mark = (id: number, name: string) =>
  editor.call('newMarker', { kind: 'note', start: 3, end: null, name, note: '', colour: 'red' } as never, id);
const keep = (kept: number, ...others: number[]) => manager.call('keepTwins', { groups: [{ keep: kept, others }] });

/** All that hangs on the two, wherever it hangs. */
async function everything() {
  const of = async (id: number) => {
    const row = await asset(id);
    if (!row) return null;
    const { bins, description, name, notes, parentId, path, state, storage, tags, title, verdict } = row;
    return {
      ...{ bins, description, name, notes, parentId, path, state, storage, tags, title, verdict },
      markers: (await manager.call('markers', null, id)).markers.map(({ id: marker, name: named, start }) => [
        marker,
        named,
        start,
      ]),
      subclips: (await manager.call('subclips', null, id)).assets.map((each) => [each.id, each.inPlace]),
      transcripts: (await manager.call('transcript', { source: null }, id)).shown?.words.map(({ text }) => text),
      places: (await manager.call('locations', null, id)).locations.map((place) => place.path),
      checks: (await manager.call('fixityOf', null, id)).checks.length,
    };
  };
  const { items } = await manager.call('stringOut', null, stringOut);
  return {
    first: await of(first),
    second: await of(second),
    cuts: items.map((item) => [item.assetId, item.in, item.out]),
  };
}
let stringOut = 0;
const ALL = { offset: 0, limit: 25 };

beforeAll(async () => {
  library = await TestLibrary.start();
  [manager, editor] = [await library.as('manager'), await library.as('editor')];
  shelf = library.shelf('shelf');
  const clip = (path: string, tone: number) =>
    makeClip(join(shelf, path), { seconds: 1, reel: 'A001', timecode: '01:00:00:00', tone });
  clip('card/A001C001.mov', 300);
  mkdirSync(join(shelf, 'copy'));
  copyFileSync(join(shelf, 'card/A001C001.mov'), join(shelf, 'copy/again.mov'));
  clip('edit/A001C001.mov', 500);
  makeClip(join(shelf, 'card/B001C001.mov'), {
    ...{ seconds: 1, reel: 'B001', timecode: '02:00:00:00', tone: 400, picture: 'smptebars' },
  });
  ({ storageId } = await scanned(manager, 'Shelf', shelf));
  await allJobsEnded(manager);
  [first, second, other, alone] = (await Promise.all(
    ['path:card A001C001', 'again', 'path:edit', 'B001C001'].map(async (query) => (await find(query))[0] ?? 0),
  )) as [number, number, number, number];
});
afterAll(() => library.stop(), 60_000);

describe('the list of twins', () => {
  it('tells what is catalogued more than once: the same bytes, and the same frames in another form', async () => {
    const { groups, total } = await manager.call('twinList', ALL);
    const told = groups.map(({ likeness, twins }) => [likeness, twins.map((twin) => twin.asset.id).sort()]);
    expect(total).toBe(2);
    expect(told).toEqual(
      expect.arrayContaining([
        ['ends', [first, second].sort()],
        ['equivalent', [first, second, other].sort()],
      ]),
    );
    expect((await manager.call('twinList', { offset: 1, limit: 1 })).groups).toHaveLength(1);
  });

  it('suggests the one that most is said of and made with', async () => {
    await edit(second, { title: 'Lock' });
    const { groups } = await manager.call('twinList', ALL);
    expect(groups.find(({ likeness }) => likeness === 'ends')?.suggested).toBe(second);
  });
});

describe('files that are as long, and begin and end alike', () => {
  it('are told apart once they were read whole, as stems of one piece of music', async () => {
    const stem = (name: string, value: number) => {
      const samples = Buffer.alloc(400_000);
      samples.writeInt16LE(value, 200_000);
      writeFileSync(join(shelf, name), Buffer.concat([waveHeader(samples.length), samples]));
    };
    stem('drums.wav', 1000);
    stem('bass.wav', -1000);
    await scanned(manager, 'Shelf', shelf);
    await allJobsEnded(manager);
    const stems = [(await find('name:drums'))[0] ?? 0, (await find('name:bass'))[0] ?? 0];
    const told = async () =>
      (await manager.call('twinList', ALL)).groups.map(({ likeness, twins }) => [
        likeness,
        twins.map((twin) => twin.asset.id).sort(),
      ]);
    expect(await told()).toContainEqual(['ends', stems.toSorted()]);
    await manager.call('verify', { assetIds: [...stems, first, second] });
    await allJobsEnded(manager);
    expect(await told()).toEqual(
      expect.arrayContaining([
        ['exact', [first, second].sort()],
        ['equivalent', [first, second, other].sort()],
      ]),
    );
    expect(await told()).toHaveLength(2);
    const [drums = 0, bass = 0] = stems;
    // One that came since may be any of them, until it was read too.
    stem('keys.wav', 1000);
    await scanned(manager, 'Shelf', shelf);
    await allJobsEnded(manager);
    const [keys = 0] = await find('name:keys');
    expect(await told()).toContainEqual(['open', [drums, bass, keys].toSorted((a, b) => a - b)]);
    expect(await manager.refused('keepTwins', { groups: [{ keep: drums, others: [keys] }] })).toMatchObject({
      error: { code: 'refused' },
    });
    await manager.call('verify', { assetIds: [keys] });
    await allJobsEnded(manager);
    expect(await told()).toContainEqual(['exact', [drums, keys].toSorted((a, b) => a - b)]);
    await keep(drums, keys);
    expect(await told()).toHaveLength(2);
    // Nor is one of them taken for another that is lost, only since its ends are the same.
    renameSync(join(shelf, 'bass.wav'), join(shelf, 'x.wav'));
    await scanned(manager, 'Shelf', shelf);
    const { items } = await planned(manager, { places: [{ storageId, folder: '', deep: true }] });
    expect(items).toMatchObject([{ assetId: bass, state: 'decide' }]);
    expect(items[0]?.matches.map(({ likeness }) => likeness)).not.toContain('exact');
    renameSync(join(shelf, 'x.wav'), join(shelf, 'bass.wav'));
    await scanned(manager, 'Shelf', shelf);
    expect(await manager.refused('keepTwins', { groups: [{ keep: drums, others: [bass] }] })).toMatchObject({
      error: { code: 'refused' },
    });
  });
});

describe('one of twins that is kept', () => {
  it('has all that was said of the other, and made with it; files stay where they are', async () => {
    await edit(first, { title: 'Weir', notes: 'wet' }, ['dawn', 'boat']);
    await edit(second, { notes: 'cold', verdict: 'circled' }, ['dawn', 'bell']);
    for (const [id, name] of [
      [first, 'Gate'],
      [second, 'Gate'],
      [second, 'Bell'],
    ] as const)
      await mark(id, name);
    await editor.call('newSubclip', { name: 'Part', in: 5, out: 15 }, second);
    const bins = await Promise.all(['Both', 'Only'].map((name) => editor.call('newBin', { name, parentId: null })));
    await editor.call('binAssets', { add: [first, second], remove: [] }, bins[0]?.id);
    await editor.call('binAssets', { add: [second], remove: [] }, bins[1]?.id);
    const project = await manager.call('newProject', { name: 'Film', description: null, counting: '25' });
    ({ id: stringOut } = await editor.call('newStringOut', {
      ...{ name: 'Cut', projectId: project.id, assetIds: [second, alone, first] },
    }));
    const files = treeHash(shelf);
    const before = await everything();
    const renditions = (await asset(first))?.renditions;

    await keep(first, second);
    expect(await asset(second)).toBeUndefined();
    const after = await everything();
    expect(after).toEqual({
      second: null,
      cuts: [
        [first, 0, 25],
        [alone, 0, 25],
        [first, 0, 25],
      ],
      first: {
        ...before.first,
        ...{ title: 'Weir', verdict: 'circled', notes: 'wet\ncold\nagain.mov said: Title: Lock' },
        ...{ bins: ['Both', 'Only'], tags: ['bell', 'boat', 'dawn'], subclips: before.second?.subclips },
        markers: [...(before.first?.markers ?? []), before.second?.markers.find(([, name]) => name === 'Bell')],
        ...{ places: ['copy/again.mov'], checks: 2 },
      },
    });
    expect((await asset(first))?.renditions).toEqual(renditions);
    expect(await find('name:again')).toEqual([]);
    expect(await find('bell verdict:circled')).toEqual([first]);
    expect((await manager.call('twinList', ALL)).groups.map(({ likeness }) => likeness)).toEqual(['equivalent']);
    expect(treeHash(shelf)).toBe(files);
    // A scan knows the other place, and makes no new asset of it.
    await scanned(manager, 'Shelf', shelf);
    expect((await find('A001C001')).length).toBe(2);

    await manager.call('undo', {});
    expect(await everything()).toEqual(before);
    await manager.call('redo', null);
    expect(await everything()).toEqual(after);
    await manager.call('undo', {});
    expect(await everything()).toEqual(before);
    expect(await find('name:again')).toEqual([second]);
  });

  it('is not taken apart where an earlier version noted too little for it, and says so', async () => {
    const { group } = await keep(first, second);
    const db = openDatabase(library.library.database.options);
    const change = (how: string) =>
      db.query(`UPDATE change_feed SET before_values = ${how} WHERE change_group = :group AND action = 'fold'`, {
        replacements: { group },
      });
    const [[kept]] = (await db.query(
      `SELECT before_values AS kept FROM change_feed WHERE change_group = :group AND action = 'fold'`,
      { replacements: { group } },
    )) as unknown as [[{ kept: string }]];
    await change(`JSON_REMOVE(before_values, '$.said', '$.cuts')`);
    const before = await everything();
    expect(await manager.refused('undo', { group })).toMatchObject({
      error: {
        reason:
          'This was merged by an earlier version of Neat Larder, which noted too little to take it back. Nothing was undone.',
      },
    });
    expect(await everything()).toEqual(before);
    await change(db.escape(typeof kept.kept === 'string' ? kept.kept : JSON.stringify(kept.kept)));
    await manager.call('undo', { group });
    expect((await asset(second))?.path).toBe('copy/again.mov');
    await db.close();
  });

  it('is left as it is where it was logged anew since: undo is refused, and nothing of it happens', async () => {
    await keep(first, second);
    await edit(first, { notes: 'dry' });
    const before = await everything();
    expect(await manager.refused('undo', {})).toMatchObject({
      error: { code: 'refused', reason: 'A001C001.mov has been logged anew since. Nothing was undone.' },
    });
    expect(await everything()).toEqual(before);
    await editor.call('undo', {});
  });

  it('takes in what was made in another form too, and is undone whatever was marked in it since', async () => {
    const before = await everything();
    const { group } = await keep(first, other);
    await mark(first, 'Since');
    expect((await asset(first))?.state).toBe('online');
    await manager.call('undo', { group });
    const after = await everything();
    expect(after.first?.markers.map(([, name]) => name)).toContain('Since');
    expect({ ...after.first, markers: 0 }).toEqual({ ...before.first, markers: 0 });
    expect(await asset(other)).toMatchObject({ path: 'edit/A001C001.mov', state: 'online' });
  });

  it('is refused where both have a transcript that somebody wrote, and they differ', async () => {
    const spoken = (word: string) => `1\n00:00:00,200 --> 00:00:00,600\n${word}\n`;
    await editor.call('readTranscript', { text: spoken('lock') }, first);
    await editor.call('readTranscript', { text: spoken('weir') }, other);
    const before = await everything();
    expect(await manager.refused('keepTwins', { groups: [{ keep: first, others: [other] }] })).toMatchObject({
      error: {
        reason: expect.stringContaining('both have a transcript that was brought in, and they differ') as string,
      },
    });
    expect(await everything()).toEqual(before);
    await editor.call('readTranscript', { text: spoken('lock') }, other);
    const { group } = await keep(first, other);
    expect((await everything()).first?.transcripts).toEqual(['lock']);
    await manager.call('undo', { group });
    expect((await manager.call('transcript', { source: null }, other)).shown?.words.map(({ text }) => text)).toEqual([
      'lock',
    ]);
  });

  it('refuses what is not of one recording, what is not there, and who may not', async () => {
    expect(await manager.refused('keepTwins', { groups: [{ keep: first, others: [alone] }] })).toMatchObject({
      error: {
        reason: `#${first} and #${alone} are not known to be of one recording, or not any more. Nothing was merged.`,
      },
    });
    expect(await manager.refused('keepTwins', { groups: [{ keep: first, others: [first] }] })).toMatchObject({
      status: 422,
    });
    expect(await editor.refused('keepTwins', { groups: [{ keep: first, others: [other] }] })).toMatchObject({
      status: 403,
    });
    const away = join(library.folder, 'away');
    renameSync(join(shelf, 'card/A001C001.mov'), away);
    await scanned(manager, 'Shelf', shelf);
    expect(await manager.refused('keepTwins', { groups: [{ keep: first, others: [other] }] })).toMatchObject({
      error: {
        reason: 'A001C001.mov is not there itself. Keep one that is, or find it again. Nothing was merged.',
      },
    });
    renameSync(away, join(shelf, 'card/A001C001.mov'));
    await scanned(manager, 'Shelf', shelf);
  });
});

describe('an original that was brought in again while it was missing', () => {
  it('is mended with the other taken into it, if a person says so, and both are as they were with undo', async () => {
    rmSync(join(shelf, 'card/B001C001.mov'));
    makeClip(join(shelf, 'edit/B1.mov'), { seconds: 1, reel: 'B001', timecode: '02:00:00:00', tone: 600 });
    await scanned(manager, 'Shelf', shelf);
    await allJobsEnded(manager);
    const [again = 0] = await find('name:B1');
    await edit(alone, { title: 'Bell' });
    await edit(again, { title: 'Bell again', description: 'Wide.', scene: '7' }, ['bell']);
    await mark(again, 'Late');
    // Its pictures are made again with it.
    const both = async () =>
      [await asset(alone), await asset(again)].map((row) => row && { ...row, posterMadeMs: null });
    const before = await both();
    expect(before).toMatchObject([{ state: 'missing' }, { state: 'online' }]);
    const plan = await planned(manager, { places: [{ storageId, folder: '', deep: true }] });
    expect(plan.items).toMatchObject([
      { assetId: alone, state: 'decide', matches: [{ catalogued: { assetId: again, untouched: false } }] },
    ]);
    const decided = { assetIds: [alone], rule: null, state: null, chosen: null };
    // Accepting all does not take in what somebody has logged.
    const all = { ...decided, assetIds: [], state: 'decide' as const };
    expect((await manager.call('decideRelink', { decision: 'accepted', ...all }, plan.id)).counts.accepted).toBe(0);
    await manager.call('decideRelink', { decision: 'accepted', ...decided }, plan.id);
    expect((await mended(manager, plan.id)).state).toBe('done');
    expect(await both()).toMatchObject([
      {
        ...{ id: alone, path: 'edit/B1.mov', state: 'online', title: 'Bell', description: 'Wide.', tags: ['bell'] },
        ...{ scene: '7', notes: 'B1.mov said: Title: Bell again', markers: ['Late'] },
      },
      undefined,
    ]);
    await manager.call('undo', {});
    await allJobsEnded(manager);
    expect(await both()).toEqual(before);
    await manager.call('redo', null);
    expect((await asset(alone))?.markers).toEqual(['Late']);
    expect(await asset(again)).toBeUndefined();
    await manager.call('undo', {});
    await allJobsEnded(manager);
    expect(await both()).toEqual(before);
    await manager.call('redo', null);
  });
});
