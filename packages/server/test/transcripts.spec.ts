import { execFileSync } from 'node:child_process';
import { readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { aligned, saidText } from '@larder/core/dialogue';
import { insertChunks, writeIxml } from '@larder/core/interchange/bwf';
import { FILE_PATHS } from '@larder/contract';
import { openDatabase } from '@larder/server';
import type { JobContext } from '../src/jobs/context';
import { recognise } from '../src/jobs/recognise';
import type { Recogniser } from '../src/media/recogniser';
import { RenditionStore } from '../src/media/rendition-store';
import { allJobsEnded, type Client, makeClip, scanned, TestLibrary, treeHash } from './kit';
import { wave } from './wave';

const LINE = 'My grandmother kept the lower lock for thirty years. The bell tells you when it is ready.';
/** Recorded speech with what is said in it, as Debian's `pocketsphinx-testdata` carries it. */
const RECORDED = '/usr/share/pocketsphinx/test/data/librivox';

let library: TestLibrary;
let editor: Client;
let other: Client;
let shelf: string;
let ids: Readonly<Record<string, number>>;

beforeAll(async () => {
  library = await TestLibrary.start(2);
  const manager = await library.as('manager');
  [editor, other] = [await library.as('editor'), await library.as('other')];
  shelf = library.shelf('sound');
  execFileSync('flite', ['-voice', 'rms', '-t', LINE, '-o', join(shelf, 'spoken.wav')]);
  execFileSync('flite', ['-voice', 'slt', '-t', `${LINE} `.repeat(18), '-o', join(shelf, 'long.wav')]);
  const [sound, noise] = ['sine=frequency=440:duration=6', 'anoisesrc=d=6:c=pink:a=0.3'];
  for (const [name, source] of [
    ['tone', sound],
    ['noise', noise],
  ] as const)
    execFileSync('ffmpeg', ['-v', 'error', '-f', 'lavfi', '-i', source, join(shelf, `${name}.wav`)]);
  for (const name of ['silent', 'unheard']) writeFileSync(join(shelf, `${name}.wav`), wave(1));
  makeClip(join(shelf, 'mute.mov'), { more: ['-an'] });
  for (const name of recorded()) execFileSync('cp', [join(RECORDED, `${name}.wav`), join(shelf, `${name}.wav`)]);
  await scanned(manager, 'Sound', shelf);
  await allJobsEnded(manager);
  const { assets } = await editor.call('search', { limit: 50 });
  ids = Object.fromEntries(assets.map(({ name, id }) => [name.split('.')[0] ?? '', id]));
}, 120_000);
afterAll(() => library.stop(), 60_000);

const recorded = (): string[] => readFileSync(join(RECORDED, 'fileids'), 'utf8').trim().split('\n');
const idOf = (name: string): number => ids[name] ?? 0;
const transcript = (name: string, source: 'recognised' | 'corrected' | 'brought-in' | null = null) =>
  editor.call('transcript', { source }, idOf(name));
const said = async (name: string) => saidText((await transcript(name)).shown?.words ?? []);
const search = async (query: string) => {
  const { revision } = await editor.call('status', null);
  return (await editor.call('search', { query, atLeast: revision })).assets;
};
const found = async (query: string) => (await search(query)).map(({ name }) => name.split('.')[0]);

async function recognised(...names: string[]): Promise<void> {
  const { queued } = await editor.call('recognise', { assetIds: names.map(idOf) });
  expect(queued).toBe(names.length);
  await allJobsEnded(editor);
}

describe('recognition', () => {
  it('goes on by itself with what comes in on a storage that is set so', async () => {
    const manager = await library.as('manager');
    const folder = library.shelf('new');
    await scanned(manager, 'New', folder);
    const storage = (await manager.call('storages', null)).storages.find(({ name }) => name === 'New');
    const { id = 0, kind = 'local', managed = false, name = '', verifyDays = null } = storage ?? {};
    expect(storage?.recognises).toBe(false);
    await manager.call('changeStorage', { kind, managed, name, verifyDays, presenceHours: null, recognises: true }, id);
    const say = (words: string, file: string) =>
      execFileSync('flite', ['-voice', 'rms', '-t', words, '-o', join(folder, file)]);
    say('The water is high today', 'fresh.wav');
    makeClip(join(folder, 'fresh-mute.mov'), { more: ['-an'] });
    await scanned(manager, 'New', folder);
    await allJobsEnded(manager);
    const jobs = (await manager.call('jobs', null)).jobs.filter(({ kind }) => kind === 'recognise');
    expect(jobs.map(({ subject, state }) => [subject, state])).toEqual([['fresh.wav', 'done']]);
    expect(await found('said:water storage:New')).toEqual(['fresh']);
  });

  it('keeps with the words the phones that it heard, and a name that it cannot know is found by them', async () => {
    const manager = await library.as('manager');
    const folder = library.shelf('names');
    const lines = {
      named: 'We talked about Fenomouth for most of the evening',
      other: 'We talked about the weather for most of the evening',
    };
    for (const [name, line] of Object.entries(lines))
      execFileSync('flite', ['-voice', 'rms', '-t', line, '-o', join(folder, `${name}.wav`)]);
    await scanned(manager, 'Names', folder);
    await allJobsEnded(manager);
    const assets = await search('storage:Names');
    await editor.call('recognise', { assetIds: assets.map(({ id }) => id) });
    await allJobsEnded(editor);
    const named = assets.find(({ name }) => name === 'named.wav')?.id ?? 0;
    const { shown } = await editor.call('transcript', { source: null }, named);
    const words = shown?.words ?? [];
    expect(saidText(words)).toMatch(/evening/);
    expect(saidText(words).toLowerCase()).not.toMatch(/fenomouth/);
    expect(words.some((word) => 'sounds' in word)).toBe(false);
    expect(await found('heard:"fenomouth,likely"')).toEqual(['named']);
    const { revision } = await editor.call('status', null);
    const { files } = await editor.call('spoken', { said: 'fenomouth', notch: 2, atLeast: revision });
    expect(files.map(({ asset, hits }) => [asset.id, hits.length])).toEqual([[named, 1]]);
    const hit = files[0]?.hits[0];
    expect(hit?.spelled).toBe(false);
    // What was heard for it stands where it was said: after a second at the earliest, and before the evening.
    expect(hit?.startMs).toBeGreaterThan(500);
    expect(hit?.endMs).toBeLessThan(words.at(-1)?.startMs ?? 0);
  });

  it('hears each channel by itself where everybody has a microphone of their own, by the names that the recorder gave', async () => {
    const folder = library.shelf('lavaliers');
    const voices = [
      { voice: 'rms', channel: 0, atMs: 300, words: 'The bell tells you when it is ready.' },
      { voice: 'slt', channel: 2, atMs: 5000, words: 'My grandmother kept the lower lock for thirty years.' },
    ];
    const inputs = voices.flatMap(({ voice, words }) => {
      const file = join(folder, `${voice}.wav`);
      execFileSync('flite', ['-voice', voice, '-t', words, '-o', file]);
      return ['-i', file];
    });
    // Each microphone hears the other voice too, a tenth as loud.
    const shares = Array.from({ length: 8 }, (_unused, channel) =>
      voices.map((each, at) => `${each.channel === channel ? 1 : 0.1}*c${at}`).join('+'),
    );
    const graph = [
      ...voices.map(({ atMs }, at) => `[${at}]aresample=48000,adelay=${atMs},apad=whole_dur=9[v${at}]`),
      `[v0][v1]join=inputs=2:channel_layout=stereo,pan=8c|${shares.map((share, channel) => `c${channel}=${share}`).join('|')}`,
    ].join(';');
    const eight = join(folder, 'eight.wav');
    execFileSync('ffmpeg', ['-v', 'error', ...inputs, '-filter_complex', graph, '-t', '9', eight]);
    for (const { voice } of voices) rmSync(join(folder, `${voice}.wav`));
    const ixml = writeIxml({
      project: null,
      scene: null,
      take: null,
      tape: null,
      note: null,
      circled: null,
      tracks: new Map([[3, 'Osk']]),
    });
    writeFileSync(eight, insertChunks(readFileSync(eight), [{ id: 'iXML', content: new TextEncoder().encode(ixml) }]));
    writeFileSync(join(folder, 'one.wav'), wave(1));
    const manager = await library.as('manager');
    await scanned(manager, 'Lavaliers', folder);
    await allJobsEnded(manager);
    const assets = await search('storage:Lavaliers');
    const [id = 0, single = 0] = ['eight', 'one'].map((name) => assets.find((each) => each.name.startsWith(name))?.id);
    const { queued, left } = await editor.call('recognise', { assetIds: [id, single], apart: true });
    expect([queued, left]).toEqual([1, [{ assetId: single, why: 'It has one channel only.' }]]);
    await allJobsEnded(editor);
    const { sources, shown } = await editor.call('transcript', { source: null }, id);
    expect(sources[0]?.madeBy).toContain('each channel by itself');
    expect(shown?.speakers.map(({ name }) => name)).toEqual(['Channel 1', 'Osk']);
    const changed = shown?.words.filter(({ startMs }) => startMs >= (shown.speakers[1]?.fromMs ?? 0)) ?? [];
    expect(saidText(shown?.words ?? [])).toContain('the bell tells you when it is ready');
    expect(saidText(changed)).toContain('my grandmother');
    // Once each: what the other microphones heard of it is passed over.
    expect(shown?.words.filter(({ text }) => /bell|grandmother/.test(text))).toHaveLength(2);
    const jobs = (await manager.call('jobs', null)).jobs.filter(({ subject }) => subject === 'eight.wav');
    expect(jobs.find(({ kind }) => kind === 'recognise')).toMatchObject({ state: 'done' });
    await editor.call('removeTranscript', { source: 'recognised', version: shown?.version ?? 0 }, id);
  });

  it('writes down what is said, each word with its time and how sure it is, and touches no original', async () => {
    const before = treeHash(shelf);
    await recognised('spoken');
    const { sources, shown } = await transcript('spoken');
    expect(sources).toMatchObject([{ source: 'recognised', language: 'en-US', by: null, version: 1 }]);
    const words = shown?.words ?? [];
    expect(saidText(words)).toContain('the bell tells you when it is ready');
    expect(words.every(({ startMs, endMs }, at) => startMs < endMs && startMs >= (words[at - 1]?.startMs ?? 0))).toBe(
      true,
    );
    expect(words.every(({ certainty }) => certainty !== null && certainty > 0 && certainty <= 1)).toBe(true);
    expect(words.some(({ others = [] }) => others.length > 0)).toBe(true);
    expect(treeHash(shelf)).toEqual(before);
    expect(await found('said:"tells you when"')).toEqual(['spoken']);
    expect(await found('said:nobody')).toEqual([]);
    // Plain words do not look into it by themselves.
    expect(await found('ready')).toEqual([]);
  });

  it('listens to nothing where nobody speaks, and says so', async () => {
    await recognised('tone', 'noise', 'silent');
    for (const name of ['tone', 'noise', 'silent'])
      expect([name, (await transcript(name)).shown?.words]).toEqual([name, []]);
    const { jobs } = await editor.call('jobs', null);
    const ended = jobs.filter(({ kind, assetId }) => kind === 'recognise' && assetId === idOf('noise'));
    expect(ended).toMatchObject([{ state: 'done', message: 'Nobody speaks in it.', total: 0 }]);
    expect(await found('has:said storage:Sound')).toEqual(['spoken']);
  });

  it('is not begun for what has no sound, nor twice', async () => {
    expect(await editor.call('recognise', { assetIds: [idOf('mute')] })).toEqual({
      queued: 0,
      left: [{ assetId: idOf('mute'), why: 'It has no sound.' }],
    });
    const assetIds = [idOf('tone')];
    const answers = [await editor.call('recognise', { assetIds }), await editor.call('recognise', { assetIds })];
    expect(answers.map(({ queued }) => queued)).toEqual([1, 0]);
    expect(answers[1]?.left[0]?.why).toBe('It is in the queue already.');
    await allJobsEnded(editor);
    const viewer = await library.as('viewer');
    expect(await viewer.refused('recognise', { assetIds })).toMatchObject({ error: { code: 'not-allowed' } });
  });

  it('is kept piece by piece, and goes on where it was left', async () => {
    const db = openDatabase(library.library.database.options);
    const asked: string[][] = [];
    const done: number[] = [];
    const by = (most: number): Recogniser => ({
      ...{ madeBy: 'a recogniser of the test', language: 'und' },
      knows: () => Promise.resolve(new Set()),
      hear: (pieces) => {
        if (asked.length === most) return Promise.reject(new Error('The machine went down.'));
        asked.push(pieces.map(({ startMs }) => String(startMs)));
        return Promise.resolve(
          pieces.map(({ startMs, endMs }) => [{ text: `at${startMs}`, startMs, endMs, certainty: 1 }]),
        );
      },
    });
    const work = (recogniser: Recogniser) =>
      recognise({
        ...{
          db,
          recogniser,
          signal: new AbortController().signal,
          store: new RenditionStore(join(library.folder, 'work')),
        },
        job: { payload: { assetId: idOf('long') } },
        report: ({ done: seconds }: { done?: number }) => void (seconds === undefined || done.push(seconds)),
      } as unknown as JobContext);
    await expect(work(by(1))).rejects.toThrow('The machine went down.');
    expect(asked).toHaveLength(1);
    expect((await transcript('long')).sources).toEqual([]);
    // Of another file, all of it is begun anew.
    await db.query(`UPDATE asset SET modified_ms = modified_ms + 1 WHERE id = ${idOf('long')}`);
    await expect(work(by(2))).rejects.toThrow('The machine went down.');
    expect(asked.splice(0, 1)).toEqual(asked);
    done.length = 0;
    await work(by(9));
    await db.close();
    const { shown } = await transcript('long');
    // Nothing twice, nothing left out, and what was done before counts from the start.
    expect(new Set(asked.flat()).size).toBe(asked.flat().length);
    expect(shown?.words.map(({ text }) => text)).toEqual(asked.flat().map((startMs) => `at${startMs}`));
    expect(asked.length).toBeGreaterThan(1);
    expect(done[0]).toBeGreaterThan(0);
    const lengths = shown?.words.map(({ startMs, endMs }) => endMs - startMs) ?? [];
    expect(Math.max(...lengths)).toBeLessThanOrEqual(20_000);
    expect(readdirSync(join(library.folder, 'work', '0', String(idOf('long'))))).toEqual([]);
  });

  it('of recorded speech is right as often as the model is, as NIST’s sclite counts', async () => {
    await recognised(...recorded());
    const published = new Map(
      readFileSync(join(RECORDED, 'transcription'), 'utf8')
        .split('\n')
        .flatMap((line) => {
          const [, text, name] = /^<s> (.*) <\/s> \((.*)\)$/.exec(line) ?? [];
          return name ? [[name, text ?? ''] as const] : [];
        }),
    );
    const lines = async (textOf: (name: string) => Promise<string> | string) =>
      (await Promise.all(recorded().map(async (name) => `${await textOf(name)} (reader_${name})\n`))).join('');
    const at = (name: string) => join(library.folder, name);
    writeFileSync(at('published.trn'), await lines((name) => published.get(name) ?? ''));
    writeFileSync(at('heard.trn'), await lines(said));
    const report = execFileSync(
      'sctk',
      ['sclite', '-r', at('published.trn'), 'trn', '-h', at('heard.trn'), 'trn', '-i', 'rm', '-o', 'rsum', 'stdout'],
      { encoding: 'utf8' },
    );
    const [, words, correct, , , , errors] =
      /Sum\s*\|\s*\d+\s+(\d+)\s*\|\s*(\d+)\s+(\d+)\s+(\d+)\s+(\d+)\s+(\d+)/.exec(report) ?? [];
    expect(Number(words)).toBe([...published.values()].join(' ').split(' ').length);
    // A study with the same model and knobs found 17 in a hundred.
    expect(Number(errors) / Number(words)).toBeLessThan(0.25);
    // What is aligned to it has as many words at their places, give or take where several places are as good.
    let same = 0;
    for (const [name, text] of published) {
      const heard = (await transcript(name, 'recognised')).shown?.words ?? [];
      same += aligned([{ startMs: null, endMs: null, speaker: '', text }], heard).same;
    }
    expect(Math.abs(same - Number(correct))).toBeLessThanOrEqual(2);
  });

  it('gives a text without times the times of what was heard, if it is the text of that', async () => {
    const [name = ''] = recorded();
    const id = idOf(name);
    const heard = (await transcript(name)).shown?.words ?? [];
    const text = `Reader: ${saidText(heard.slice(0, 4))} indeed ${saidText(heard.slice(4))}.`;
    const read = await editor.call('readTranscript', { text, name: 'reading.txt' }, id);
    expect(read).toMatchObject({ words: heard.length + 1, issues: [] });
    const { shown } = await transcript(name);
    expect(shown).toMatchObject({ source: 'brought-in', madeBy: 'reading.txt', speakers: [{ name: 'Reader' }] });
    expect(shown?.words.slice(0, 3).map(({ startMs, endMs }) => [startMs, endMs])).toEqual(
      heard.slice(0, 3).map(({ startMs, endMs }) => [startMs, endMs]),
    );
    expect(shown?.words.at(-1)?.startMs).toBe(heard.at(-1)?.startMs);
    await editor.call('undo', { group: read.group });
    const reasons = async (said: string, of: number) =>
      (await editor.refused('readTranscript', { text: said }, of)).error;
    expect(await reasons('Once upon a time there was something else altogether', id)).toMatchObject({
      reason: expect.stringContaining('seems to be the text of another') as string,
    });
    const unheard = idOf('unheard');
    expect(await reasons('Some words', unheard)).toMatchObject({
      reason: expect.stringContaining('choose “Recognise what is said”') as string,
    });
    // With times nothing needs to be heard.
    const table = 'Start,End,Speaker,Said\n0:00.5,0:01,Wren,"Low water, then"\nx,,,gone\n';
    const rows = await editor.call('readTranscript', { text: table, name: 'log.csv' }, unheard);
    // The last would be said after the clip has ended.
    expect(rows).toMatchObject({
      words: 3,
      outside: 1,
      issues: ['Row 3: “x” is no time. It was put after the one before.'],
    });
    await editor.call('undo', { group: rows.group });
  });
});

const SRT = `1
00:00:00,500 --> 00:00:02,500
She kept the lower lock
for thirty years.

2
00:00:03,000 --> 00:00:04,000
And the gates?

3
00:99:00,000 --> x
nothing

4
00:01:00,000 --> 00:01:01,000
Beyond the end
`;

describe('a transcript', () => {
  it('is brought in from captions, and is better than what was recognised', async () => {
    const id = idOf('spoken');
    const read = await editor.call('readTranscript', { text: SRT, name: 'lock.srt' }, id);
    expect(read).toMatchObject({ words: 11, outside: 1, issues: ['Line 11 has no times that can be read.'] });
    const { sources, shown } = await transcript('spoken');
    expect(sources.map(({ source }) => source)).toEqual(['brought-in', 'recognised']);
    expect(shown).toMatchObject({ source: 'brought-in', madeBy: 'lock.srt', by: 'The editor' });
    expect(shown?.words[0]).toEqual({ text: 'She', startMs: 500, endMs: 676, certainty: null });
    expect(shown?.words.at(-1)).toMatchObject({ text: 'gates?', endMs: 4000 });
    expect((await transcript('spoken', 'recognised')).shown?.words.length).toBeGreaterThan(10);
    expect(await found('said:"lower lock" said:gates')).toEqual(['spoken']);
    expect(await found('said:"tells you when"')).toEqual([]);
    // Undone it is gone, done again it is there, and one in its place is undone for the one before.
    await editor.call('undo', { group: read.group });
    expect((await transcript('spoken')).sources.map(({ source }) => source)).toEqual(['recognised']);
    expect(await found('said:"tells you when"')).toEqual(['spoken']);
    await editor.call('redo', null);
    expect(await said('spoken')).toBe(saidText(shown?.words ?? []));
    const another = 'WEBVTT\n\n00:00.000 --> 00:01.000\nAnother\n';
    const { group } = await editor.call('readTranscript', { text: another, name: 'other.vtt' }, id);
    expect(await said('spoken')).toBe('Another');
    await editor.call('undo', { group });
    expect((await transcript('spoken')).shown).toMatchObject({ madeBy: 'lock.srt', words: { length: 11 } });
    expect(await editor.refused('undo', { group: read.group })).toMatchObject({
      error: { reason: 'Somebody has changed this transcript since. Nothing was undone.' },
    });
    // Taken away, the one below is used; and it can be had back. Not one that has changed since.
    const at = { source: 'brought-in', version: (await transcript('spoken')).shown?.version ?? 0 } as const;
    expect(await editor.refused('removeTranscript', { ...at, version: at.version + 1 }, id)).toMatchObject({
      error: { reason: 'Somebody has changed this transcript since you opened it.' },
    });
    const removed = await editor.call('removeTranscript', at, id);
    expect((await transcript('spoken')).sources.map(({ source }) => source)).toEqual(['recognised']);
    expect(await found('said:"tells you when"')).toEqual(['spoken']);
    expect(await editor.refused('removeTranscript', at, id)).toMatchObject({ status: 404 });
    await editor.call('undo', { group: removed.group });
    expect((await transcript('spoken')).shown).toMatchObject({ madeBy: 'lock.srt', words: { length: 11 } });
    const { changes } = await editor.call('history', null, id);
    expect(changes.filter(({ action }) => action === 'transcript').length).toBeGreaterThan(4);
    // A whole transcript is for undoing, not for reading.
    expect(JSON.stringify(changes)).not.toContain('speakers');
    for (const [text, reason] of [
      ['<html>', 'That is neither WebVTT, SRT, TTML, a table nor plain text.'],
      ['WEBVTT\n\n59:00.000 --> 59:01.000\nx\n', 'All its times lie beyond the end of this clip.'],
    ])
      expect(await editor.refused('readTranscript', { text }, id)).toMatchObject({ error: { reason } });
    expect(await editor.refused('readTranscript', { text: SRT }, idOf('mute'))).toMatchObject({ status: 422 });
    expect(await editor.refused('readTranscript', { text: SRT }, 999_999)).toMatchObject({ status: 404 });
  });

  it('is corrected word by word beside what it was, found by what it says now, and each correction is undone', async () => {
    const id = idOf('spoken');
    const { shown } = await transcript('spoken');
    const { version = 0, words = [] } = shown ?? {};
    const change = { source: 'brought-in' as const, version };
    const made = await editor.call('correctTranscript', { ...change, from: 3, to: 5, text: 'weir upper sluice' }, id);
    expect(await said('spoken')).toBe('She kept the weir upper sluice for thirty years. And the gates?');
    const after = (await transcript('spoken')).shown;
    expect(after).toMatchObject({ source: 'corrected', by: 'The editor' });
    // The three have the time of the two, and all others theirs.
    expect(after?.words.slice(3, 6).map(({ startMs, endMs }) => [startMs, endMs])).toEqual([
      [words[3]?.startMs, expect.any(Number)],
      [expect.any(Number), expect.any(Number)],
      [expect.any(Number), words[4]?.endMs],
    ]);
    expect(after?.words.slice(6)).toEqual(words.slice(5));
    expect(await found('said:sluice')).toEqual(['spoken']);
    expect(await found('said:"lower lock"')).toEqual([]);
    // What was brought in is as it was, and cannot be corrected past what was made of it.
    expect(saidText((await transcript('spoken', 'brought-in')).shown?.words ?? [])).toContain('lower lock');
    expect(await other.refused('correctTranscript', { ...change, from: 0, to: 1, text: 'He' }, id)).toMatchObject({
      error: { reason: expect.stringContaining('Somebody has corrected this transcript') as string },
    });
    const corrected = { source: 'corrected' as const, version: after?.version ?? 0 };
    const theirs = await other.call('correctTranscript', { ...corrected, from: 0, to: 1, text: 'He always' }, id);
    await editor.call('undo', { group: made.group });
    expect(await said('spoken')).toBe('He always kept the lower lock for thirty years. And the gates?');
    await editor.call('redo', null);
    expect(await said('spoken')).toContain('weir upper sluice');
    await other.call('undo', { group: theirs.group });
    expect(await said('spoken')).toBe('She kept the weir upper sluice for thirty years. And the gates?');
  });

  it('says who speaks, leaves as captions, text and table, and comes back', async () => {
    const id = idOf('spoken');
    const version = async () => (await transcript('spoken')).shown?.version ?? 0;
    const change = { source: 'corrected' as const, from: 9, to: 12, speaker: 'Osk' };
    await editor.call('correctTranscript', { ...change, version: await version() }, id);
    expect((await transcript('spoken')).shown?.speakers).toEqual([{ fromMs: 3000, name: 'Osk' }]);
    const file = async (format: 'vtt' | 'srt' | 'txt' | 'csv') =>
      (await editor.raw('GET', FILE_PATHS.transcript(id, format))).text();
    const vtt = await file('vtt');
    expect(vtt).toContain('00:00:03.000 --> 00:00:04.000\n<v Osk>And the gates?</v>');
    expect(await file('srt')).toContain('Osk: And the gates?');
    expect(await file('txt')).toContain('[00:00:03.000] Osk: And the gates?');
    expect((await file('csv')).split('\r\n')[2]).toBe('00:00:03.000,00:00:04.000,Osk,And the gates?');
    await editor.call('readTranscript', { text: vtt }, id);
    expect((await transcript('spoken', 'brought-in')).shown).toMatchObject({
      speakers: [{ fromMs: 3000, name: 'Osk' }],
      words: { length: 12 },
    });
    expect((await editor.raw('GET', FILE_PATHS.transcript(idOf('mute'), 'vtt'))).status).toBe(404);
    // Nobody speaks what is taken out.
    const out = { source: 'corrected' as const, version: await version(), from: 0, to: 1, text: '', speaker: 'Nobody' };
    const { group } = await editor.call('correctTranscript', out, id);
    expect((await transcript('spoken', 'corrected')).shown?.speakers).toEqual([{ fromMs: 3000, name: 'Osk' }]);
    await editor.call('undo', { group });
    const many = 'WEBVTT\n\n00:00.000 --> 00:01.000\n' + 'word '.repeat(2001);
    await editor.call('readTranscript', { text: many }, idOf('tone'));
    const all = { source: 'brought-in', version: 1, from: 0, to: 2001 };
    expect(await editor.refused('correctTranscript', { ...all, text: 'x' }, idOf('tone'))).toMatchObject({
      error: { reason: 'At most 2,000 words are corrected at once.' },
    });
    await editor.call('correctTranscript', { ...all, source: 'brought-in' as const, speaker: 'Osk' }, idOf('tone'));
    const bad = { source: 'corrected', version: await version(), from: 5, to: 99, text: 'x' };
    expect(await editor.refused('correctTranscript', bad, id)).toMatchObject({ status: 422 });
  });

  it('is read as ffmpeg writes TTML, and is read by ffmpeg as it leaves', async () => {
    const at = (name: string) => join(library.folder, name);
    const ffmpeg = (from: string, to: string) => execFileSync('ffmpeg', ['-v', 'error', '-y', '-i', at(from), at(to)]);
    writeFileSync(at('made.srt'), '1\n00:00:00,500 --> 00:00:01,500\nShe kept\nthe lock & more\n');
    ffmpeg('made.srt', 'made.ttml');
    const id = idOf('long');
    await editor.call('readTranscript', { text: readFileSync(at('made.ttml'), 'utf8'), name: 'made.ttml' }, id);
    const { shown } = await transcript('long');
    expect(saidText(shown?.words ?? [])).toBe('She kept the lock & more');
    expect([shown?.words[0]?.startMs, shown?.words.at(-1)?.endMs]).toEqual([500, 1500]);
    for (const format of ['vtt', 'srt'] as const) {
      const left = await (await editor.raw('GET', FILE_PATHS.transcript(id, format))).text();
      writeFileSync(at(`left.${format}`), left);
      ffmpeg(`left.${format}`, 'again.srt');
      expect([format, readFileSync(at('again.srt'), 'utf8').trim()]).toEqual([
        format,
        '1\n00:00:00,500 --> 00:00:01,500\nShe kept the lock & more',
      ]);
    }
    const ttml = await (await editor.raw('GET', FILE_PATHS.transcript(id, 'ttml'))).text();
    expect(ttml).toContain('<p begin="00:00:00.500" end="00:00:01.500">She kept the lock &amp; more</p>');
  });

  it('has its hits in time, with what is said around them', async () => {
    const { revision } = await editor.call('status', null);
    const { total, assets } = await editor.call('hits', { query: 'said:sluice', atLeast: revision });
    expect(total).toBe(1);
    expect(assets[0]).toMatchObject({
      ...{ asset: { id: idOf('spoken') }, hits: [] },
      said: [
        {
          before: 'She kept the weir upper',
          hit: 'sluice',
          after: 'for thirty years. And the gates?',
          certainty: null,
        },
      ],
    });
  });
});
