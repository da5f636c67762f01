import { asset } from '../../../test/assets';
import { FakeServer, Refusal, Screen, until } from '../../../test/screen';
import { countingById, type Counting } from '@larder/core/timecode';
import type { StringOutFull } from '@larder/contract';

const assets = [
  asset(1, { name: 'lock.mov', renditions: ['proxy'] }),
  asset(2, { name: 'boat.mov', title: 'Boat passes', renditions: ['proxy'] }),
  asset(3, {
    name: 'bell.mov',
    rate: { num: 30_000, den: 1001, dropFrame: true },
    durationFrames: 300,
    startFrame: 0,
    renditions: [],
  }),
];

/** A server that keeps one string-out as the real one does: a save names the version it began with. */
class CutServer extends FakeServer {
  kept: StringOutFull = {
    id: 4,
    projectId: 1,
    name: 'First cut',
    counting: '25',
    startFrame: 90_000,
    version: 1,
    items: [
      { id: 'a', assetId: 1, in: 0, out: 50 },
      { id: 'b', assetId: 2, in: 10, out: 30 },
      { id: 'c', assetId: 3, in: 0, out: 300 },
    ],
    markers: [],
  };

  constructor() {
    super();
    this.on('stringOut', () => this.kept);
    this.on('rows', ({ ids }) => ({ assets: assets.filter(({ id }) => ids.includes(id)), revision: 1 }));
    this.on('saveStringOut', ({ name, version, items, markers }) =>
      version === this.kept.version
        ? (this.kept = { ...this.kept, name, version: version + 1, items, markers: [...markers] })
        : new Refusal(409, { code: 'newer-version', what: 'string-out', by: 'Tobin' }),
    );
  }

  get cuts(): string {
    return this.kept.items.map((item) => `${item.id} ${item.in}-${item.out}`).join(', ');
  }
}

async function open(role: 'editor' | 'viewer' = 'editor') {
  const server = new CutServer();
  const screen = await Screen.open('/string-outs/4', server, role);
  await screen.says('[data-test="total"]', 'frames');
  return { screen, server };
}

const enter = (field: HTMLInputElement) =>
  field.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true, cancelable: true }));

