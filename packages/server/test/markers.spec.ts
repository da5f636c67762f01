import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { NewMarker } from '@larder/core/markers';
import { FILE_PATHS } from '@larder/contract';
import { allJobsEnded, type Client, scanned, TestLibrary, until } from './kit';
import { wave } from './wave';

let library: TestLibrary;
let editor: Client;
let other: Client;
let id: number;

beforeAll(async () => {
  library = await TestLibrary.start(1);
  const manager = await library.as('manager');
  [editor, other] = [await library.as('editor'), await library.as('other')];
  const shelf = library.shelf('sound');
  writeFileSync(join(shelf, 'T1.wav'), wave(1));
  await scanned(manager, 'Sound', shelf);
  await allJobsEnded(manager);
  id = await until('the index', async () => (await manager.call('searchIds', {})).ids[0]);
}, 120_000);
afterAll(() => library.stop(), 60_000);

const marker = (start: number, name: string, more: Partial<NewMarker> = {}): NewMarker => ({
  ...{ kind: 'note', start, end: null, name, note: '', colour: 'none' },
  ...more,
});
const markers = async () => (await editor.call('markers', null, id)).markers;
const names = async () => (await markers()).map(({ name }) => name);
const found = async (query: string) => {
  const { revision } = await editor.call('status', null);
  return until(`the answer at ${revision}`, async () => {
    const answer = await editor.call('search', { query, limit: 0, atLeast: revision });
    return answer.revision >= revision && [answer.total];
  }).then(([total]) => total);
};

describe('markers', () => {
  it('are set, in the order of their places, with who set them, and found by what they say', async () => {
    await editor.call('newMarker', marker(40, 'She laughs', { colour: 'red' }), id);
    await other.call('newMarker', marker(10, '', { note: 'Écluse, lower gate', end: 30, kind: 'chapter' }), id);
    expect(await markers()).toMatchObject([
      { start: 10, end: 30, kind: 'chapter', by: expect.any(String) as unknown },
      { start: 40, end: null, name: 'She laughs', colour: 'red' },
    ]);
    for (const query of ['laughs', 'marker:laughs', 'markers:"lower gate"', 'has:marker'])
      expect([query, await found(query)]).toEqual([query, 1]);
    expect((await editor.call('rows', { ids: [id] })).assets[0]?.markers).toEqual(['Écluse, lower gate', 'She laughs']);
  });

  it('are the hits of a search in time, of each asset those that say what is searched for', async () => {
    const { revision } = await editor.call('status', null);
    const hits = async (query: string, more = {}) => {
      const { total, assets } = await editor.call('hits', { query, atLeast: revision, ...more });
      return [total, ...assets.map((each) => [each.asset.id, ...each.hits.map(({ start }) => start)])];
    };
    expect(await hits('laughs')).toEqual([1, [id, 40]]);
    expect(await hits('gate or laughs kind:audio')).toEqual([1, [id, 10, 40]]);
    expect(await hits('kind:audio')).toEqual([1, [id, 10, 40]]);
    expect(await hits('name:T1 kind:video')).toEqual([0]);
    expect(await hits('laughs', { offset: 1 })).toEqual([1]);
    // Said in its name, and by none of its markers.
    expect(await hits('T1')).toEqual([0]);
    expect(await editor.refused('hits', { query: 'laughs (' })).toMatchObject({ error: { code: 'query' } });
  });

  it('are changed, removed and all of it undone, by who did it', async () => {
    const [first, second] = await markers();
    if (!first || !second) throw new Error('no markers');
    const changed = await editor.call('changeMarker', marker(41, 'She smiles'), second.id);
    expect(await found('laughs')).toBe(0);
    expect(await other.refused('undo', { group: changed.group })).toMatchObject({ error: { code: 'refused' } });
    await editor.call('undo', { group: changed.group });
    expect(await names()).toEqual(['', 'She laughs']);
    const removed = await editor.call('removeMarkers', { ids: [first.id, second.id] });
    expect(await names()).toEqual([]);
    expect(await found('has:marker')).toBe(0);
    await editor.call('undo', { group: removed.group });
    expect((await markers()).map((each) => each.id).sort((a, b) => a - b)).toEqual(
      [first.id, second.id].sort((a, b) => a - b),
    );
    expect((await markers())[1]).toMatchObject({ name: 'She laughs', colour: 'red' });
    const added = await editor.call('newMarker', marker(50, 'Oops'), id);
    await editor.call('undo', { group: added.group });
    expect(await names()).toEqual(['', 'She laughs']);
  });

  it('an undo is refused where somebody has changed the marker since', async () => {
    const added = await editor.call('newMarker', marker(60, 'Mine'), id);
    await other.call('changeMarker', marker(61, 'Theirs'), added.id);
    expect(await editor.refused('undo', { group: added.group })).toMatchObject({
      error: { reason: 'Somebody has changed or removed this marker since. Nothing was undone.' },
    });
    expect(await names()).toContain('Theirs');
  });

  it('stand within their asset', async () => {
    const asset = (await editor.call('rows', { ids: [id] })).assets[0];
    const length = asset?.durationMs ?? 0;
    expect(await editor.refused('newMarker', marker(length, 'x'), id)).toMatchObject({
      error: { reason: 'The marker would stand after the end of the asset.' },
    });
    expect(await editor.refused('newMarker', marker(0, 'x', { end: length + 1 }), id)).toMatchObject({ status: 422 });
    expect(await editor.refused('newMarker', marker(0, 'x', { end: 0 }), id)).toMatchObject({ status: 422 });
    expect(await editor.refused('newMarker', marker(0, 'x'), 999_999)).toMatchObject({ status: 404 });
    expect(await editor.refused('changeMarker', marker(0, 'x'), 999_999)).toMatchObject({ status: 404 });
    expect(await editor.refused('removeMarkers', { ids: [999_999] })).toMatchObject({ status: 404 });
  });

  it('set by thirty at once are all there', async () => {
    const before = (await markers()).length;
    await Promise.all(Array.from({ length: 30 }, (_unused, n) => editor.call('newMarker', marker(n, `At ${n}`), id)));
    expect(await markers()).toHaveLength(before + 30);
  });
});

