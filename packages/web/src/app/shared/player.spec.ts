import { TestBed, type ComponentFixture } from '@angular/core/testing';
import { provideZonelessChangeDetection } from '@angular/core';
import { EMPTY } from 'rxjs';
import type { Asset } from '@larder/contract';
import { asset } from '../../../test/assets';
import { Api } from './api';
import { Player } from './player';

/** A video that shows a frame only when a test says so, as a browser does some time after it was asked. */
let told: VideoFrameRequestCallback | null = null;
beforeAll(() => {
  HTMLVideoElement.prototype.requestVideoFrameCallback = (callback) => {
    told = callback;
    return 1;
  };
  HTMLVideoElement.prototype.cancelVideoFrameCallback = () => (told = null);
});

interface Shown {
  readonly fixture: ComponentFixture<Player>;
  readonly host: HTMLElement;
  readonly video: () => HTMLVideoElement;
  readonly press: (key: string, more?: KeyboardEventInit) => Promise<void>;
  /** The browser presents the frame that covers this instant. */
  readonly presents: (seconds: number) => Promise<void>;
  readonly marks: { in: number | null; out: number | null }[];
}

async function show(of: Asset, marks: { in?: number | null; out?: number | null } = {}): Promise<Shown> {
  TestBed.configureTestingModule({
    providers: [provideZonelessChangeDetection(), { provide: Api, useValue: { call: () => EMPTY } }],
  });
  const fixture = TestBed.createComponent(Player);
  fixture.componentRef.setInput('asset', of);
  fixture.componentRef.setInput('in', marks.in ?? null);
  fixture.componentRef.setInput('out', marks.out ?? null);
  const made: Shown['marks'] = [];
  fixture.componentInstance.marks.subscribe((mark) => made.push(mark));
  await fixture.whenStable();
  const host = fixture.nativeElement as HTMLElement;
  return {
    fixture,
    host,
    marks: made,
    video: () => host.querySelector('video') as HTMLVideoElement,
    press: async (key, more = {}) => {
      document.body.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true, ...more }));
      await fixture.whenStable();
    },
    presents: async (mediaTime) => {
      told?.(0, { mediaTime } as VideoFrameCallbackMetadata);
      await fixture.whenStable();
    },
  };
}

const clip = asset(1, { renditions: ['proxy', 'poster'], startFrame: 90_000, durationFrames: 100 });
const said = ({ host }: Shown, what: 'timecode' | 'frame') =>
  host.querySelector(`[data-test="${what}"]`)?.textContent?.trim();
const SHIFT = { shiftKey: true };

describe('what is played', () => {
  it.each([
    ['its proxy, if there is one', { renditions: ['proxy'] }, '/files/1/proxy'],
    ['else the original that the browser can play', { renditions: [] }, '/files/1/original'],
    ['a changed original too', { renditions: [], state: 'changed' }, '/files/1/original'],
  ] as const)('%s', async (_what, changes, source) => {
    const shown = await show(asset(1, changes));
    expect(new URL(shown.video().src, 'http://localhost').pathname).toBe(source);
  });

  it.each([
    ['a proxy that is being made', { path: 'a/clip.mxf' }, 'Its proxy is being made.'],
    ['a missing original', { state: 'missing' }, 'Missing, and no proxy was made before.'],
    ['a storage that is not mounted', { state: 'offline' }, 'mount it again'],
    [
      'a file that cannot be read',
      { kind: 'unreadable', path: 'a/torn.xyz', reason: 'No index.' },
      'cannot be read. No index.',
    ],
  ] as const)('%s is said in words', async (_what, changes, words) => {
    const { host } = await show(asset(1, changes));
    expect([host.querySelector('video'), host.textContent]).toEqual([null, expect.stringContaining(words)]);
  });

  it('a still is a picture, without controls', async () => {
    const { host } = await show(asset(1, { kind: 'still', rate: null, renditions: ['proxy'] }));
    expect([host.querySelectorAll('img').length, host.querySelectorAll('.controls').length]).toEqual([1, 0]);
  });

  it('what the browser gives up on is said', async () => {
    const shown = await show(clip);
    shown.video().dispatchEvent(new Event('error'));
    await shown.fixture.whenStable();
    expect(shown.host.textContent).toContain('The browser cannot play this.');
  });
});