describe('a string-out on the screen', () => {
  it('shows each clip with its source timecode, where it begins and how long it is', async () => {
    const { screen } = await open();
    expect(screen.text('.head')).toContain('First cut');
    // 300 frames of 29.97 last 10.01 s: 250.25 frames of 25, of which whole ones are played.
    expect(screen.text('[data-test="total"]')).toContain('(320 frames)');
    expect(screen.all<HTMLInputElement>('li.clip input.tc').map((field) => field.value)).toEqual([
      '01:00:00:00',
      '01:00:02:00',
      '01:00:00:10',
      '01:00:01:05',
      '00:00:00;00',
      '00:00:10;00',
    ]);
    expect(screen.all('li.clip .at').map((at) => at.textContent)).toEqual([
      '01:00:00:00',
      '01:00:02:00',
      '01:00:02:20',
    ]);
    expect(screen.text('.hint')).toContain('1 clip of another rate');
  });

  it('is trimmed by typing source timecode; what is none or outside is put back with the reason', async () => {
    const { screen, server } = await open();
    const [from, to] = screen.all<HTMLInputElement>('li.clip input.tc');
    enter(await screen.type('#in-a', '01:00:00:10'));
    await until('the trim', () => server.cuts.startsWith('a 10-50'));
    enter(await screen.type('#out-a', '10020'));
    await until('the other', () => server.cuts.startsWith('a 10-45') || screen.text('nl-toasts') !== '');
    enter(await screen.type('#out-a', 'half past'));
    await screen.says('nl-toasts', '“half past” is no timecode at 25.');
    enter(await screen.type('#in-a', '01:00:02:05'));
    await screen.says('nl-toasts', '01:00:02:05 lies outside lock.mov, or after its out.');
    enter(await screen.type('#out-a', '01:00:09:00'));
    await screen.says('nl-toasts', '01:00:09:00 lies outside lock.mov, or before its in.');
    expect([from?.value, to?.value?.length]).toEqual(['01:00:00:10', 11]);
  });

  it('is reordered and emptied by keys, saved step by step, and taken back step by step', async () => {
    const { screen, server } = await open();
    await screen.click('li.clip .pick', 'Boat passes');
    await screen.press('ArrowUp', { altKey: true });
    await until('the order', () => server.kept.items[0]?.id === 'b');
    await screen.press('Delete');
    await until('two clips', () => server.kept.items.length === 2);
    await screen.press('z', { ctrlKey: true });
    await screen.press('z', { ctrlKey: true });
    await until('all as it was', () => server.cuts === 'a 0-50, b 10-30, c 0-300');
    expect(server.kept.version).toBe(5);
    expect(server.bodies('saveStringOut').map(({ version }) => version)).toEqual([1, 2, 3, 4]);
  });

  it('walks with the arrows, and stops at both ends', async () => {
    const { screen } = await open();
    const chosen = () => screen.one('li.chosen').getAttribute('data-item');
    expect(chosen()).toBe('a');
    for (const [key, wanted] of [
      ['ArrowUp', 'a'],
      ['ArrowDown', 'b'],
      ['ArrowDown', 'c'],
      ['ArrowDown', 'c'],
    ] as const) {
      await screen.press(key);
      expect(chosen()).toBe(wanted);
    }
  });

  it('takes in and out from the player, and marks that would turn around drop the other', async () => {
    const { screen, server } = await open();
    await screen.click('li.clip .pick', 'Boat passes');
    await until('a player', () => screen.all('nl-player video').length > 0);
    await screen.press('o');
    // The player stands on frame 0, before the in: the range begins with the media.
    await until('the range', () => server.cuts.includes('b 0-1'));
  });

  it('keys in one breath act each on what the one before made: choose, step, in, step, out', async () => {
    const { screen, server } = await open();
    screen.one('li.clip .pick', 'Boat passes').dispatchEvent(new MouseEvent('click', { bubbles: true }));
    for (const key of ['ArrowRight', 'ArrowRight', 'i', 'ArrowRight', 'ArrowRight', 'ArrowRight', 'o'])
      document.body.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }));
    await until('the range', () => server.cuts.includes('b 2-6'));
    expect(screen.text('[data-test="total"]')).toContain('(304 frames)');
  });

  it('a colleague’s newer one is taken over while nothing is under way', async () => {
    const { screen, server } = await open();
    server.kept = { ...server.kept, version: 2, name: 'Their cut', items: server.kept.items.slice(0, 1) };
    screen.changed('string-out', 4, 9);
    await screen.says('.head', 'Their cut');
    expect(screen.all('li.clip')).toHaveLength(1);
  });

  it('a colleague who was first is told, and nothing of theirs is lost', async () => {
    const { screen, server } = await open();
    server.kept = { ...server.kept, version: 7 };
    await screen.press('ArrowDown', { altKey: true });
    await screen.says('[role="alert"]', 'Tobin has saved this string-out since you opened it.');
    expect(server.kept.version).toBe(7);
    await screen.click('[role="alert"] button', 'Open it anew');
    await until('no complaint', () => screen.all('.notice').length === 0);
    await screen.press('ArrowDown', { altKey: true });
    await until('the cut on top of theirs', () => server.kept.version === 8);
  });

  it('is renamed in a dialog, and removed without touching its clips', async () => {
    const { screen, server } = await open();
    await screen.click('button', 'Rename');
    await screen.type('#name-field', 'Second cut');
    await screen.click('.modal-content button[type="submit"]');
    await until('the name', () => server.kept.name === 'Second cut');
    server.on('removeStringOut', () => null);
    server.on('projects', () => ({ projects: [] }));
    await screen.click('button', 'Remove this string-out');
    await screen.says('nl-toasts', 'The string-out is gone; its clips are where they were.');
    expect(screen.address).toBe('/projects');
  });

  it('says of a clip without a proxy that it cannot be played through', async () => {
    const { screen } = await open();
    await screen.click('li.clip .pick', 'bell.mov');
    await screen.click('.tabs button', 'Play through');
    expect(screen.text('nl-run-player')).toContain('01:00:00:00');
  });

  it('leaves as a list of cuts, worked with in the originals, in mezzanines or in proxies', async () => {
    const { screen } = await open();
    await until('the ways', () => screen.all('a[download]').length > 1);
    expect(screen.all('a[download]').map((link) => link.getAttribute('href'))).toEqual([
      '/files/string-outs/4.edl',
      '/files/string-outs/4.otio?media=original',
      '/files/string-outs/4.otio?media=mezzanine',
      '/files/string-outs/4.otio?media=proxy',
    ]);
  });

  it('the conform check shows every event, where it was found and what stands in its way', async () => {
    const { screen, server } = await open();
    globalThis.fetch = () => Promise.resolve({ text: () => Promise.resolve('TITLE: First cut') } as Response);
    const event = {
      number: 1,
      source: { start: 90_000, end: 90_050 },
      sourceCounting: countingById('25') as Counting,
      record: { start: 90_000, end: 90_050 },
      reel: 'A001',
      clipName: null,
      sourceFile: null,
      assetId: null,
      hasPicture: true,
      hasSound: false,
    };
    server.on('conform', () => ({
      title: 'First cut',
      counting: '25',
      clean: false,
      issues: ['Line 9 cannot be read.'],
      events: [
        {
          event,
          matchedBy: 'file',
          used: { start: 0, end: 50 },
          issues: [],
          asset: { id: 1, name: 'lock.mov' },
          words: [],
        },
        { event, matchedBy: null, used: null, issues: [], asset: null, words: ['No such media.'] },
      ],
    }));
    await screen.click('button', 'Conform check');
    await screen.says('nl-conform-report', 'Line 9 cannot be read.');
    expect(screen.text('nl-conform-report')).toMatch(/lock.mov.*fits.*not found.*No such media\./);
    expect(screen.text('[data-test="conform"]')).toBe('1 event of 2 needs a look.');
    expect(server.bodies('conform')[0]).toMatchObject({ fileName: 'First cut.edl', text: 'TITLE: First cut' });
  });

  it('a viewer sees it and can change nothing', async () => {
    const { screen, server } = await open('viewer');
    expect(screen.all<HTMLInputElement>('li.clip input.tc').every((field) => field.disabled)).toBe(true);
    await screen.press('Delete');
    await screen.press('ArrowDown', { altKey: true });
    expect(server.bodies('saveStringOut')).toEqual([]);
  });

  it('one that is gone says so', async () => {
    const server = new CutServer();
    server.on('stringOut', () => new Refusal(404, { code: 'not-found', what: 'string-out' }));
    const screen = await Screen.open('/string-outs/4', server);
    await screen.says('[role="alert"]', 'There is no such string-out any more.');
  });
});