describe('where somebody stopped logging', () => {
  it('is theirs alone, and no change of the library', async () => {
    const { revision } = await editor.call('status', null);
    const place = { query: 'laughs', assetId: id, done: 2, total: 5 };
    await editor.call('setLoggingPlace', place);
    await editor.call('setLoggingPlace', { ...place, done: 3 });
    expect((await editor.call('loggingPlaces', null)).places).toMatchObject([{ ...place, done: 3 }]);
    expect((await other.call('loggingPlaces', null)).places).toEqual([]);
    expect((await editor.call('status', null)).revision).toBe(revision);
    expect(await editor.refused('setLoggingPlace', { ...place, assetId: 999_999 })).toMatchObject({ status: 404 });
  });
});

describe('markers as captions', () => {
  const captions = async (format: 'vtt' | 'srt') => (await editor.raw('GET', FILE_PATHS.notes(id, format))).text();
  const clear = async () => {
    const ids = (await markers()).map((each) => each.id);
    if (ids.length > 0) await editor.call('removeMarkers', { ids });
  };

  it('leave as WebVTT and come back the same, as one change; as SRT with their words', async () => {
    await clear();
    await editor.call(
      'newMarker',
      marker(100, 'Bell & lock', { note: 'Two\n\nlines', colour: 'red', kind: 'problem' }),
      id,
    );
    await editor.call('newMarker', marker(200, '', { note: 'Écluse <1>', end: 400 }), id);
    const before = await markers();
    const vtt = await captions('vtt');
    expect(await captions('srt')).toContain('1\n00:00:00,100 --> 00:00:00,101\nBell & lock\nTwo\n');
    await clear();
    const read = await editor.call('readNotes', { text: vtt }, id);
    expect(read).toMatchObject({ added: 2, outside: 0, countedFrom: 'start', issues: [] });
    const said = (all: readonly NewMarker[]) =>
      all.map(({ kind, start, end, name, note, colour }) => ({ kind, start, end, name, note, colour }));
    expect(said(await markers())).toEqual(said(before));
    await editor.call('undo', { group: read.group });
    expect(await markers()).toEqual([]);
    await editor.call('redo', null);
    expect(said(await markers())).toEqual(said(before));
  });

  it('that lie outside, or cannot be read, are told, and files that are no captions refused', async () => {
    await clear();
    const { durationMs } = (await editor.call('rows', { ids: [id] })).assets[0] ?? {};
    const text = `WEBVTT\n\n00:00.010 --> 00:00.020\nin\n\n59:00.000 --> 59:01.000\nout of ${durationMs} ms\n\nx --> y\nz\n`;
    expect(await editor.call('readNotes', { text }, id)).toMatchObject({
      ...{ added: 1, outside: 1 },
      issues: ['Line 9 has no times that can be read.'],
    });
    for (const [bad, words] of [
      ['<html>', 'That is neither WebVTT, SRT nor TTML.'],
      ['WEBVTT\n', 'There is no text with times in it that can be read.'],
      ['WEBVTT\n\n59:00.000 --> 59:01.000\nx\n', 'All its times lie beyond the end of this clip.'],
    ])
      expect(await editor.refused('readNotes', { text: bad }, id)).toMatchObject({ error: { reason: words } });
    expect(await editor.refused('readNotes', { text: 'WEBVTT' }, 999)).toMatchObject({ status: 404 });
    const viewer = await library.as('viewer');
    expect(await viewer.refused('readNotes', { text }, id)).toMatchObject({ error: { code: 'not-allowed' } });
    expect((await editor.raw('GET', FILE_PATHS.notes(999, 'vtt'))).status).toBe(404);
  });
});
