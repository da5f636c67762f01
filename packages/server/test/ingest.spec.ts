import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, symlinkSync, truncateSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { plainSettings, type IngestSettings } from '@larder/core/ingest';
import { c4Id, readChain, readHashList } from '@larder/core/interchange/mhl';
import type { Ingest } from '@larder/contract';
import { queueDueChecks } from '../src/store/fixity';
import { JobRow } from '../src/store/models';
import { allJobsEnded, type Client, jobEnded, makeClip, TestLibrary, treeHash } from './kit';

let library: TestLibrary;
let manager: Client;
let cardId: number;
let storeId: number;
let card: string;
let store: string;

beforeAll(async () => {
  library = await TestLibrary.start();
  manager = await library.as('manager');
  [card, store] = [library.shelf('card'), library.shelf('store')];
  makeClip(join(card, 'A001/C001.mov'), { timecode: '10:00:00:00', reel: 'A001' });
  makeClip(join(card, 'A001/C002.mov'), { timecode: '10:01:00:00', reel: 'A001', tone: 500 });
  writeFileSync(join(card, 'A001/C001.xmp'), '<x:xmpmeta/>');
  makeClip(join(card, 'B001/C001.mov'), { timecode: '11:00:00:00', reel: 'B001', tone: 600, size: '320x180' });
  pictures(join(card, 'vfx'), 'shot_', [1001, 1002, 1003, 1004, 1007, 1008]);
  cardId = (await manager.call('newStorage', { name: 'Card', rootPath: card })).id;
  storeId = (await manager.call('newStorage', { name: 'Store', rootPath: store, managed: true })).id;
}, 120_000);
afterAll(() => library.stop(), 60_000);

function pictures(folder: string, prefix: string, numbers: readonly number[]): void {
  mkdirSync(folder, { recursive: true });
  for (const number of numbers)
    execFileSync('ffmpeg', [
      ...`-v error -y -f lavfi -i color=c=0x${((number * 7919 * 4099) % 0xffffff).toString(16).padStart(6, '0')}:s=64x36 -frames:v 1`.split(
        ' ',
      ),
      join(folder, `${prefix}${number}.png`),
    ]);
}

type Changes = Partial<Omit<Ingest, 'settings'>> & { readonly settings?: Partial<IngestSettings> };
const asked = ({ settings, ...rest }: Changes): Ingest => ({
  paths: [],
  folders: [],
  twins: [],
  ...rest,
  settings: { ...plainSettings(), ...settings },
});
async function ingested(changes: Changes, storageId = cardId) {
  const { job } = await manager.call('ingest', asked(changes), storageId);
  const ended = await jobEnded(manager, job.id);
  return { job: ended, report: await manager.call('ingestReport', null, job.id) };
}
const search = async (query: string) => {
  const { revision } = await manager.call('status', null);
  return (await manager.call('search', { query, atLeast: revision })).assets;
};
const xxhsum = (path: string) => execFileSync('xxhsum', ['-H64', path], { encoding: 'utf8' }).split(' ')[0];