describe('stepping', () => {
  it('seeks to the middle of the frame, and counts in the clip’s timecode', async () => {
    const shown = await show(clip);
    await shown.press('ArrowRight', SHIFT);
    await shown.press('ArrowRight', SHIFT);
    expect(shown.video().currentTime).toBeCloseTo(2.25 / 25, 9);
    expect([said(shown, 'timecode'), said(shown, 'frame')]).toEqual(['01:00:00:02', '2 / 100']);
    await shown.press('ArrowLeft', SHIFT);
    expect(said(shown, 'frame')).toBe('1 / 100');
  });

  it('frames on the way to the one asked for neither move the counter nor lose a step', async () => {
    const shown = await show(clip);
    await shown.press('ArrowRight', SHIFT);
    await shown.press('ArrowRight', SHIFT);
    // The picture of the first step comes late.
    await shown.presents(1 / 25);
    expect(said(shown, 'frame')).toBe('2 / 100');
    await shown.press('i');
    await shown.press('ArrowRight', SHIFT);
    await shown.presents(2 / 25);
    expect(said(shown, 'frame')).toBe('3 / 100');
    expect(shown.marks).toEqual([{ in: 2, out: null }]);
    await shown.presents(3 / 25);
    expect(said(shown, 'frame')).toBe('3 / 100');
  });

  it('stays inside the clip at both ends', async () => {
    const shown = await show(clip);
    await shown.press('ArrowLeft', SHIFT);
    expect(said(shown, 'frame')).toBe('0 / 100');
    shown.fixture.componentInstance.seek(4000);
    await shown.fixture.whenStable();
    expect(said(shown, 'frame')).toBe('99 / 100');
  });

  it('over the minute of drop-frame the labels that are left out are left out', async () => {
    const shown = await show(
      asset(1, {
        renditions: ['proxy'],
        rate: { num: 30_000, den: 1001, dropFrame: true },
        startFrame: 1798,
        durationFrames: 50,
      }),
    );
    const labels = [said(shown, 'timecode')];
    for (let step = 0; step < 3; step += 1) {
      await shown.press('ArrowRight', SHIFT);
      labels.push(said(shown, 'timecode'));
    }
    // SMPTE ST 12-1: the first frame after 00:00:59;29 is 00:01:00;02.
    expect(labels).toEqual(['00:00:59;28', '00:00:59;29', '00:01:00;02', '00:01:00;03']);
  });

  it('another clip begins at its own start; the same one logged by somebody stays where it is', async () => {
    const shown = await show(clip);
    await shown.press('ArrowRight', SHIFT);
    shown.fixture.componentRef.setInput('asset', { ...clip, title: 'Logged meanwhile' });
    await shown.fixture.whenStable();
    expect(said(shown, 'frame')).toBe('1 / 100');
    shown.fixture.componentRef.setInput('asset', { ...clip, id: 2 });
    await shown.fixture.whenStable();
    expect(said(shown, 'frame')).toBe('0 / 100');
    await shown.presents(5 / 25);
    expect(said(shown, 'frame')).toBe('5 / 100');
  });
});

describe('the shuttle', () => {
  it('goes one faster with each press, stops, and follows the frames that are shown', async () => {
    const shown = await show(clip);
    const speeds: number[] = [];
    for (let press = 0; press < 6; press += 1) {
      await shown.press('l');
      speeds.push(shown.video().playbackRate);
    }
    expect(speeds).toEqual([1, 2, 4, 8, 16, 16]);
    expect(shown.host.querySelector('.speed')?.textContent).toBe('16×');
    await shown.presents(40 / 25);
    expect(said(shown, 'frame')).toBe('40 / 100');
    await shown.press('k');
    expect(shown.host.querySelector('.speed')).toBeNull();
    await shown.press(' ');
    expect(shown.host.querySelector('[aria-label="Pause"]')).not.toBeNull();
    shown.video().dispatchEvent(new Event('ended'));
    await shown.fixture.whenStable();
    expect(shown.host.querySelector('[aria-label="Play"]')).not.toBeNull();
  });

  it('backwards steps at the pace of the rate, and stops at the first frame', async () => {
    const shown = await show(clip);
    shown.fixture.componentInstance.seek(5);
    jest.useFakeTimers();
    try {
      document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'j', bubbles: true }));
      jest.advanceTimersByTime(80);
      expect(shown.video().currentTime).toBeCloseTo(3.25 / 25, 9);
      jest.advanceTimersByTime(800);
      expect(shown.video().currentTime).toBeCloseTo(0.25 / 25, 9);
      expect(jest.getTimerCount()).toBe(0);
    } finally {
      jest.useRealTimers();
    }
  });

  it('from the last frame plays from the first', async () => {
    const shown = await show(clip);
    shown.fixture.componentInstance.seek(99);
    await shown.press('l');
    expect(shown.video().currentTime).toBeCloseTo(0.25 / 25, 9);
  });
});

