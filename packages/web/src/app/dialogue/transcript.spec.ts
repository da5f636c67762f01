import type { TranscriptInfo } from '@larder/contract';
import { asset } from '../../../test/assets';
import { LibraryServer } from '../../../test/library';
import { Refusal, Screen, until } from '../../../test/screen';

const SOUND = { codec: 'pcm_s16le', channels: 2, layout: 'stereo', sampleRate: 48_000 };
const INFO: TranscriptInfo = {
  ...{ source: 'recognised', version: 3, language: 'en-US', madeBy: 'A recogniser' },
  ...{ madeMs: 1, by: null },
};
/** A word each half second, from the fourth on after a pause. */
const words = 'at low water you hear the gates talk'.split(' ').map((text, at) => ({
  text,
  startMs: at * 500 + (at > 3 ? 1000 : 0),
  endMs: at * 500 + (at > 3 ? 1000 : 0) + 400,
  certainty: text === 'low' ? 0.31 : 0.9,
  ...(text === 'low' ? { others: [{ text: 'lot', certainty: 0.2 }] } : {}),
}));
const view = 'nl-details nl-transcript';

let server: LibraryServer;
beforeEach(() => {
  sessionStorage.clear();
  localStorage.clear();
  server = new LibraryServer([
    asset(1, { name: 'wren.mov', renditions: ['proxy'], startFrame: 90_000, durationFrames: 200, sound: SOUND }),
    asset(3, { name: 'osk.mov', renditions: ['proxy'], startFrame: 0, durationFrames: 200, sound: SOUND }),
    asset(2, { name: 'mute.mov', renditions: ['proxy'], startFrame: 0, durationFrames: 200 }),
  ]);
  server.on('first', () => null);
  server.on('transcript', () => ({
    sources: [INFO],
    shown: { ...INFO, words, speakers: [{ fromMs: 3000, name: 'Osk' }] },
  }));
});

const open = async (id = 1, address = '/library'): Promise<Screen> => {
  const screen = await Screen.open(address, server, 'editor');
  await screen.click(`nl-tile[data-id="${id}"]`);
  await until('the player', () => screen.all('nl-player video').length === 1);
  return screen;
};
const frameShown = (screen: Screen) =>
  Math.floor((screen.all<HTMLVideoElement>('nl-player video')[0]?.currentTime ?? -1) * 25);
const textsOf = (screen: Screen, selector: string) =>
  screen.all(`${view} ${selector}`).map(({ textContent }) => textContent?.replace(/\s+/g, ' ').trim());