describe('bringing in a folder tree by copy', () => {
  it('copies every byte, mirrors the folders, renames nothing, and leaves the card as it was', async () => {
    const before = treeHash(card);
    const { job, report } = await ingested({
      folders: [{ path: 'A001', deep: true }],
      settings: {
        way: 'copy',
        destination: { storageId: storeId, folder: 'Slow Water' },
        bin: { id: null, name: 'Day one', mirror: true },
        tags: ['lock', 'Dawn'],
      },
    });
    expect(job).toMatchObject({ state: 'done', message: null, unit: 'bytes' });
    expect(job.done).toBe(job.total);
    expect(report.counts).toMatchObject({ done: 2, failed: 0, waiting: 0 });
    expect(treeHash(card)).toBe(before);
    for (const name of ['C001.mov', 'C002.mov', 'C001.xmp'])
      expect(xxhsum(join(store, 'Slow Water/A001', name))).toBe(xxhsum(join(card, 'A001', name)));
    // xxHash64 as the reference program computes it.
    expect(report.items.map(({ xxh64 }) => xxh64)).toEqual(
      ['C001.mov', 'C002.mov'].map((name) => xxhsum(join(card, 'A001', name))),
    );
  });

  it('catalogues the copies with what was said of them, and knows the card’s files as theirs', async () => {
    const [first] = await search('storage:Store name:C001.mov');
    expect(first).toMatchObject({
      path: 'Slow Water/A001/C001.mov',
      tags: ['Dawn', 'lock'],
      bins: ['Day one/A001'],
      otherLocations: 1,
      reel: 'A001',
    });
    expect(await search('in:"Day one/A001"')).toHaveLength(2);
    expect((await manager.call('locations', null, first?.id)).locations).toEqual([
      { storageId: cardId, storage: 'Card', path: 'A001/C001.mov', state: 'online' },
    ]);
    const shelf = await manager.call('browse', { path: 'A001' }, cardId);
    expect(shelf.rows.map(({ state, assetId }) => [state, assetId !== null])).toEqual([
      ['online', true],
      ['online', true],
    ]);
    // A scan of the card makes no second assets either.
    await jobEnded(manager, (await manager.call('scan', { folders: [{ path: 'A001', deep: true }] }, cardId)).job.id);
    expect(await search('name:C002.mov')).toHaveLength(1);
  });

  it('writes an ASC MHL history whose hashes and chain can be checked without us', () => {
    const history = join(store, 'Slow Water/ascmhl');
    const [name] = readdirSync(history).filter((each) => each.endsWith('.mhl'));
    expect(name).toMatch(/^0001_Slow Water_\d{4}-\d\d-\d\d_\d{6}Z\.mhl$/);
    const document = readFileSync(join(history, name ?? ''));
    const { list, issues } = readHashList(document.toString('utf8'));
    expect(issues).toEqual([]);
    expect(list?.entries.map(({ path }) => path)).toEqual(['A001/C001.mov', 'A001/C001.xmp', 'A001/C002.mov']);
    for (const { path, bytes, hashes } of list?.entries ?? []) {
      expect(hashes[0]).toMatchObject({
        element: 'xxh64',
        value: xxhsum(join(store, 'Slow Water', path)),
        action: 'original',
      });
      expect(bytes).toBe(readFileSync(join(store, 'Slow Water', path)).length);
    }
    expect(readChain(readFileSync(join(history, 'ascmhl_chain.xml'), 'utf8'))).toEqual([
      { generation: 1, path: name, c4: c4Id(createHash('sha512').update(document).digest()) },
    ]);
    // Well-formed to a parser that is not ours.
    execFileSync('python3', [
      '-c',
      'import sys, xml.dom.minidom as m; m.parse(sys.argv[1])',
      join(history, name ?? ''),
    ]);
  });

  it('asked for again, skips what the library has, by its bytes', async () => {
    const { job, report } = await ingested({
      paths: ['A001/C001.mov'],
      settings: { way: 'copy', destination: { storageId: storeId, folder: 'again' } },
    });
    expect(report.counts.skipped).toBe(1);
    expect(report.items[0]?.message).toBe('The library has it: Store/Slow Water/A001/C001.mov.');
    expect(job.message).toBe('0 came in, 1 skipped');
    expect(existsSync(join(store, 'again'))).toBe(false);
  });

  it('brings a twin in all the same where that is wanted, under a name by the pattern', async () => {
    const twins = await manager.call('twins', { folders: [{ path: 'A001', deep: true }] }, cardId);
    expect(twins).toMatchObject({ looked: 2, total: 2 });
    expect(twins.twins.map(({ path, sign }) => [path, sign])).toEqual([
      ['A001/C001.mov', 'same-ends'],
      ['A001/C002.mov', 'same-ends'],
    ]);
    const { report } = await ingested({
      folders: [{ path: 'A001', deep: true }],
      settings: {
        way: 'copy',
        destination: { storageId: storeId, folder: 'second' },
        naming: '{reel}_{timecode}_{n:3}',
      },
      twins: [{ path: 'A001/C001.mov', way: 'anyway' }],
    });
    expect(report.counts).toMatchObject({ done: 1, skipped: 1 });
    expect(readdirSync(join(store, 'second/A001')).sort()).toEqual([
      'A001_10-00-00-00_001.mov',
      'A001_10-00-00-00_001.xmp',
    ]);
    const [second] = await search('storage:Store name:A001_10');
    expect(second?.name).toBe('A001_10-00-00-00_001.mov');
    const [first] = await search('path:"Slow Water/A001/C001.mov"');
    expect((await search('is:twin')).map(({ id }) => id).sort()).toEqual([first?.id, second?.id].sort());
  });

  it('never writes over another file', async () => {
    mkdirSync(join(store, 'taken/B001'), { recursive: true });
    writeFileSync(join(store, 'taken/B001/C001.mov'), 'somebody else’s');
    const { report } = await ingested({
      folders: [{ path: 'B001', deep: true }],
      settings: { way: 'copy', destination: { storageId: storeId, folder: 'taken' } },
    });
    expect(report.items[0]).toMatchObject({
      state: 'failed',
      message: expect.stringContaining('Another file lies at') as string,
    });
    expect(readFileSync(join(store, 'taken/B001/C001.mov'), 'utf8')).toBe('somebody else’s');
  });

  it('is not led out of the storage by a link, and copies only to where it may', async () => {
    const outside = library.shelf('outside');
    symlinkSync(outside, join(store, 'way out'));
    const led = await ingested({
      paths: ['B001/C001.mov'],
      settings: { way: 'copy', destination: { storageId: storeId, folder: 'way out' } },
    });
    expect(led.report.items[0]?.message).toContain('a link leads out of it');
    expect(readdirSync(outside)).toEqual([]);
    const settings = { ...plainSettings(), way: 'copy' as const, destination: { storageId: cardId, folder: '' } };
    const { error } = await manager.refused('ingest', asked({ paths: ['B001/C001.mov'], settings }), cardId);
    expect(error).toMatchObject({
      code: 'refused',
      reason: expect.stringContaining('may not copy to “Card”') as string,
    });
  });
});

