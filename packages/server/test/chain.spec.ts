import { execFileSync } from 'node:child_process';
import {
  copyFileSync,
  mkdirSync,
  readFileSync,
  renameSync,
  rmSync,
  truncateSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { insertChunks, writeBext, writeIxml } from '@larder/core/interchange/bwf';
import type { FieldChanges } from '@larder/core/fields';
import type { RunMarker } from '@larder/core/sequence';
import { FILE_PATHS, type Asset, type HandedOver } from '@larder/contract';
import { allJobsEnded, makeClip, mended, planned, scanned, TestLibrary, treeHash, until, type Client } from './kit';

let library: TestLibrary;
let manager: Client;
let editor: Client;
let shelf: string;

const find = async (query: string): Promise<readonly Asset[]> => {
  const { revision } = await manager.call('status', null);
  return (await manager.call('search', { query, limit: 500, atLeast: revision })).assets;
};
const one = async (query: string): Promise<Asset> => {
  const [asset, ...more] = await find(query);
  if (!asset || more.length > 0) throw new Error(`${query} finds ${more.length + (asset ? 1 : 0)}`);
  return asset;
};

beforeAll(async () => {
  library = await TestLibrary.start();
  [manager, editor] = [await library.as('manager'), await library.as('editor')];
  shelf = library.shelf('shelf');
  makeClip(join(shelf, 'A001/A001C001.mov'), {
    timecode: '01:00:00:00',
    reel: 'A001',
    tone: 300,
    more: ['-metadata', 'location=+50.4120-003.5180/', '-metadata', 'creation_time=2026-05-03T05:40:00Z'],
  });
  makeClip(join(shelf, 'A001/A001C002.mov'), { timecode: '01:00:10:00', reel: 'A001', seconds: 2, tone: 400 });
  makeClip(join(shelf, 'A001/drop.mov'), { rate: '30000/1001', timecode: '10:00:00;00', seconds: 2, tone: 500 });
  makeClip(join(shelf, 'plain_picture.mp4'), { tone: 600 });
  execFileSync('ffmpeg', [
    ...'-v error -y -f lavfi -i sine=f=200:d=1:r=48000 -c:a pcm_s16le'.split(' '),
    join(shelf, 'plain.wav'),
  ]);
  const bext = writeBext({
    description: '',
    originator: 'Recorder',
    originatorReference: '',
    originationDate: '2026-05-03',
    originationTime: '09:41:07',
    timeReferenceSamples: 34_867 * 48_000,
    version: 1,
    codingHistory: '',
  });
  const ixml = writeIxml({
    project: null,
    scene: '12',
    take: '3',
    tape: 'S01',
    note: null,
    circled: true,
    tracks: new Map(),
  });
  writeFileSync(
    join(shelf, 'take.wav'),
    insertChunks(readFileSync(join(shelf, 'plain.wav')), [
      { id: 'bext', content: bext },
      { id: 'iXML', content: new TextEncoder().encode(ixml) },
    ]),
  );
  mkdirSync(join(shelf, 'titles'));
  execFileSync('ffmpeg', [
    ...'-v error -y -f lavfi -i testsrc2=s=64x36:r=25:d=1 -start_number 1001'.split(' '),
    join(shelf, 'titles/open_%04d.png'),
  ]);
  copyFileSync(join(shelf, 'A001/A001C001.mov'), join(shelf, 'cut.mov'));
  truncateSync(join(shelf, 'cut.mov'), 3000);
  writeFileSync(join(shelf, 'empty.mov'), '');
  writeFileSync(join(shelf, 'notes.txt'), 'not footage');
}, 180_000);
afterAll(() => library.stop(), 60_000);

const markerOn = (itemId: string, start: number): RunMarker => ({
  ...{ id: `${itemId} ${start}`, itemId, start, end: null, kind: 'note', colour: 'red' },
  ...{ name: 'She laughs', note: 'at last', by: 'somebody else' },
});

describe('scanning', () => {
  let before: string;
  it('catalogues everything, and goes on past what cannot be read', async () => {
    before = treeHash(shelf);
    const { job } = await scanned(manager, 'Shelf', shelf);
    expect(job).toMatchObject({ state: 'done', done: 9, total: 9 });
    expect((await find('')).map((asset) => `${asset.kind} ${asset.path}`)).toEqual([
      'video A001/A001C001.mov',
      'video A001/A001C002.mov',
      'unreadable cut.mov',
      'video A001/drop.mov',
      'unreadable empty.mov',
      'sequence titles/open_1001.png',
      'video plain_picture.mp4',
      'audio plain.wav',
      'audio take.wav',
    ]);
    for (const asset of await find('kind:unreadable')) expect(asset.reason).toMatch(/\w/);
  });
  it('reads what the files say, exactly', async () => {
    expect(await one('name:A001C001')).toMatchObject({
      reel: 'A001',
      startFrame: 90_000,
      durationFrames: 25,
      rate: { num: 25, den: 1, dropFrame: false },
      logged: { position: '50.4120, -3.5180' },
      shotMs: Date.UTC(2026, 4, 3, 5, 40),
      sound: { channels: 1 },
    });
    // 10:00:00;00 of drop-frame is frame 1,078,920 (SMPTE ST 12-1: 107,892 frames an hour).
    expect(await one('name:drop')).toMatchObject({
      startFrame: 1_078_920,
      durationFrames: 60,
      rate: { num: 30_000, den: 1001, dropFrame: true },
    });
    expect(await one('name:take')).toMatchObject({
      scene: '12',
      take: '3',
      reel: 'S01',
      timeReferenceSamples: 34_867 * 48_000,
      shotMs: Date.UTC(2026, 4, 3, 9, 41, 7),
      durationMs: 1000,
    });
    expect(await one('kind:sequence')).toMatchObject({
      name: 'open_[1001-1025].png',
      files: 25,
      durationFrames: 25,
      width: 64,
    });
  });
  it('makes renditions, the proxy with the same frames at the same rate', async () => {
    await allJobsEnded(manager);
    for (const asset of await find('kind:video or kind:sequence')) {
      expect(asset.renditions).toEqual(expect.arrayContaining(['poster', 'filmstrip', 'proxy']));
      const response = await manager.raw('GET', `/files/${asset.id}/proxy`);
      const path = join(library.folder, 'proxy.mp4');
      writeFileSync(path, Buffer.from(await response.arrayBuffer()));
      const said = execFileSync(
        'ffprobe',
        [
          ...'-v error -select_streams v:0 -count_frames -show_entries stream=nb_read_frames,r_frame_rate -of csv=p=0'.split(
            ' ',
          ),
          path,
        ],
        { encoding: 'utf8' },
      ).trim();
      expect(said).toBe(`${asset.rate?.num}/${asset.rate?.den},${asset.durationFrames}`);
    }
    expect((await one('name:take')).renditions.toSorted()).toEqual(['peaks', 'proxy']);
    expect((await manager.call('jobs', null)).jobs.filter((job) => job.state === 'failed')).toEqual([]);
  });
  it('answers byte ranges, which players seek with', async () => {
    const { id } = await one('name:A001C001');
    const response = await manager.raw('GET', `/files/${id}/original`, undefined, { range: 'bytes=4-7' });
    expect(response.status).toBe(206);
    expect(await response.text()).toBe('ftyp');
  });
  it('finds nothing new the second time, and has written nothing on the shelf', async () => {
    await scanned(manager, 'Shelf', shelf);
    expect(await find('')).toHaveLength(9);
    expect(treeHash(shelf)).toBe(before);
  });
});

describe('logging', () => {
  it('sets fields and tags on many at once; spellings of one tag are one tag', async () => {
    const ids = (await find('name:A001C*')).map((asset) => asset.id);
    const { revision } = await manager.call('status', null);
    const written = await editor.call('edit', {
      assetIds: ids,
      seenRevision: revision,
      set: { verdict: 'circled' },
      addTags: ['Dawn', 'écluse'],
      removeTags: [],
    });
    expect(written.changed).toBe(2);
    await editor.call('edit', {
      assetIds: [ids[0] ?? 0],
      seenRevision: written.revision,
      set: {},
      addTags: ['  dawn', 'ECLUSE'],
      removeTags: [],
    });
    expect((await find('tag:ecluse verdict:circled')).map((asset) => asset.tags)).toEqual([
      ['Dawn', 'écluse'],
      ['Dawn', 'écluse'],
    ]);
    expect((await manager.call('tags', null)).tags.map(({ name, uses }) => ({ name, uses }))).toEqual([
      { name: 'Dawn', uses: 2 },
      { name: 'écluse', uses: 2 },
    ]);
  });
  it('never overwrites a colleague silently: same field conflicts, other fields merge', async () => {
    const { id } = await one('name:A001C001');
    const { revision } = await manager.call('status', null);
    const edit = (set: FieldChanges) => ({ assetIds: [id], seenRevision: revision, set, addTags: [], removeTags: [] });
    await editor.call('edit', edit({ title: 'From the editor' }));
    const other = await library.as('other');
    expect(await other.refused('edit', edit({ title: 'From the other' }))).toMatchObject({
      status: 409,
      error: {
        code: 'conflict',
        conflicts: [{ assetId: id, field: 'title', by: 'The editor', theirs: 'From the editor' }],
      },
    });
    await other.call('edit', edit({ notes: 'merged' }));
    expect(await one('name:A001C001')).toMatchObject({ title: 'From the editor', notes: 'merged' });
  });
  it('undoes one’s own last change and refuses where somebody has changed it since', async () => {
    const { id } = await one('name:A001C002');
    const seenRevision = Number.MAX_SAFE_INTEGER;
    const first = await editor.call('edit', {
      assetIds: [id],
      seenRevision,
      set: { title: 'One' },
      addTags: ['bell'],
      removeTags: ['Dawn'],
    });
    await editor.call('undo', { group: first.group });
    expect(await one('name:A001C002')).toMatchObject({ title: null, tags: ['Dawn', 'écluse'] });
    const second = await editor.call('edit', {
      assetIds: [id],
      seenRevision,
      set: { title: 'Two' },
      addTags: [],
      removeTags: [],
    });
    const other = await library.as('other');
    await other.call('edit', { assetIds: [id], seenRevision, set: { title: 'Three' }, addTags: [], removeTags: [] });
    expect(await editor.refused('undo', { group: second.group })).toMatchObject({ error: { code: 'conflict' } });
    expect(await other.refused('undo', { group: second.group })).toMatchObject({ error: { code: 'refused' } });
    const { changes } = await manager.call('history', null, id);
    expect(changes.slice(0, 2).map(({ by, after }) => [by, after])).toEqual([
      ['The other editor', { title: 'Three' }],
      ['The editor', { title: 'Two' }],
    ]);
  });
  it('refuses what the schema refuses, with the words', async () => {
    const { id } = await one('name:A001C001');
    expect(
      await editor.refused('edit', { assetIds: [id], seenRevision: 0, set: { verdict: 'perhaps' }, addTags: ['a,b'] }),
    ).toMatchObject({ status: 422, error: { code: 'invalid' } });
  });
  it('many writers at once leave an unbroken feed', async () => {
    const ids = (await find('')).map((asset) => asset.id);
    const before = (await manager.call('status', null)).revision;
    const clients = [editor, manager, await library.as('other')];
    const written = await Promise.all(
      Array.from({ length: 30 }, (_unused, n) =>
        (clients[n % 3] as Client).call('edit', {
          assetIds: [...ids],
          seenRevision: Number.MAX_SAFE_INTEGER,
          set: {},
          addTags: [`t${n}`],
          removeTags: [],
        }),
      ),
    );
    expect(written.map(({ revision }) => revision).sort((a, b) => a - b)).toEqual(
      written.map((_unused, n) => before + (n + 1) * ids.length),
    );
    expect(await find('tag:(t0 t13 t29)')).toHaveLength(ids.length);
  });
});

describe('live bins', () => {
  it('count what fits at this moment', async () => {
    const bin = await editor.call('newLiveBin', { name: 'Held', query: 'verdict:hold' });
    expect(bin.count).toBe(0);
    const { id } = await one('name:drop');
    await editor.call('edit', {
      assetIds: [id],
      seenRevision: Number.MAX_SAFE_INTEGER,
      set: { verdict: 'hold' },
      addTags: [],
      removeTags: [],
    });
    expect((await editor.call('liveBins', null)).bins.find((each) => each.id === bin.id)?.count).toBe(1);
    expect(await editor.refused('newLiveBin', { name: 'All', query: ' ' })).toMatchObject({ status: 422 });
    await editor.call('removeLiveBin', null, bin.id);
    expect(await one('name:drop')).toMatchObject({ verdict: 'hold' });
  });
});

describe('string-outs and cut lists', () => {
  it('go out as EDL and OTIO and come back, every event inside its media to the frame', async () => {
    const project = await editor.call('newProject', { name: 'Lock', description: null, counting: '25' });
    const clips = [await one('name:A001C001'), await one('name:A001C002'), await one('name:drop')];
    const made = await editor.call('newStringOut', {
      name: 'First',
      projectId: project.id,
      assetIds: clips.map((clip) => clip.id),
    });
    const [first, ...rest] = made.items;
    if (!first) throw new Error('nothing in it');
    const saved = await editor.call(
      'saveStringOut',
      {
        ...{ name: 'First', version: made.version },
        items: [...rest, { ...first, in: 5, out: 25 }],
        markers: [markerOn(first.id, 15), markerOn(rest[0]?.id ?? '', 0)],
      },
      made.id,
    );
    expect(saved.version).toBe(2);
    // Whose they are is not taken from what was sent.
    expect(saved.markers.map(({ by }) => by)).toEqual(['The editor', 'The editor']);
    expect(
      await editor.refused('saveStringOut', { name: 'Late', version: 1, items: [], markers: [] }, made.id),
    ).toMatchObject({
      status: 409,
      error: { code: 'newer-version' },
    });
    expect(
      await editor.refused(
        'saveStringOut',
        { name: 'Beyond', version: 2, items: [{ id: 'new', assetId: first.assetId, in: 0, out: 26 }], markers: [] },
        made.id,
      ),
    ).toMatchObject({ error: { code: 'refused' } });
    for (const markers of [[markerOn('nowhere', 1)], [markerOn(first.id, 1), markerOn(first.id, 1)]])
      expect(
        await editor.refused('saveStringOut', { name: 'First', version: 2, items: saved.items, markers }, made.id),
      ).toMatchObject({ error: { code: 'refused' } });
    const handed = async (format: HandedOver) => (await editor.raw('GET', FILE_PATHS.cutList(made.id, format))).text();
    expect(await handed('edl')).toContain('red She laughs: at last');
    expect(await handed('otio')).toContain('"Marker.2"');
    expect(await handed('vtt')).toMatch(/^WEBVTT\n\nShe laughs\n00:00:00\.000 --> /);
    expect(await handed('srt')).toContain('She laughs\nat last');
    for (const format of ['edl', 'otio']) {
      const response = await editor.raw('GET', `/files/string-outs/${made.id}.${format}`);
      expect(response.headers.get('content-disposition')).toContain(`First.${format}`);
      const report = await editor.call('conform', {
        fileName: `First.${format}`,
        text: await response.text(),
        counting: '25',
      });
      expect(report).toMatchObject({ clean: true, issues: [] });
      expect(report.events.map(({ asset, used }) => [asset?.id, used?.start, used?.end])).toEqual([
        [clips[1]?.id, 0, 50],
        [clips[2]?.id, 0, 60],
        [clips[0]?.id, 5, 25],
      ]);
    }
    expect(
      await editor.refused('newStringOut', {
        name: 'Sound',
        projectId: project.id,
        assetIds: [(await one('name:take')).id],
      }),
    ).toMatchObject({ error: { code: 'refused' } });
    expect(
      await editor.refused('conform', { fileName: 'x.edl', text: 'nothing of the sort', counting: '25' }),
    ).toMatchObject({ error: { code: 'refused' } });
  });
});

describe('links that break', () => {
  it('moved files are missing, not doubled, and mended all at once', async () => {
    const before = await find('');
    renameSync(join(shelf, 'A001'), join(shelf, 'tidied'));
    renameSync(join(shelf, 'tidied/drop.mov'), join(shelf, 'tidied/renamed by hand.mov'));
    const { storageId, job } = await scanned(manager, 'Shelf', shelf);
    expect(job.message).toMatch(/^3 files are those of missing assets, such as tidied\/.*; relink them in Upkeep\.$/);
    expect((await find('is:missing')).map((asset) => asset.name)).toEqual(['A001C001.mov', 'A001C002.mov', 'drop.mov']);
    expect(await find('')).toHaveLength(before.length);
    const { id, items, rules } = await planned(manager, { places: [{ storageId, folder: '', deep: true }] });
    // What was renamed by hand besides goes by no rule.
    expect(rules).toEqual([
      {
        ...{ from: 'Shelf/A001', to: 'Shelf/tidied', extension: null, before: '', behind: '' },
        ...{ decide: 0, accepted: 2 },
      },
    ]);
    expect(items.map(({ matches: [first], name, state }) => [name, state, first?.likeness, first?.path])).toEqual([
      ['A001C001.mov', 'accepted', 'exact', 'tidied/A001C001.mov'],
      ['A001C002.mov', 'accepted', 'exact', 'tidied/A001C002.mov'],
      ['drop.mov', 'accepted', 'exact', 'tidied/renamed by hand.mov'],
    ]);
    expect(await mended(manager, id)).toMatchObject({ state: 'done' });
    expect(await find('is:missing')).toEqual([]);
    expect((await find('')).map((asset) => asset.id).sort()).toEqual(before.map((asset) => asset.id).sort());
    expect(await one('name:"renamed by hand"')).toMatchObject({
      verdict: 'hold',
      renditions: expect.arrayContaining(['proxy']) as unknown,
    });
  });
  it('an entry that was made of the same file is taken in, with what somebody said of it', async () => {
    const { id } = await one('name:A001C001');
    const copy = library.shelf('copy');
    copyFileSync(join(shelf, 'tidied/A001C001.mov'), join(copy, 'A001C001.mov'));
    const { storageId } = await scanned(manager, 'Copy', copy);
    const twin = await one('storage:copy');
    rmSync(join(shelf, 'tidied/A001C001.mov'));
    await scanned(manager, 'Shelf', shelf);
    await editor.call('edit', {
      assetIds: [twin.id],
      seenRevision: Number.MAX_SAFE_INTEGER,
      set: { title: 'Mine' },
      addTags: [],
      removeTags: [],
    });
    const plan = await planned(manager, { places: [{ storageId, folder: '', deep: true }] });
    // What somebody has logged is not taken in without a look.
    expect(plan.items).toMatchObject([
      { state: 'decide', matches: [{ catalogued: { assetId: twin.id, untouched: false } }] },
    ]);
    await manager.call(
      'decideRelink',
      { decision: 'accepted', assetIds: [id], rule: null, state: null, chosen: null },
      plan.id,
    );
    expect(await mended(manager, plan.id)).toMatchObject({ state: 'done' });
    expect(await find('storage:copy')).toMatchObject([{ id, notes: 'merged\nA001C001.mov said: Title: Mine' }]);
    expect(await one('name:A001C001')).toMatchObject({
      id,
      storage: 'Copy',
      state: 'online',
      title: 'From the editor',
    });
  });
  it('a file of another rate, or shorter than what is used, is ruled out', async () => {
    const { id, storageId } = await one('name:A001C002');
    rmSync(join(shelf, 'tidied/A001C002.mov'));
    makeClip(join(shelf, 'tidied/A001C002.mov.new.mov'), { rate: '24', seconds: 2 });
    makeClip(join(shelf, 'tidied/short.mov'), { timecode: '01:00:10:00' });
    await scanned(manager, 'Shelf', shelf);
    for (const path of ['tidied/A001C002.mov.new.mov', 'tidied/short.mov']) {
      const { id: plan, items } = await planned(manager, { assetId: id, storageId, path });
      expect(items.map(({ assetId, state }) => [assetId, state])).toEqual([[id, 'blocked']]);
      expect(await manager.refused('mend', null, plan)).toMatchObject({ error: { code: 'refused' } });
    }
  });
  it('another recording under an old name is changed, and the old one back again is online', async () => {
    const path = join(shelf, 'plain_picture.mp4');
    renameSync(path, join(library.folder, 'kept.mp4'));
    makeClip(path, { tone: 999 });
    utimesSync(path, new Date(), new Date(Date.now() + 5000));
    await scanned(manager, 'Shelf', shelf);
    expect((await find('is:changed')).map((asset) => asset.name)).toEqual(['plain_picture.mp4']);
    renameSync(join(library.folder, 'kept.mp4'), path);
    await scanned(manager, 'Shelf', shelf);
    expect(await find('is:changed')).toEqual([]);
  });
  it('an unplugged storage is offline, not missing, and comes back as it was', async () => {
    const before = (await find('storage:shelf')).map(({ id, state }) => [id, state]);
    renameSync(shelf, `${shelf}.away`);
    await until('offline', async () => (await find('is:offline')).length === before.length);
    expect(await find('storage:shelf is:missing')).toEqual([]);
    mkdirSync(shelf);
    const { job } = await scanned(manager, 'Shelf', shelf);
    // An empty folder where files are catalogued is a mount point with nothing mounted.
    expect(job).toMatchObject({ state: 'failed', message: expect.stringContaining('empty') as unknown });
    rmSync(shelf, { recursive: true });
    renameSync(`${shelf}.away`, shelf);
    await until('online again', async () => (await find('is:offline')).length === 0);
    expect((await find('storage:shelf')).map(({ id, state }) => [id, state])).toEqual(before);
  });
});

describe('the pull list', () => {
  it('is each person’s own, in order, without doubles', async () => {
    const ids = (await find('kind:video')).map((asset) => asset.id);
    const [a = 0, b = 0] = ids;
    expect(await editor.call('setPull', { assetIds: [b, a, b, 999_999] })).toEqual({ assetIds: [b, a] });
    expect(await manager.call('pull', null)).toEqual({ assetIds: [] });
  });
});
