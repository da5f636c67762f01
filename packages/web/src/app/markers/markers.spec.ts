import { asset } from '../../../test/assets';
import { LibraryServer } from '../../../test/library';
import { Refusal, Screen, until } from '../../../test/screen';

let server: LibraryServer;
beforeEach(() => {
  sessionStorage.clear();
  localStorage.clear();
  server = new LibraryServer([
    asset(1, { name: 'lock.mov', renditions: ['proxy'], startFrame: 90_000, durationFrames: 100 }),
    asset(2, {
      name: 'bell.wav',
      kind: 'audio',
      rate: null,
      durationFrames: null,
      durationMs: 90_000,
      path: 'a/bell.wav',
    }),
  ]);
  server.on('first', () => null);
});

const open = async (id = 1, address = '/library'): Promise<Screen> => {
  const screen = await Screen.open(address, server, 'editor');
  await screen.click(`nl-tile[data-id="${id}"]`);
  await until('the player', () => screen.all('nl-player video').length === 1);
  return screen;
};
const list = 'nl-details nl-asset-markers';
const set = (start: number, name: string, more = {}) =>
  server.markers.push({
    ...{ id: server.markers.length + 1, assetId: 1, kind: 'note', start, end: null, name, note: '', colour: 'none' },
    ...{ by: 'Jo Lock' },
    ...more,
  });

describe('markers', () => {
  it('M sets one where the clip stands, Shift and M one to be named at once, and both can be undone', async () => {
    const screen = await open();
    await screen.press('m');
    await until('the first', () => server.markers.length === 1);
    await screen.says(list, '01:00:00:00');
    await screen.press('ArrowRight', { shiftKey: true });
    await screen.press('M', { shiftKey: true });
    await until('its name', () => document.activeElement?.getAttribute('aria-label') === 'Name of the marker');
    const field = document.activeElement as HTMLInputElement;
    field.value = 'She laughs';
    field.dispatchEvent(new Event('change', { bubbles: true }));
    await screen.press('Enter');
    await screen.says(list, 'She laughs');
    expect(server.markers.map(({ start, name }) => [start, name])).toEqual([
      [0, ''],
      [1, 'She laughs'],
    ]);
    expect(screen.all('nl-player .tick')).toHaveLength(2);
    await screen.press('z', { ctrlKey: true });
    await until('the undo', () => server.bodies('undo').length === 1);
  });

  it('over what is marked it is a stretch, and the marks are forgotten', async () => {
    const screen = await open();
    await screen.press('i');
    await screen.press('ArrowRight', { shiftKey: true });
    await screen.press('o');
    await until('the range', () => screen.all('.range').length === 1);
    await screen.press('m');
    await until('the stretch', () => server.markers.length === 1);
    expect(server.markers[0]).toMatchObject({ start: 0, end: 2 });
    await until('no range', () => screen.all('.range').length === 0);
    await screen.says(list, '01:00:00:00 – 01:00:00:01');
  });

  it('are gone to, filtered, moved by a frame, changed and removed', async () => {
    set(10, 'Gate opens', { colour: 'red', kind: 'chapter' });
    set(40, 'She laughs', { note: 'off camera' });
    set(99, 'End');
    for (const n of [50, 60]) set(n, 'Between');
    const screen = await open();
    await screen.says(list, '5 markers');
    await screen.says(list, 'red');
    await screen.click(`${list} [data-marker="2"] .place`);
    await screen.says('nl-player [data-test=frame]', '40 / 100');
    await screen.click('nl-player .tick[data-marker="1"]');
    await screen.says('nl-player [data-test=frame]', '10 / 100');
    await screen.type('#marker-filter', 'CAMERA');
    await until('one', () => screen.all(`${list} li`).length === 1);
    await screen.click(`${list} [aria-label="One frame earlier"]`);
    await until('it moved', () => server.markers[1]?.start === 39);
    await screen.says('nl-player [data-test=frame]', '39 / 100');
    await screen.click(`${list} [aria-label="Change the marker"]`);
    await screen.choose(`${list} select[aria-label=Colour]`, 'green');
    await until('the colour', () => server.markers[1]?.colour === 'green');
    await screen.click(`${list} button`, 'Done');
    await screen.click(`${list} button`, 'Remove these');
    await until('it gone', () => server.markers.map(({ name }) => name).join() === 'Gate opens,End,Between,Between');
    await screen.type('#marker-filter', '');
    await screen.click(`${list} [data-marker="3"] [aria-label="One frame later"]`);
    // It stands at the end already.
    expect(server.bodies('changeMarker')).toHaveLength(2);
    await screen.click(`${list} [data-marker="3"] [aria-label="Remove the marker"]`);
    await until('it gone too', () => server.markers.length === 3);
  });

  it('a clip whose marker the search found opens there', async () => {
    set(10, 'Gate opens');
    set(40, 'lock laughs');
    const screen = await open(1, '/library?q=lock');
    await screen.says('nl-player [data-test=frame]', '40 / 100');
    // Told apart on the position, and in words.
    expect(screen.all('nl-player .tick').map((tick) => [tick.classList.contains('hit'), tick.title])).toEqual([
      [false, '01:00:00:10 · Gate opens'],
      [true, '01:00:01:15 · lock laughs · found by the search'],
    ]);
  });

  it('stand in sound by its time', async () => {
    const screen = await open(2);
    const video = screen.one<HTMLVideoElement>('nl-player video');
    video.currentTime = 61.25;
    video.dispatchEvent(new Event('timeupdate'));
    await screen.press('m');
    await until('the marker', () => server.markers.length === 1);
    expect(server.markers[0]).toMatchObject({ start: 61_250, assetId: 2 });
    await screen.says(list, '01:01.2');
  });

  it('what a colleague sets comes by itself; what was not saved is said and taken back', async () => {
    const screen = await open();
    set(5, 'Theirs');
    screen.changed('asset', 1, ++server.revision);
    await screen.says(list, 'Theirs');
    server.on('newMarker', () => new Refusal(422, { code: 'refused', reason: 'Too late.' }));
    await screen.press('m');
    await screen.says('nl-toasts', 'The marker was not saved. Too late.');
    await until('only theirs', () => screen.all(`${list} li`).length === 1);
    server.on('markers', () => new Refusal(500, { code: 'internal', reference: 'x' }));
    screen.changed('asset', 1, ++server.revision);
    await screen.says(list, 'The markers cannot be shown just now.');
  });
});