describe('bringing in where it lies', () => {
  it('a sequence at the rate that it is said to have, with its gaps, its alpha and its colour', async () => {
    const { report } = await ingested({
      paths: ['vfx/shot_1001.png'],
      settings: {
        corrections: {
          ...plainSettings().corrections,
          sequenceRate: '23.976',
          alpha: 'straight',
          startTimecode: '01:00:00:00',
          offsetFrames: 12,
          colour: { primaries: 'bt2020', transfer: null, matrix: null },
        },
        fields: { ...plainSettings().fields, reel: 'VFX', title: 'Bell tower' },
        mezzanine: 'ffv1',
      },
    });
    expect(report.counts.done).toBe(1);
    await allJobsEnded(manager);
    const [asset] = await search('kind:sequence');
    expect(asset).toMatchObject({
      name: 'shot_[1001-1008].png',
      files: 6,
      gaps: [[1005, 1006]],
      rate: { num: 24000, den: 1001 },
      durationFrames: 8,
      startFrame: 3600 * 24 + 12,
      alpha: 'straight',
      colour: { primaries: 'bt2020' },
      reel: 'VFX',
      title: 'Bell tower',
      renditions: expect.arrayContaining(['proxy', 'mezzanine', 'poster', 'filmstrip']) as unknown,
    });
    // The picture before the gap is held, so every frame keeps its number.
    const response = await manager.raw('GET', `/files/${asset?.id}/mezzanine`);
    expect(response.headers.get('content-disposition')).toContain('.mkv');
    const path = join(library.folder, 'mezzanine.mkv');
    writeFileSync(path, Buffer.from(await response.arrayBuffer()));
    const frames = execFileSync('ffmpeg', [...'-v error -i'.split(' '), path, ...'-f framemd5 -'.split(' ')], {
      encoding: 'utf8',
    })
      .split('\n')
      .filter((line) => /^0,/.test(line))
      .map((line) => line.split(',').at(-1)?.trim());
    expect(frames).toHaveLength(8);
    expect(frames[4]).toBe(frames[3]);
    expect(frames[5]).toBe(frames[3]);
    expect(new Set(frames).size).toBe(6);
    const probe = execFileSync(
      'ffprobe',
      [...'-v error -show_entries stream=codec_name,r_frame_rate -of csv=p=0'.split(' '), path],
      { encoding: 'utf8' },
    );
    expect(probe.trim()).toBe('ffv1,24000/1001');
  });

  it('makes a VC-3 mezzanine with every frame, every channel and the timecode, and hands it to editing systems', async () => {
    await ingested({ paths: ['B001/C001.mov'], settings: { mezzanine: 'vc3', naming: '{reel}-{n:2}' } });
    await allJobsEnded(manager);
    const [asset] = await search('storage:Card reel:B001');
    expect(asset).toMatchObject({ title: 'B001-01', name: 'C001.mov', path: 'B001/C001.mov' });
    const path = join(library.folder, 'mezzanine.mov');
    writeFileSync(path, Buffer.from(await (await manager.raw('GET', `/files/${asset?.id}/mezzanine`)).arrayBuffer()));
    const { streams } = JSON.parse(
      execFileSync('ffprobe', [...'-v error -show_streams -of json'.split(' '), path], { encoding: 'utf8' }),
    ) as { streams: { codec_name?: string; nb_frames?: string; tags?: { timecode?: string } }[] };
    expect(streams.map((stream) => stream.codec_name)).toEqual(expect.arrayContaining(['dnxhd', 'pcm_s24le']));
    expect(streams[0]).toMatchObject({ nb_frames: '25', tags: { timecode: '11:00:00:00' } });
    const project = await manager.call('newProject', { name: 'Hand over', description: null, counting: '25' });
    const out = await manager.call('newStringOut', { name: 'One', projectId: project.id, assetIds: [asset?.id ?? 0] });
    const otio = await (await manager.raw('GET', `/files/string-outs/${out.id}.otio`)).text();
    expect(otio).toMatch(/"target_url": "file:.*mezzanine\.mov"/);
    expect(otio).toContain('"active_media_reference_key": "mezzanine"');
    // All forms stand in each list; another one is worked with, and what comes back conforms whichever that is.
    for (const [media, key] of [
      ['original', 'DEFAULT_MEDIA'],
      ['proxy', 'proxy'],
    ] as const) {
      const text = await (await manager.raw('GET', `/files/string-outs/${out.id}.otio?media=${media}`)).text();
      expect(text.match(/"target_url"/g)).toHaveLength(3);
      expect(text).toContain(`"active_media_reference_key": "${key}"`);
      const { clean, events } = await manager.call('conform', { fileName: 'back.otio', text, counting: '25' });
      expect([clean, events.map((event) => event.asset?.id)]).toEqual([true, [asset?.id]]);
    }
  });

  it('makes one sound of a file that has its microphones in several streams and no picture', async () => {
    const levels = [0.5, 0.25, 0.125];
    execFileSync('ffmpeg', [
      ...'-v error -y'.split(' '),
      ...levels.flatMap((level) => ['-f', 'lavfi', '-i', `aevalsrc=${level}:s=48000:d=1`]),
      ...'-map 0:a -map 1:a -map 2:a -c:a pcm_s24le'.split(' '),
      join(card, 'three.mov'),
    ]);
    await ingested({ paths: ['three.mov'], settings: { mezzanine: 'vc3' } });
    await allJobsEnded(manager);
    const [asset] = await search('name:three');
    expect(asset).toMatchObject({ kind: 'audio', sound: { channels: 3, streams: [1, 1, 1] } });
    const path = join(library.folder, 'three.wav');
    writeFileSync(path, Buffer.from(await (await manager.raw('GET', `/files/${asset?.id}/mezzanine`)).arrayBuffer()));
    const raw = execFileSync('ffmpeg', [...'-v error -i'.split(' '), path, ...'-f f32le -'.split(' ')], {
      maxBuffer: 1 << 24,
    });
    expect(raw.byteLength).toBe(3 * 48_000 * 4);
    levels.forEach((level, channel) => expect(raw.readFloatLE(30_000 * 4 + channel * 4)).toBeCloseTo(level, 5));
  });

  it('what cannot be read comes in as that, and an offline original is read where its copy lies', async () => {
    writeFileSync(join(card, 'torn.mov'), 'no film');
    writeFileSync(join(card, 'empty.mov'), '');
    const { report } = await ingested({ paths: ['torn.mov', 'empty.mov', 'gone.mov'] });
    expect(report.counts).toMatchObject({ done: 2, failed: 0 });
    expect((await search('kind:unreadable')).map(({ name, reason }) => [name, reason !== ''])).toEqual([
      ['empty.mov', true],
      ['torn.mov', true],
    ]);
  });
});

