import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { readEdl } from '@larder/core/interchange/edl';
import { readOtio } from '@larder/core/interchange/otio';
import { readTable } from '@larder/core/interchange/table';
import { countingById, type Counting } from '@larder/core/timecode';
import type { HitFormat, SpokenAsked } from '@larder/contract';
import { allJobsEnded, type Client, makeClip, scanned, TestLibrary } from './kit';

let library: TestLibrary;
let editor: Client;
let other: Client;
let ids: readonly number[];

/** What is said in the nth sound: a cue a second. */
async function say(at: number, ...cues: string[]): Promise<void> {
  const time = (second: number) => `00:00:${String(second).padStart(2, '0')},000`;
  const text = cues.map((cue, n) => `${n + 1}\n${time(n)} --> ${time(n + 1)}\n${cue}\n`).join('\n');
  await editor.call('readTranscript', { text, name: `${at}.srt` }, ids[at] ?? 0);
}

async function find(said: string, asked: Partial<SpokenAsked> = {}, by = editor) {
  const { revision } = await by.call('status', null);
  const answer = await by.call('spoken', { said, atLeast: revision, ...asked });
  return { ...answer, found: answer.files.map(({ asset }) => ids.indexOf(asset.id)) };
}

beforeAll(async () => {
  library = await TestLibrary.start(1);
  const manager = await library.as('manager');
  [editor, other] = [await library.as('editor'), await library.as('other')];
  const shelf = library.shelf('sound');
  for (let n = 0; n < 4; n += 1) {
    const sound = `sine=frequency=${300 + n * 50}:duration=10`;
    execFileSync('ffmpeg', ['-v', 'error', '-f', 'lavfi', '-i', sound, join(shelf, `T${n}.wav`)]);
  }
  makeClip(join(shelf, 'V.mov'), { seconds: 10 });
  await scanned(manager, 'Sound', shelf);
  await allJobsEnded(manager);
  const { assets } = await editor.call('search', { sort: { field: 'name', descending: false } });
  ids = assets.map(({ id }) => id);
  await say(0, 'At low water', 'you hear the gates talk', 'and the bell of Ottermouth');
  await say(1, 'The otter mouth was quiet', 'no bell today', 'and a whole gate gone');
  await say(2, 'A hole in the gate', 'let the water in');
}, 120_000);
afterAll(() => library.stop(), 60_000);

