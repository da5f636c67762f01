import { asset } from '../../../test/assets';
import { LibraryServer } from '../../../test/library';
import { Refusal, Screen, until } from '../../../test/screen';

let server: LibraryServer;
beforeEach(() => {
  sessionStorage.clear();
  localStorage.clear();
  server = new LibraryServer([
    asset(1, { name: 'lock.mov', title: null, renditions: ['proxy'], startFrame: 90_000, durationFrames: 100 }),
  ]);
  server.on('first', () => null);
});

const list = 'nl-details nl-subclip-list';
const open = async (): Promise<Screen> => {
  const screen = await Screen.open('/library', server, 'editor');
  await screen.click('nl-tile[data-id="1"]');
  await until('the player', () => screen.all('nl-player video').length === 1);
  return screen;
};
const told = (screen: Screen, id: number) => screen.changed('asset', id, ++server.revision);

/** I, two frames on, O, S: frames 0 to 2. */
async function makeOne(screen: Screen): Promise<void> {
  await screen.press('i');
  await screen.press('ArrowRight', { shiftKey: true });
  await screen.press('ArrowRight', { shiftKey: true });
  await screen.press('o');
  await screen.press('s');
  await until('the subclip', () => server.assets.has(2));
  told(screen, 2);
}

describe('subclips', () => {
  it('S makes one of what is marked, and does nothing without marks', async () => {
    const screen = await open();
    await screen.press('s');
    await screen.press('i');
    await screen.press('s');
    expect(server.bodies('newSubclip')).toHaveLength(0);
    await makeOne(screen);
    expect(server.bodies('newSubclip')).toEqual([{ in: 0, out: 3, name: 'lock.mov 01:00:00:00' }]);
    await screen.says('nl-toasts', 'Subclip “lock.mov 01:00:00:00” made.');
    await until('no marks', () => screen.all('.range').length === 0);
    await screen.says(list, 'lock.mov 01:00:00:00');
  });

  it('are played from their own beginning to their own end, in the timecode of the whole', async () => {
    const screen = await open();
    server.on('newSubclip', () => ({ revision: 1, group: 'g', changed: 1, id: 2 }));
    server.assets.set(2, {
      ...asset(2, { name: 'Gate', title: 'Gate', renditions: ['proxy'], startFrame: 90_010, durationFrames: 20 }),
      ...{ parentId: 1, parentName: 'lock.mov', inPlace: 10 },
    });
    told(screen, 2);
    await screen.click(`${list} [data-subclip="2"] .link`, 'Gate');
    await screen.says('nl-details h2', 'Gate');
    await screen.says('nl-player [data-test=timecode]', '01:00:00:10');
    await screen.says('nl-player [data-test=frame]', '0 / 20');
    const video = screen.one<HTMLVideoElement>('nl-player video');
    expect(video.currentTime).toBeCloseTo(10.25 / 25, 9);
    await screen.press('ArrowRight', { shiftKey: true });
    expect(video.currentTime).toBeCloseTo(11.25 / 25, 9);
    await screen.says('nl-player [data-test=timecode]', '01:00:00:11');
    await screen.click(`${list} .link`, 'lock.mov');
    await screen.says('nl-player [data-test=frame]', '/ 100');
  });

  it('have ends that are moved by typing a timecode; what is refused is said and put back', async () => {
    const screen = await open();
    await makeOne(screen);
    await screen.click(`${list} .link`, 'lock.mov 01:00:00:00');
    await until('the ends', () => screen.all('#subclip-out').length === 1);
    const type = async (which: 'in' | 'out', text: string) => {
      const field = screen.one<HTMLInputElement>(`#subclip-${which}`);
      field.value = text;
      field.dispatchEvent(new Event('change', { bubbles: true }));
      await screen.harness.fixture.whenStable();
    };
    expect(screen.one<HTMLInputElement>('#subclip-out').value).toBe('01:00:00:02');
    await type('out', '+10');
    await until('the new end', () => server.assets.get(2)?.durationFrames === 13);
    told(screen, 2);
    await until('it shown', () => screen.one<HTMLInputElement>('#subclip-out').value === '01:00:00:12');
    await type('in', '01:00:00:05');
    await until('the new beginning', () => server.assets.get(2)?.inPlace === 5);
    await type('in', 'soon');
    await screen.says(`${list} [role=alert]`, 'That is no timecode.');
    server.on('changeSubclip', () => new Refusal(422, { code: 'refused', reason: 'Too far.' }));
    await type('out', '02:00:00:00');
    await screen.says(`${list} [role=alert]`, 'Too far.');
  });

  it('of a sound have ends to the millisecond', async () => {
    const sound = { kind: 'audio' as const, rate: null, durationFrames: null, path: 'a/bell.wav' };
    server.assets.set(
      8,
      asset(8, { ...sound, name: 'bell', durationMs: 2500, parentId: 7, parentName: 'bell.wav', inPlace: 61_250 }),
    );
    server.on('changeSubclip', () => server.written());
    const screen = await open();
    await screen.click('nl-tile[data-id="8"]');
    await until('the ends', () => screen.all('#subclip-out').length === 1);
    const field = (which: 'in' | 'out') => screen.one<HTMLInputElement>(`#subclip-${which}`);
    expect([field('in').value, field('out').value]).toEqual(['01:01.250', '01:03.750']);
    for (const [which, text] of [
      ['in', '1:00.5'],
      ['out', '+0.25'],
      ['out', 'late'],
    ] as const) {
      field(which).value = text;
      field(which).dispatchEvent(new Event('change', { bubbles: true }));
      await screen.harness.fixture.whenStable();
    }
    await screen.says(`${list} [role=alert]`, 'That is no moment of a sound.');
    expect(server.bodies('changeSubclip')).toEqual([
      { in: 60_500, out: 63_750 },
      { in: 61_250, out: 64_000 },
    ]);
  });

  it('are removed without touching their clip', async () => {
    const screen = await open();
    await makeOne(screen);
    await screen.click(`${list} [aria-label="Remove the subclip"]`);
    await until('it gone', () => !server.assets.has(2));
    await screen.says('nl-toasts', 'its clip is as it was');
    server.on('newSubclip', () => new Refusal(422, { code: 'refused', reason: 'Too long.' }));
    await screen.press('i');
    await screen.press('o');
    await screen.press('s');
    await screen.says('nl-toasts', 'The subclip was not made. Too long.');
  });
});