describe('markers of a string-out', () => {
  const list = 'nl-run-markers';
  const places = (screen: Screen) => screen.all(`${list} .place`).map((place) => place.textContent.trim());

  it('are set where the clip stands, named, gone to, moved and taken away, each to be taken back', async () => {
    const { screen, server } = await open();
    await until('the player', () => screen.all('nl-player video').length === 1);
    await screen.says(list, 'M sets one at the frame shown');
    await screen.press('ArrowRight');
    await screen.press('ArrowRight');
    await screen.press('m');
    await until('the marker', () => server.kept.markers.length === 1);
    // A place, whatever the in and out of the clip are.
    expect(server.kept.markers[0]).toMatchObject({ itemId: 'a', start: 2, end: null, by: 'Maren Oakley' });
    expect(places(screen)).toEqual(['01:00:00:02']);
    expect(screen.all('nl-player .tick')).toHaveLength(1);
    await screen.press('M', { shiftKey: true });
    await until('its name', () => document.activeElement?.getAttribute('aria-label') === 'Name of the marker');
    const field = document.activeElement as HTMLInputElement;
    field.value = 'She laughs';
    field.dispatchEvent(new Event('change', { bubbles: true }));
    await screen.press('Enter');
    await until('the name', () => server.kept.markers[1]?.name === 'She laughs');
    await screen.click(`${list} .tools button[title="One frame later"]`);
    await until('the move', () => server.kept.markers[0]?.start === 3);
    await screen.click('li.clip [aria-pressed]', 'Boat passes');
    await screen.click(`${list} .place`, '01:00:00:03');
    await until('the clip', () => screen.one('li.clip.chosen').dataset['item'] === 'a');
    await screen.click(`${list} [aria-label="Remove the marker"]`);
    await until('the removal', () => server.kept.markers.length === 1);
    await screen.press('z', { ctrlKey: true });
    await until('the undo', () => server.kept.markers.length === 2);
    expect(screen.all<HTMLAnchorElement>(`${list} a`).map((a) => a.getAttribute('href'))).toEqual([
      '/files/string-outs/4.vtt',
      '/files/string-outs/4.srt',
    ]);
  });

  it('go with their clips: when one moves, is trimmed, or is taken out', async () => {
    const { screen, server } = await open();
    await until('the player', () => screen.all('nl-player video').length === 1);
    for (let n = 0; n < 4; n += 1) await screen.press('ArrowRight');
    await screen.press('m');
    await until('the marker', () => server.kept.markers.length === 1);
    await screen.press('ArrowDown', { altKey: true });
    // Behind the 20 frames of the other clip.
    await until('the move', () => places(screen)[0] === '01:00:00:24');
    enter(await screen.type('#in-a', '01:00:00:10'));
    await screen.says(list, '1 more marker on frames that are trimmed away.');
    expect(places(screen)).toEqual([]);
    await screen.press('m');
    await screen.says('nl-toasts', 'This frame is trimmed away');
    await screen.click('[aria-label="Take clip 2 out"]');
    await until('the removal', () => server.kept.markers.length === 0);
    await screen.press('z', { ctrlKey: true });
    await until('the undo', () => server.kept.markers.length === 1);
  });

  it('are set in the run too', async () => {
    const { screen, server } = await open();
    await screen.click('.tabs button', 'Play through');
    await until('the run', () => screen.all('nl-run-player').length === 1);
    await screen.press('m');
    await until('the marker', () => server.kept.markers.length === 1);
    expect(server.kept.markers[0]).toMatchObject({ itemId: 'a', start: 0 });
  });

  it('cannot be set by who may only look', async () => {
    const { screen, server } = await open('viewer');
    await until('the player', () => screen.all('nl-player video').length === 1);
    await screen.press('m');
    await screen.says(list, 'Nobody has set a marker yet.');
    expect(server.bodies('saveStringOut')).toEqual([]);
  });
});