describe('fixity', () => {
  it('starts with the copy’s hash, and tells the same from the changed and the missing', async () => {
    const [first, second] = await search('storage:Store path:"Slow Water"');
    const checks = async () => (await manager.call('fixityOf', null, first?.id)).checks.map(({ outcome }) => outcome);
    expect(await checks()).toEqual(['first']);
    const verify = async () => {
      const { job } = await manager.call('verify', { assetIds: [first?.id ?? 0, second?.id ?? 0] });
      return jobEnded(manager, job.id);
    };
    expect(await verify()).toMatchObject({ state: 'done', message: null, unit: 'bytes' });
    expect(await checks()).toEqual(['same', 'first']);
    // One bit goes.
    const path = join(store, first?.path ?? '');
    const bytes = readFileSync(path);
    bytes[bytes.length >> 1] = (bytes[bytes.length >> 1] ?? 0) ^ 1;
    writeFileSync(path, bytes);
    expect((await verify()).message).toBe('1 changed');
    expect(await checks()).toEqual(['changed', 'same', 'first']);
    expect((await search(`is:changed`)).map(({ id }) => id)).toEqual([first?.id]);
    expect((await manager.call('fixity', null)).bad).toEqual([
      expect.objectContaining({ assetId: first?.id, outcome: 'changed' }),
    ]);
    expect((await manager.call('fixityOf', null, second?.id)).checks.map(({ outcome }) => outcome)).toEqual([
      'same',
      'same',
      'first',
    ]);
  });
});