describe('captions', () => {
  it('take the markers along, and are read as markers; what was left out is told', async () => {
    const screen = await open();
    await until('the markers', () => screen.all(`${list} nl-timed-notes`).length === 1);
    const addresses = () =>
      screen.all<HTMLAnchorElement>(`${list} nl-timed-notes a`).map((a) => a.getAttribute('href'));
    expect(addresses()).toEqual([]);
    server.on('readNotes', () => {
      set(10, 'She laughs');
      return { ...server.written(), added: 1, outside: 0, countedFrom: 'timecode', issues: [] };
    });
    const choose = () => screen.chooseFile(`${list} nl-timed-notes input`, 'lock.vtt', 'WEBVTT');
    await choose();
    await screen.says('nl-toasts', '1 marker from lock.vtt, by their timecode.');
    await screen.press('z', { ctrlKey: true });
    await until('the undo', () => server.bodies('undo').length === 1);
    screen.changed('asset', 1, 12);
    await screen.says(list, 'She laughs');
    expect(addresses()).toEqual(['/files/1/markers.vtt', '/files/1/markers.srt']);
    const issues = [4, 8, 12, 16].map((line) => `Line ${line} ends before it begins.`);
    server.on('readNotes', () => ({ ...server.written(), added: 2, outside: 1, countedFrom: 'start', issues }));
    await choose();
    await screen.says(
      'nl-toasts',
      '2 markers from lock.vtt. 1 caption beyond the end of the clip left out. Line 4 ends before it begins. Line 8 ends before it begins. Line 12 ends before it begins. And 1 more such lines.',
    );
    server.on(
      'readNotes',
      () => new Refusal(422, { code: 'refused', reason: 'That is neither WebVTT, SRT nor TTML.' }),
    );
    await choose();
    await screen.says('nl-toasts', 'lock.vtt was not read. That is neither WebVTT, SRT nor TTML.');
    expect(server.bodies('readNotes')).toEqual([1, 2, 3].map(() => ({ text: 'WEBVTT' })));
  });
});