describe('a transcript', () => {
  it('is read by its passages, goes along with the player, and the player with it', async () => {
    const screen = await open();
    await screen.says(view, 'Recognised');
    expect(textsOf(screen, 'li p')).toEqual(['at low water you', 'hear the gates talk']);
    expect(textsOf(screen, '.when')).toEqual(['01:00:00:00', '01:00:03:00 Osk']);
    expect(textsOf(screen, '.unsure')).toEqual(['low']);
    expect(screen.all<HTMLElement>(`${view} .unsure`)[0]?.title).toBe('31% sure; or: lot');
    screen.all(`${view} [data-word="6"]`)[0]?.dispatchEvent(new Event('mouseup', { bubbles: true }));
    await until('the player there', () => frameShown(screen) === 100);
    await until('the word', () => textsOf(screen, '.now').join() === 'gates');
    await screen.click(`${view} .when .link`, '01:00:03:00');
    await until('the passage', () => frameShown(screen) === 75);
  });

  it('shows what the list is searched for, and what words are marked for', async () => {
    server.on('search', () => ({
      ...{ total: 1, found: 1, groups: null, lifted: null, offset: 0, revision: 1 },
      assets: [...server.assets.values()].slice(0, 1),
    }));
    const screen = await open(1, '/library?q=said:"low water"');
    await until('the hits', () => textsOf(screen, '.hit').join(' ') === 'low water');
    const [first, last] = [1, 6].map((at) => screen.all(`${view} [data-word="${at}"]`)[0]?.firstChild as Node);
    getSelection()?.setBaseAndExtent(last as Node, 1, first as Node, 0);
    screen.all(`${view} ol`)[0]?.dispatchEvent(new Event('mouseup', { bubbles: true }));
    await until('the range', () => screen.all('nl-player .range').length === 1);
    await screen.press('m');
    await until('the marker', () => server.markers.length === 1);
    // From the first frame of the one to the last of the other.
    expect(server.markers[0]).toMatchObject({ start: 12, end: 111 });
  });

  it('is corrected by passages, words and who speaks, and left as it was by Escape', async () => {
    server.on('correctTranscript', () => ({ revision: 2, group: 'g', changed: 1 }));
    const screen = await open();
    await screen.click(`${view} [aria-label="Correct the passage at 01:00:03:00"]`);
    await until('the words', () => document.activeElement?.getAttribute('aria-label') === 'What is said');
    await screen.press('Escape');
    await until('it gone', () => screen.all(`${view} textarea`).length === 0);
    expect(server.bodies('correctTranscript')).toEqual([]);
    await screen.click(`${view} [aria-label="Correct the passage at 01:00:03:00"]`);
    await screen.type(`${view} textarea`, 'hear the weir talk');
    await screen.type(`${view} [aria-label="Who speaks"]`, ' Wren ');
    await screen.click(`${view} button`, 'Done');
    await until('it sent', () => server.bodies('correctTranscript').length === 1);
    expect(server.bodies('correctTranscript')[0]).toEqual({
      ...{ source: 'recognised', version: 3, from: 4, to: 8 },
      ...{ text: 'hear the weir talk', speaker: 'Wren' },
    });
    await until('it gone', () => screen.all(`${view} textarea`).length === 0);
    await screen.click(`${view} [aria-label="Correct the passage at 01:00:00:00"]`);
    server.on('correctTranscript', () => new Refusal(409, { code: 'refused', reason: 'Somebody was quicker.' }));
    await screen.type(`${view} textarea`, 'x');
    await screen.click(`${view} button`, 'Done');
    await screen.says('nl-toasts', 'Somebody was quicker.');
    // What was written is not lost.
    const written = () => screen.all<HTMLTextAreaElement>(`${view} textarea`)[0]?.value;
    expect(written()).toBe('x');
    const theirs = words.map((word, at) => ({ ...word, text: at === 1 ? 'high' : at === 5 ? 'the' : word.text }));
    server.on('transcript', () => ({
      sources: [INFO],
      shown: { ...INFO, words: [...theirs, ...theirs], speakers: [] },
    }));
    screen.changed('asset', 1, 4);
    await until('theirs', () => textsOf(screen, 'li').length > 2);
    expect(written()).toBe('x');
  });

  it('is taken away, and the best of the others is shown', async () => {
    server.on('transcript', () => ({
      sources: [{ ...INFO, source: 'corrected' }, INFO],
      shown: { ...INFO, source: 'corrected', words, speakers: [] },
    }));
    server.on('removeTranscript', () => ({ revision: 9, group: 'g', changed: 1 }));
    const screen = await open();
    await screen.says(view, 'at low water');
    server.on('transcript', ({ source }) => ({
      sources: [INFO],
      shown: source === 'corrected' ? null : { ...INFO, words: words.slice(4), speakers: [] },
    }));
    await screen.click(`${view} button`, 'Take away');
    screen.changed('asset', 1, 9);
    await until('the other', () => textsOf(screen, 'li').length === 1);
    expect(server.bodies('removeTranscript')).toEqual([{ source: 'corrected', version: 3 }]);
  });

  it('that is not there is asked for, that is empty says so, and what cannot be had is asked for again', async () => {
    server.on('transcript', () => ({ sources: [], shown: null }));
    server.on('recognise', () => ({ queued: 1, left: [] }));
    const screen = await open();
    await screen.says(view, 'Nothing is written down of what is said in it.');
    await screen.click(`${view} button`, 'Recognise');
    await screen.says('nl-toasts', '1 recording in the queue');
    expect(server.bodies('recognise')).toEqual([{ assetIds: [1], apart: false }]);
    await screen.click('nl-transcript button', 'Channel by channel');
    expect(server.bodies('recognise').at(-1)).toEqual({ assetIds: [1], apart: true });
    server.on('transcript', () => ({ sources: [INFO], shown: { ...INFO, words: [], speakers: [] } }));
    screen.changed('asset', 1, 2);
    await screen.says(view, 'Nobody speaks in it.');
    server.on('transcript', () => new Refusal(503, { code: 'refused', reason: 'Not now.' }));
    screen.changed('asset', 1, 3);
    await screen.says(`${view} [role="alert"]`, 'Not now.');
    server.on('transcript', () => ({ sources: [], shown: null }));
    await screen.click(`${view} [role="alert"] button`, 'Try again');
    await until('no more of that', () => screen.all(`${view} [role="alert"]`).length === 0);
    await screen.click('nl-tile[data-id="2"]');
    await until('no sound, no words', () => screen.all(view).length === 0);
  });

  it('is not shown beside another clip, while that one’s is not there', async () => {
    const screen = await open();
    await until('the words', () => textsOf(screen, 'li p').length === 2);
    server.on('transcript', () => new Refusal(503, { code: 'refused', reason: 'Not now.' }));
    await screen.click('nl-tile[data-id="3"]');
    await screen.says(`${view} [role="alert"]`, 'Not now.');
    expect(textsOf(screen, 'li p')).toEqual([]);
  });

  it('of several sources is the best, another where it is chosen, and a long one is drawn in parts', async () => {
    const both = (['corrected', 'recognised'] as const).map((source): TranscriptInfo => ({ ...INFO, source }));
    const many = Array.from({ length: 500 }, (_unused, at) => ({
      ...{ text: `word${at}`, startMs: at * 2000, endMs: at * 2000 + 300, certainty: null },
    }));
    server.on('transcript', ({ source }) => ({
      sources: both,
      shown: { ...INFO, source: source ?? 'corrected', words: source === 'recognised' ? words : many, speakers: [] },
    }));
    const screen = await open();
    await until('the first', () => screen.all(`${view} li`).length === 40);
    await screen.click(`${view} button`, '460 passages after');
    await until('the next', () => textsOf(screen, 'li p')[0] === 'word40');
    await screen.says(view, '40 passages before');
    await screen.type(`${view} nl-quick-box input`, 'word499');
    await until('one', () => textsOf(screen, 'li p').join() === 'word499');
    await screen.type(`${view} nl-quick-box input`, 'nothing');
    await screen.says(view, 'Nothing here says nothing.');
    await screen.type(`${view} nl-quick-box input`, '');
    await until('all of it', () => screen.all(`${view} .correct`).length === 40);
    await screen.choose(`${view} select`, 'recognised');
    await until('the other', () => textsOf(screen, 'li p').join() === 'at low water you,hear the gates talk');
    // What it was corrected from is looked at, and left as it is.
    expect(screen.all(`${view} .correct`)).toEqual([]);
  });

  it('of many is recognised at once, and what cannot be is told', async () => {
    server.on('recognise', () => ({ queued: 1, left: [{ assetId: 2, why: 'It has no sound.' }] }));
    const screen = await open();
    await screen.click('nl-tile[data-id="2"]', '', { ctrlKey: true });
    await screen.click('nl-details button', 'Recognise what is said');
    await screen.says('nl-toasts', '1 recording in the queue');
    await screen.says('nl-toasts', '1 asset left out. It has no sound.');
    expect(server.bodies('recognise')).toEqual([{ assetIds: [1, 2], apart: false }]);
    server.on('recognise', ({ assetIds }) => ({
      queued: 0,
      left: assetIds.map((assetId) => ({ assetId, why: 'It is away.' })),
    }));
    await screen.click('nl-details button', 'Recognise what is said');
    await screen.says('nl-toasts', 'It is away. And 1 other not.');
    server.on('recognise', () => new Refusal(503, { code: 'refused', reason: 'Not now.' }));
    await screen.click('nl-details button', 'Recognise what is said');
    await screen.says('nl-toasts', 'Not now.');
  });
});