describe('a schedule of checks', () => {
  it('queues what is due once, and nothing where nothing is', async () => {
    const day = 24 * 3600 * 1000;
    const facts = { name: 'Store', kind: 'local' as const, managed: true, presenceHours: null, recognises: false };
    await manager.call('changeStorage', { ...facts, verifyDays: 30 }, storeId);
    const checks = async () => (await manager.call('jobs', null)).jobs.filter(({ kind }) => kind === 'verify').length;
    await library.library.withModels(async (db) => {
      // All that lies there unchecked is due from the first day on.
      await queueDueChecks(db, Date.now());
      await allJobsEnded(manager);
      const before = await checks();
      await queueDueChecks(db, Date.now() + 29 * day);
      expect(await checks()).toBe(before);
      // One that waits is enough.
      const waits = { kind: 'verify', subject: 'Store', payload: {}, priority: 0, storageId: storeId } as const;
      const now = Date.now();
      const waiting = await JobRow.create({ ...waits, state: 'paused', createdMs: now, updatedMs: now });
      await queueDueChecks(db, Date.now() + 31 * day);
      expect(await checks()).toBe(before + 1);
      await waiting.destroy();
      expect(await checks()).toBe(before);
      await queueDueChecks(db, Date.now() + 31 * day);
      expect(await checks()).toBe(before + 1);
    });
    await manager.call('changeStorage', { ...facts, verifyDays: null }, storeId);
    await allJobsEnded(manager);
  });
});