describe('a search of speech', () => {
  it('finds words, rows of them, all, any or what is close together, and leaves out what must not be said', async () => {
    expect((await find('gate')).found.sort()).toEqual([1, 2]);
    expect((await find('"low water"')).found).toEqual([0]);
    expect((await find('water gates')).found).toEqual([0]);
    expect((await find('hole bell', { how: 'any' })).found.sort()).toEqual([0, 1, 2]);
    expect((await find('water bell', { how: 'near', withinS: 1 })).found).toEqual([]);
    expect((await find('water bell', { how: 'near', withinS: 5 })).found).toEqual([0]);
    expect((await find('water -hole')).found).toEqual([0]);
    expect((await find('gat*')).found.sort()).toEqual([0, 1, 2]);
    expect(await find('')).toMatchObject({ found: [], items: [], searched: 3 });
  });

  it('tells where, with what stands around it, and what looser notches would bring', async () => {
    const { files, items, notches } = await find('hole');
    expect(items).toEqual([{ text: 'hole', without: false, sounds: 'HH OW L' }]);
    expect(files).toMatchObject([
      {
        ...{ count: 1, best: 100 },
        hits: [{ heard: 'hole', spelled: true, before: 'A', after: 'in the gate let the water in', dismissed: false }],
      },
    ]);
    expect(files[0]?.hits[0]?.startMs).toBeLessThan(1000);
    expect(notches.map(({ hits }) => hits)).toEqual([1, 1, 1, 1, 2]);
    expect((await find('hole', { notch: 4 })).files[1]?.hits).toMatchObject([{ heard: 'whole', spelled: false }]);
  });

  it('finds a name that no dictionary has by how it sounds', async () => {
    const found = await find('ottermouth', { notch: 4 });
    expect(found.items[0]?.sounds).toMatch(/^AA T ER M /);
    expect(found.found.sort()).toEqual([0, 1]);
    expect(found.files.find(({ asset }) => asset.id === ids[1])?.hits).toMatchObject([{ heard: 'otter mouth' }]);
  });

  it('is asked in the search line too, as sure as is wanted, and by live bins that follow what is said', async () => {
    const list = async (query: string) => {
      const { revision } = await editor.call('status', null);
      const { assets } = await editor.call('search', { query, atLeast: revision });
      return assets.map(({ id }) => ids.indexOf(id)).sort();
    };
    expect(await list('heard:"hole,spelled"')).toEqual([2]);
    expect(await list('heard:"hole,sounds"')).toEqual([1, 2]);
    expect(await list('heard:"ottermouth,sounds"')).toEqual([0, 1]);
    expect(await list('heard:"ottermouth,sounds" -heard:"low water,spelled"')).toEqual([1]);
    expect(await list('heard:"water + bell,1s,spelled"')).toEqual([]);
    expect(await list('heard:"water + bell,5s,spelled" kind:audio')).toEqual([0]);
    const bin = await editor.call('newLiveBin', { name: 'Otters', query: 'heard:"ottermouth,sounds"', shared: false });
    await editor.call('watchLiveBin', { on: true }, bin.id);
    // As the list, once what was just written is found there.
    const counted = async () => {
      await list('');
      return (await editor.call('liveBins', null)).bins.find(({ id }) => id === bin.id)?.count;
    };
    expect(await counted()).toBe(2);
    await say(3, 'There is an otter mouth here too');
    expect(await list('heard:"ottermouth,sounds"')).toEqual([0, 1, 3]);
    expect(await counted()).toBe(3);
    const { assets } = await editor.call('hits', { query: 'heard:"ottermouth,sounds"' });
    expect(
      assets.map(({ asset, said }) => [ids.indexOf(asset.id), said.map(({ hit }) => hit).join('|')]).sort(),
    ).toEqual([
      [0, 'Ottermouth'],
      [1, 'otter mouth'],
      [3, 'otter mouth'],
    ]);
    const { version } = (await editor.call('transcript', { source: null }, ids[3] ?? 0)).shown ?? { version: 0 };
    await editor.call('removeTranscript', { source: 'brought-in', version }, ids[3] ?? 0);
    expect(await counted()).toBe(2);
    await editor.call('removeLiveBin', null, bin.id);
    const many = Array.from({ length: 21 }, (_unused, n) => `-heard:w${n}`).join(' ');
    expect(await editor.refused('search', { query: many })).toMatchObject({
      error: { reason: expect.stringContaining('asks for 21 things as they sound') as string },
    });
  });

  it('is narrowed by whatever else holds of the files', async () => {
    expect((await find('bell', { query: `number:${ids[1]}` })).found).toEqual([1]);
    expect((await find('bell', { query: 'tag:nobody' })).found).toEqual([]);
    expect(await editor.refused('spoken', { said: 'bell', query: 'tag:' })).toMatchObject({ status: 422 });
    expect(await editor.refused('spoken', { said: 'x'.repeat(1001) })).toMatchObject({ status: 422 });
  });

  it('follows what is corrected, taken away, and said in a part', async () => {
    const shown = (await editor.call('transcript', { source: null }, ids[2] ?? 0)).shown;
    const { version } = shown ?? { version: 0 };
    const change = { source: 'brought-in' as const, version, from: 0, to: 2, text: 'A crack' };
    const { group } = await editor.call('correctTranscript', change, ids[2] ?? 0);
    expect((await find('crack')).found).toEqual([2]);
    expect((await find('hole')).found).toEqual([]);
    await editor.call('undo', { group });
    await editor.call(
      'removeTranscript',
      {
        source: 'corrected',
        version: (await editor.call('transcript', { source: null }, ids[2] ?? 0)).shown?.version ?? 0,
      },
      ids[2] ?? 0,
    );
    expect((await find('hole')).found).toEqual([2]);
    const part = await editor.call('newSubclip', { in: 1000, out: 2000, name: 'The gates' }, ids[0] ?? 0);
    // Said once, where the whole is looked through as well.
    expect((await find('gates')).found).toEqual([0]);
    const inPart = await find('gates', { query: `number:${part.id}` });
    expect(inPart.files).toMatchObject([{ asset: { id: part.id }, hits: [{ before: 'you hear the' }] }]);
    expect(inPart.files[0]?.hits[0]?.startMs).toBeLessThan(1000);
  });

  it('is answered in passages too, the most telling first, as long as one likes', async () => {
    const { revision } = await editor.call('status', null);
    const asked = { said: 'gate bell', how: 'any' as const, atLeast: revision };
    const { assets, count, notches, passages } = await editor.call('spokenPassages', { ...asked, limit: 2 });
    expect([count, notches[0]?.hits, passages.length]).toEqual([3, 4, 2]);
    // Both are said there.
    expect([passages[0]?.id, passages[0]?.pieces.filter(({ is }) => is === 'spelled')]).toEqual([
      ids[1],
      [
        { text: 'bell', is: 'spelled' },
        { text: 'gate', is: 'spelled' },
      ],
    ]);
    expect(assets.map(({ id }) => id).sort()).toEqual(passages.map(({ id }) => id).sort());
    const narrowed = await editor.call('spokenPassages', { ...asked, query: `number:${ids[2]}`, length: 'talk' });
    expect(narrowed.passages.map(({ ends, id }) => [id, ends])).toEqual([[ids[2], 'all']]);
    expect(await editor.refused('spokenPassages', { said: 'a', limit: 201 })).toMatchObject({ status: 422 });
  });

  it('is added up by when it was shot, by reel and by who says it', async () => {
    const first = { assetIds: [ids[0] ?? 0], seenRevision: Number.MAX_SAFE_INTEGER, addTags: [], removeTags: [] };
    await editor.call('edit', { ...first, set: { reel: 'S001' } });
    const { revision } = await editor.call('status', null);
    const asked = { said: 'bell', atLeast: revision };
    expect(await editor.call('spokenTotals', asked)).toMatchObject({
      days: [{ dayMs: null, hits: 2, files: 2 }],
      reels: [
        { name: '', hits: 1, files: 1 },
        { name: 'S001', hits: 1, files: 1 },
      ],
      speakers: [{ name: '', hits: 2, files: 2 }],
    });
    const narrowed = await editor.call('spokenTotals', { ...asked, query: 'reel=S001' });
    expect([narrowed.notches[0], narrowed.reels]).toEqual([
      { hits: 1, files: 1 },
      [{ name: 'S001', hits: 1, files: 1 }],
    ]);
    expect(await editor.call('spokenTotals', { said: '' })).toMatchObject({ days: [], reels: [], speakers: [] });
    expect(await editor.refused('spokenTotals', { ...asked, notch: 5 })).toMatchObject({ status: 422 });
  });

  it('gives way to what files are about, and where they say so', async () => {
    const { revision } = await editor.call('status', null);
    const asked = { query: `number:${ids[0]} or number:${ids[1]} or number:${ids[2]}`, atLeast: revision };
    const before = await editor.call('themes', asked);
    expect([before.against, before.assets.map(({ id }) => id).sort()]).toEqual([
      'each-other',
      ids.slice(0, 3).toSorted(),
    ]);
    // So little sets nothing apart from chance; this does.
    await say(3, ...Array.from({ length: 9 }, (_unused, n) => `the old sluice is ${n} and the old sluice leaks`));
    const all = await editor.call('themes', { atLeast: (await editor.call('status', null)).revision });
    expect(all.files.find(({ id }) => id === ids[3])?.words).toBe(9 * 10);
    const at = all.files.findIndex(({ id }) => id === ids[3]);
    const [theme] = all.themes;
    expect(theme?.terms.map(({ text }) => text)).toContain('old sluice');
    expect(theme?.passages.map((count) => count > 0)).toEqual(all.files.map((_file, file) => file === at));
    const opened = await editor.call('themePassages', { terms: ['old sluices'], assetIds: [ids[3] ?? 0], limit: 1 });
    expect(opened).toMatchObject({ count: theme?.passages[at], passages: [{ id: ids[3] }], assets: [{ id: ids[3] }] });
    const elsewhere = { terms: ['sluice'], query: `number:${ids[0]}`, assetIds: [...ids] };
    expect((await editor.call('themePassages', elsewhere)).count).toBe(0);
    expect(await editor.refused('themes', { query: 'tag:' })).toMatchObject({ status: 422 });
    expect(await editor.refused('themePassages', { terms: [], assetIds: [1] })).toMatchObject({ status: 422 });
  });

  it('finds what may be said in several ways, and what is dismissed of that is that search’s own', async () => {
    expect((await find('hole|bell water')).found.sort()).toEqual([0, 2]);
    expect((await find('"low water"|quiet')).items.map(({ text }) => text)).toEqual(['low water', 'quiet']);
    const { files } = await find('hole|quiet');
    expect(files).toHaveLength(2);
    const [file] = files;
    const hit = { assetId: file?.asset.id ?? 0, startMs: file?.hits[0]?.startMs ?? 0, dismissed: true };
    await editor.call('dismissHit', { ...hit, said: 'quiet|hole' });
    const dismissed = async (said: string) =>
      (await find(said)).files.flatMap(({ hits }) => hits.filter((each) => each.dismissed));
    expect(await dismissed('hole|quiet')).toHaveLength(1);
    expect(await dismissed('hole quiet')).toEqual([]);
    await editor.call('dismissHit', { ...hit, said: 'quiet|hole', dismissed: false });
  });

  it('tells what goes with a word as far as it is said, and by the tags of the shop', async () => {
    const manager = await library.as('manager');
    const set = { name: 'Bells', description: '', letter: '', pattern: 'dots' as const };
    const { id: setId } = await manager.call('newTagSet', set);
    const tag = { name: 'low water', setId, description: '', letter: '', synonyms: ['otter mouth', 'ebb'] };
    await manager.call('newTag', tag);
    const related = async (said: string, asked: { query?: string; kept?: string[] } = {}) => {
      const { revision } = await editor.call('status', null);
      return editor.call('related', { said, atLeast: revision, ...asked });
    };
    const { question, terms } = await related('gates liquid -bell the hol*');
    expect([question, terms.map(({ text }) => text)]).toEqual([null, ['gates', 'liquid']]);
    expect(terms[0]?.groups[0]).toMatchObject({ relation: 'form', words: [{ text: 'gate', files: 2, hits: 2 }] });
    const kinds = terms[1]?.groups.flatMap(({ words }) => words.map(({ text }) => text));
    expect(kinds).toContain('water');
    expect((await related('ebb')).terms[0]?.groups).toMatchObject([
      { relation: 'tag', meaning: 'Bells', words: [{ text: 'low water' }, { text: 'otter mouth' }] },
    ]);
    const narrowed = await related('gates', { query: `number:${ids[0]}` });
    expect(narrowed.terms).toEqual([{ text: 'gates', groups: [] }]);
    expect(await editor.refused('related', { said: 'x'.repeat(1001) })).toMatchObject({ status: 422 });
    expect(await editor.refused('related', { said: 'gate', query: 'tag:' })).toMatchObject({ status: 422 });
  });

  it('reduces a question to what it is about', async () => {
    const { revision } = await editor.call('status', null);
    const ask = (said: string, kept: string[] = []) => editor.call('related', { said, kept, atLeast: revision });
    const { question } = await ask('Where do they talk about the low water by the gates?');
    expect(question?.left).toEqual(['where', 'do', 'they', 'talk', 'about', 'the', 'by']);
    expect(question?.terms).toMatchObject([
      { text: 'low water', why: 'known', said: { hits: 1 } },
      { text: 'gates', why: 'word', forms: [{ text: 'gate' }] },
    ]);
    expect((await ask('Who will talk about the gates?', ['talk'])).question?.terms.map(({ text }) => text)).toEqual([
      'talk',
      'gates',
    ]);
  });

  it('remembers what somebody dismissed, for that search and that person', async () => {
    const { files } = await find('bell');
    const [file] = files;
    const hit = { said: 'bell', assetId: file?.asset.id ?? 0, startMs: file?.hits[0]?.startMs ?? 0 };
    await editor.call('dismissHit', { ...hit, dismissed: true });
    await editor.call('dismissHit', { ...hit, dismissed: true });
    const dismissed = async (said: string, by = editor) =>
      (await find(said, { notch: 2 }, by)).files.flatMap(({ hits }) => hits).filter((each) => each.dismissed).length;
    expect(await dismissed('  BELL ')).toBe(1);
    expect(await dismissed('bell water')).toBe(0);
    expect(await dismissed('bell', other)).toBe(0);
    await editor.call('dismissHit', { ...hit, dismissed: false });
    expect(await dismissed('bell')).toBe(0);
    expect(await editor.refused('dismissHit', { ...hit, assetId: 999_999, dismissed: true })).toMatchObject({
      status: 404,
    });
  });

  it('is kept on many files at once, as markers and as subclips, and taken back as one', async () => {
    const marker = { kind: 'hit' as const, colour: 'none' as const, name: 'bell', note: '80% likely', end: null };
    const [first, second, clip] = [ids[0] ?? 0, ids[1] ?? 0, ids[4] ?? 0];
    const markers = [
      { ...marker, assetId: second, start: 2000 },
      { ...marker, assetId: first, start: 1000, end: 1500 },
      { ...marker, assetId: second, start: 300 },
    ];
    const on = async (assetId: number) =>
      (await editor.call('markers', null, assetId)).markers.map(({ start }) => start);
    const { group, changed } = await editor.call('newMarkers', { markers });
    expect(changed).toBe(2);
    expect([await on(first), await on(second)]).toEqual([[1000], [300, 2000]]);
    await editor.call('undo', { group });
    expect([await on(first), await on(second)]).toEqual([[], []]);
    // One that cannot be, and none is set.
    const beyond = [...markers, { ...marker, assetId: clip, start: 9999 }];
    expect(await editor.refused('newMarkers', { markers: beyond })).toMatchObject({ status: 422 });
    expect([await on(first), await on(second)]).toEqual([[], []]);
    const subclips = [
      { assetId: clip, in: 10, out: 60, name: 'bell' },
      { assetId: second, in: 500, out: 2500, name: 'bell' },
    ];
    const parts = async (assetId: number) =>
      (await editor.call('subclips', null, assetId)).assets.map(({ durationMs, name }) => [name, durationMs]);
    const made = await editor.call('newSubclips', { subclips });
    expect([await parts(clip), await parts(second)]).toEqual([[['bell', 2000]], [['bell', 2000]]]);
    await editor.call('undo', { group: made.group });
    expect([await parts(clip), await parts(second)]).toEqual([[], []]);
    const bad = [...subclips, { assetId: 999_999, in: 0, out: 1, name: 'none' }];
    expect(await editor.refused('newSubclips', { subclips: bad })).toMatchObject({ status: 404 });
    expect(await parts(clip)).toEqual([]);
    const viewer = await library.as('viewer');
    expect(await viewer.refused('newMarkers', { markers })).toMatchObject({ error: { code: 'not-allowed' } });
  });

  it('is cut: hits with what is around them, those that run into each other once, in whole frames', async () => {
    const { id: projectId } = await editor.call('newProject', { name: 'Bells', description: null, counting: '25' });
    const clip = ids[4] ?? 0;
    const part = (startMs: number, endMs: number, assetId = clip) => ({ assetId, startMs, endMs });
    const parts = [part(200, 700), part(2000, 2400), part(3000, 3400), part(9500, 9900), part(0, 1000, ids[0])];
    const made = await editor.call('newStringOut', { name: 'Said: bell', projectId, parts, handlesMs: 500 });
    // 25 frames a second; nothing before the first frame nor after the last, and of a sound there is no picture.
    expect(made.items.map((item) => [item.assetId, item.in, item.out])).toEqual([
      [clip, 0, 31],
      [clip, 37, 98],
      [clip, 225, 250],
    ]);
    const none = { name: 'None', projectId, parts: [part(0, 1000, ids[0])] };
    expect(await editor.refused('newStringOut', none)).toMatchObject({ status: 422 });
  });

  it('is taken along, all of it: as a list of markers, and cut together', async () => {
    await say(4, 'a bell here', 'nothing', 'nothing', 'a bell and a bell there');
    const taken = async (format: HitFormat, asked: Partial<SpokenAsked>) => {
      const { revision } = await editor.call('status', null);
      return editor.call('takeHits', { ...asked, format, atLeast: revision });
    };
    // Words of a cue are as long as they have letters.
    const list = await taken('csv', { said: 'bell' });
    expect([list.name, list.type]).toEqual(['Said_ bell.csv', 'text/csv; charset=utf-8']);
    const { table } = readTable(list.text);
    expect(table.heading).toEqual([
      ...[
        'Asset',
        'File',
        'Path',
        'Reel',
        'Start',
        'End',
        'Looked for',
        'Heard',
        'Likely',
        'Spelled',
        'Before',
        'After',
      ],
    ]);
    expect(table.rows.map((cells) => Number(cells[0])).sort()).toEqual([ids[0], ids[1], ids[4], ids[4], ids[4]].sort());
    expect(table.rows.find((cells) => Number(cells[0]) === ids[4])?.slice(4)).toEqual([
      ...['00:00:00:02', '00:00:00:13', 'bell', 'bell', '100%', 'yes', 'a', 'here nothing nothing a bell and a bell'],
    ]);
    const first = (await find('bell', { query: `number:${ids[4]}` })).files[0]?.hits[0];
    const hit = { said: 'bell', assetId: ids[4] ?? 0, startMs: first?.startMs ?? 0 };
    await editor.call('dismissHit', { ...hit, dismissed: true });
    expect(readTable((await taken('csv', { said: 'bell', query: 'kind:video' })).text).table.rows).toHaveLength(2);
    await editor.call('dismissHit', { ...hit, dismissed: false });

    const counting = countingById('25') as Counting;
    const edl = readEdl((await taken('edl', { said: 'bell' })).text, counting);
    // A second around each, and those that run into each other once; of sounds there is no picture.
    expect(edl.list?.events.map(({ source }) => [source.start, source.end])).toEqual([
      [0, 39],
      [51, 119],
    ]);
    const { text } = await taken('otio', { said: 'bell' });
    const otio = readOtio(text);
    expect(otio.issues).toEqual([]);
    expect(otio.list?.events.map(({ source }) => source)).toEqual(edl.list?.events.map(({ source }) => source));
    expect(text.match(/"Marker\.\d"/g)).toHaveLength(3);
    expect(text.match(/"100% likely, as spelled"/g)).toHaveLength(3);
    const refused = (asked: object) => editor.refused('takeHits', asked);
    expect(await refused({ said: 'hole', format: 'edl' })).toMatchObject({ status: 422 });
    expect((await taken('csv', { said: 'nowhere' })).text.split('\r\n')).toHaveLength(2);
    for (const asked of [{}, { format: 'x' }, { format: 'csv', notch: 9 }, { format: 'csv', query: 'tag:' }])
      expect([asked, (await refused(asked)).status]).toEqual([asked, 422]);
    await say(4, 'bell '.repeat(20_000));
    const { revision } = await editor.call('status', null);
    const tooMany = { said: 'bell', query: `number:${ids[4]}`, atLeast: revision };
    expect((await editor.call('takeHits', { ...tooMany, format: 'csv' })).text.split('\r\n')).toHaveLength(20_002);
    await say(4, 'bell '.repeat(20_001));
    const next = (await editor.call('status', null)).revision;
    expect(await refused({ ...tooMany, format: 'csv', atLeast: next })).toMatchObject({
      error: { reason: 'That is found 20001 times, and a list has at most 20000. Look for something narrower.' },
    });
    const { sources } = await editor.call('transcript', { source: null }, ids[4] ?? 0);
    await editor.call('removeTranscript', { source: 'brought-in', version: sources[0]?.version ?? 0 }, ids[4] ?? 0);
  });

  it('knows what was said after a restart', async () => {
    library = await library.again();
    editor = await library.as('editor');
    expect((await find('"low water"')).found).toEqual([0]);
    expect((await find('ottermouth', { notch: 4 })).found.sort()).toEqual([0, 1]);
  }, 60_000);
});