describe('going to a timecode', () => {
  it.each([
    ['100', '25 / 100'],
    ['+10', '10 / 100'],
    ['01:00:02:05', '55 / 100'],
    ['9999', '99 / 100'],
  ])('%s', async (text, frame) => {
    const shown = await show(clip);
    await shown.press('g');
    const field = shown.host.querySelector<HTMLInputElement>('[data-test=go]');
    if (!field) throw new Error('nothing to type into');
    expect(document.activeElement === field || field.isConnected).toBe(true);
    field.value = text === '9999' ? '02:00:00:00' : text;
    field.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true }));
    await shown.fixture.whenStable();
    expect(said(shown, 'frame')).toBe(frame);
  });
  it('what is none is said, and stays to be mended; Escape leaves it', async () => {
    const shown = await show(clip);
    await shown.press('g');
    const field = () => shown.host.querySelector<HTMLInputElement>('[data-test=go]');
    if (field()) (field() as HTMLInputElement).value = '01:00:61:00';
    field()?.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true }));
    await shown.fixture.whenStable();
    expect(shown.host.querySelector('[role=alert]')?.textContent).toContain('seconds up to 59');
    expect(field()?.value).toBe('01:00:61:00');
    field()?.dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape', bubbles: true }));
    await shown.fixture.whenStable();
    expect(field()).toBeNull();
  });
});

describe('the loop', () => {
  it('plays what is marked again and again', async () => {
    const shown = await show(clip, { in: 10, out: 20 });
    await shown.press('r');
    await shown.press(' ');
    // From outside of the marks it goes to the in first.
    expect(shown.video().currentTime).toBeCloseTo(10.25 / 25, 9);
    await shown.presents(10 / 25);
    await shown.presents(18 / 25);
    expect(said(shown, 'frame')).toBe('18 / 100');
    await shown.presents(19 / 25);
    expect(shown.video().currentTime).toBeCloseTo(10.25 / 25, 9);
    expect(shown.host.querySelector('[aria-label="Pause"]')).not.toBeNull();
    await shown.press('r');
    await shown.presents(10 / 25);
    await shown.presents(25 / 25);
    expect(said(shown, 'frame')).toBe('25 / 100');
  });
  it('or all of it, from its end', async () => {
    const shown = await show(clip);
    await shown.press('r');
    await shown.press(' ');
    await shown.presents(50 / 25);
    shown.video().dispatchEvent(new Event('ended'));
    await shown.fixture.whenStable();
    expect(shown.video().currentTime).toBeCloseTo(0.25 / 25, 9);
    expect(shown.host.querySelector('[aria-label="Pause"]')).not.toBeNull();
  });
});

describe('over the picture', () => {
  it('safe areas are drawn and taken away, with 3.5 and 5 parts in a hundred left out at each side', async () => {
    const shown = await show(clip);
    await shown.press('a');
    expect([...shown.host.querySelectorAll('.safe')].map((each) => each.textContent)).toEqual(['action', 'title']);
    await shown.press('a');
    expect(shown.host.querySelectorAll('.safe')).toHaveLength(0);
  });
});

describe('marks', () => {
  it('are forgotten together', async () => {
    const shown = await show(clip, { in: 10, out: 20 });
    await shown.press('X', SHIFT);
    expect(shown.marks).toEqual([{ in: null, out: null }]);
  });

  it('in is inclusive, out is exclusive; one that would turn the range around drops the other', async () => {
    const shown = await show(clip, { in: 10, out: 20 });
    shown.fixture.componentInstance.seek(30);
    await shown.press('i');
    shown.fixture.componentInstance.seek(5);
    await shown.press('o');
    shown.fixture.componentInstance.seek(15);
    await shown.press('o');
    expect(shown.marks).toEqual([
      { in: 30, out: null },
      { in: null, out: 6 },
      { in: 10, out: 16 },
    ]);
  });

  it('are drawn on the position as the part that is between them', async () => {
    const { host } = await show(clip, { in: 25, out: 75 });
    const range = host.querySelector<HTMLElement>('.range');
    expect([range?.style.left, range?.style.width]).toEqual(['25%', '50%']);
  });
});

describe('sound', () => {
  it('is counted in minutes and seconds where there are no frames', async () => {
    const shown = await show(
      asset(1, { kind: 'audio', rate: null, durationFrames: null, durationMs: 90_000, path: 'a/bell.wav' }),
    );
    shown.video().currentTime = 61.25;
    shown.video().dispatchEvent(new Event('timeupdate'));
    await shown.fixture.whenStable();
    expect(said(shown, 'timecode')).toBe('01:01.2');
    expect(shown.host.querySelector('[data-test="frame"]')).toBeNull();
  });
});