describe('presets and watch folders', () => {
  it('a preset is kept, changed, and not taken from a folder that uses it', async () => {
    const settings = { ...plainSettings(), tags: ['watched'], bin: { id: null, name: 'Arrived', mirror: false } };
    const { id } = await manager.call('newPreset', { name: 'Rushes', settings });
    const { error } = await manager.refused('newPreset', { name: 'Rushes', settings });
    expect(error).toMatchObject({ code: 'refused' });
    const drop = library.shelf('drop');
    const { id: dropId } = await manager.call('newStorage', { name: 'Drop', rootPath: drop });
    writeFileSync(join(drop, 'readme.txt'), '');
    const watch = { storageId: dropId, folder: '', presetId: id, active: true, quietSeconds: 2 };
    await manager.call('newWatch', watch);
    expect((await manager.refused('removePreset', null, id)).error).toMatchObject({ code: 'refused' });

    // A file that grows is left alone until it has stopped.
    makeClip(join(library.folder, 'source.mov'), { tone: 700 });
    const whole = readFileSync(join(library.folder, 'source.mov'));
    writeFileSync(join(drop, 'slow.mov'), whole.subarray(0, 1000));
    for (let n = 2; n <= 8; n += 1) {
      await new Promise((resolve) => setTimeout(resolve, 700));
      writeFileSync(join(drop, 'slow.mov'), whole.subarray(0, n * 1000));
      expect(await search('storage:Drop')).toEqual([]);
    }
    writeFileSync(join(drop, 'slow.mov'), whole);
    const asset = await untilFound('storage:Drop');
    expect(asset).toMatchObject({ name: 'slow.mov', tags: ['watched'], bins: ['Arrived'], kind: 'video' });
    truncateSync(join(drop, 'readme.txt'));
    expect(await search('storage:Drop')).toHaveLength(1);
  });
});

async function untilFound(query: string) {
  for (;;) {
    const [asset] = await search(query);
    if (asset) return asset;
    await new Promise((resolve) => setTimeout(resolve, 200));
  }
}

describe('bins', () => {
  it('are made, nested, renamed with what is in them, and taken away without touching an asset', async () => {
    const { id: top } = await manager.call('newBin', { name: 'Selects', parentId: null });
    const { id: inner } = await manager.call('newBin', { name: 'Wides', parentId: top });
    const [asset] = await search('storage:Card reel:B001');
    await manager.call('binAssets', { add: [asset?.id ?? 0] }, inner);
    expect(await search('in:"Selects/Wides"')).toHaveLength(1);
    await manager.call('changeBin', { name: 'Best', parentId: null }, top);
    expect(await search('in:"Best/Wides"')).toHaveLength(1);
    expect(await search('in:"Selects/Wides"')).toHaveLength(0);
    expect((await manager.refused('changeBin', { name: 'Best', parentId: inner }, top)).error).toMatchObject({
      reason: 'A bin cannot be put into itself.',
    });
    expect((await manager.refused('newBin', { name: 'a/b', parentId: null })).error).toMatchObject({ code: 'refused' });
    await manager.call('removeBin', null, top);
    expect((await manager.call('bins', null)).bins.map(({ path }) => path)).not.toContain('Best/Wides');
    expect(await search('storage:Card reel:B001')).toHaveLength(1);
  });
});

describe('a storage of which all is recognised', () => {
  it('has what is copied to it recognised, and what stays on another not', async () => {
    for (const [name, tone] of [
      ['C001.mov', 710],
      ['C002.mov', 720],
    ] as const)
      makeClip(join(card, 'R001', name), { tone });
    const facts = { name: 'Store', kind: 'local' as const, managed: true, presenceHours: null, verifyDays: null };
    await manager.call('changeStorage', { ...facts, recognises: true }, storeId);
    await ingested({
      paths: ['R001/C001.mov'],
      settings: { way: 'copy', destination: { storageId: storeId, folder: 'Recognised' } },
    });
    await ingested({ paths: ['R001/C002.mov'] });
    await allJobsEnded(manager);
    const { jobs } = await manager.call('jobs', null);
    expect(jobs.filter(({ kind }) => kind === 'recognise').map(({ subject }) => subject)).toEqual(['C001.mov']);
    expect((await search('path:R001 storage:Card')).map(({ name }) => name)).toEqual(['C002.mov']);
    await manager.call('changeStorage', { ...facts, recognises: false }, storeId);
    // Whatever its storage says, where whoever brings it in wants it.
    makeClip(join(card, 'R001', 'C003.mov'), { tone: 730 });
    await ingested({ paths: ['R001/C003.mov'], settings: { recognises: true } });
    await allJobsEnded(manager);
    const after = (await manager.call('jobs', null)).jobs.filter(({ kind }) => kind === 'recognise');
    expect(after.map(({ subject }) => subject).sort()).toEqual(['C001.mov', 'C003.mov']);
  });
});
