import { ChangeDetectionStrategy, Component, provideZonelessChangeDetection, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { Inspection } from '@larder/contract';
import { until } from '../../../test/screen';
import { ChannelMeters } from '../shared/channel-meters';
import { ShelfPlayer } from './shelf-player';

const facts = (changes: Partial<Inspection> = {}): Inspection => ({
  path: 'A001/clip.mov',
  name: 'clip.mov',
  kind: 'video',
  files: 1,
  bytes: 1,
  modifiedMs: 0,
  rate: { num: 25, den: 1, dropFrame: false },
  durationFrames: 100,
  durationMs: 4000,
  startFrame: 90_000,
  width: 320,
  height: 180,
  channels: 2,
  gaps: [],
  sheets: [],
  unusual: [],
  reason: null,
  ...changes,
});

@Component({
  imports: [ShelfPlayer],
  template: `<nl-shelf-player [storageId]="4" [facts]="facts()" [sequenceRate]="rate()" />`,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
class Host {
  readonly facts = signal(facts());
  readonly rate = signal<string | null>(null);
}

async function shown(changes: Partial<Inspection> = {}) {
  TestBed.configureTestingModule({ providers: [provideZonelessChangeDetection()] });
  const fixture = TestBed.createComponent(Host);
  document.body.append(fixture.nativeElement as HTMLElement);
  fixture.componentInstance.facts.set(facts(changes));
  await fixture.whenStable();
  const press = async (key: string, more: KeyboardEventInit = {}) => {
    document.body.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true, ...more }));
    await fixture.whenStable();
  };
  const root = fixture.nativeElement as HTMLElement;
  return { fixture, root, press, image: () => root.querySelector('img') };
}
const source = (element: Element | null) => element?.getAttribute('src') ?? '';
const clock = (root: HTMLElement) => root.querySelector('[data-test="shelf-timecode"]')?.textContent?.trim();

describe('looking at what is not catalogued', () => {
  it('asks for one picture at a time, and then for the one that is wanted by then', async () => {
    const { root, press, image, fixture } = await shown();
    expect(source(image())).toBe('/files/shelf/4/frame?path=A001%2Fclip.mov&frame=0');
    image()?.dispatchEvent(new Event('load'));
    for (let n = 0; n < 5; n += 1) await press('ArrowRight', { shiftKey: true });
    expect(clock(root)).toBe('01:00:00:05');
    // The first step's picture is still on its way.
    expect(source(image())).toContain('&frame=1');
    image()?.dispatchEvent(new Event('load'));
    await fixture.whenStable();
    expect(source(image())).toContain('&frame=5');
  });

  it('does not leave the clip at either end', async () => {
    const { root, press } = await shown({ durationFrames: 2 });
    await press('ArrowLeft', { shiftKey: true });
    expect(clock(root)).toBe('01:00:00:00');
    for (let n = 0; n < 4; n += 1) await press('ArrowRight', { shiftKey: true });
    expect(clock(root)).toBe('01:00:00:01');
  });

  it('plays from the frame that is shown, stops where it is, and says what the browser cannot play', async () => {
    const { root, press, fixture } = await shown();
    await press('ArrowRight', { shiftKey: true });
    await press(' ');
    const video = root.querySelector('video');
    expect(source(video)).toBe('/files/shelf/4/play?path=A001%2Fclip.mov&frame=1');
    Object.defineProperty(video, 'currentTime', { value: 1.2 });
    video?.dispatchEvent(new Event('timeupdate'));
    await fixture.whenStable();
    expect(clock(root)).toBe('01:00:01:06');
    await press('k');
    expect(root.querySelector('video')).toBeNull();
    await press('l');
    root.querySelector('video')?.dispatchEvent(new Event('error'));
    await fixture.whenStable();
    expect(root.querySelector('[role="alert"]')?.textContent).toContain('cannot play');
    expect(root.querySelector('video')).toBeNull();
  });

  it('a sequence counts at the rate that somebody chooses for it', async () => {
    const { root, fixture, press } = await shown({ kind: 'sequence', startFrame: null, channels: 0 });
    fixture.componentInstance.rate.set('24');
    for (let n = 0; n < 24; n += 1) await press('ArrowRight', { shiftKey: true });
    expect(clock(root)).toBe('00:00:01:00');
    expect(source(root.querySelector('img'))).toContain('&rate=24');
  });

  it('sound is scrubbed in time, and a still is a picture without a player', async () => {
    const sound = await shown({ kind: 'audio', rate: null, durationFrames: null, startFrame: null });
    expect(sound.image()).toBeNull();
    expect(sound.root.querySelectorAll('nl-channel-meters button')).toHaveLength(4);
    TestBed.resetTestingModule();
    const still = await shown({ kind: 'still', rate: null, durationFrames: null, durationMs: null, channels: 0 });
    expect(source(still.image())).toContain('/frame?');
    expect(still.root.querySelector('.controls')).toBeNull();
  });
});

/** As much of the browser's sound as meters need; one analyser hears something. */
class FakeContext {
  static readonly gains: { gain: { value: number } }[] = [];
  /** What the element's sound leads to now. */
  static readonly ways: unknown[] = [];
  readonly destination = {};
  static made = 0;
  static last: FakeContext | null = null;
  private heard = 0;
  constructor() {
    FakeContext.made += 1;
    FakeContext.last = this;
  }
  private node() {
    return { connect: (to: unknown) => to };
  }
  createMediaElementSource = () => ({
    connect: (to: unknown) => FakeContext.ways.push(to),
    disconnect: () => (FakeContext.ways.length = 0),
  });
  createChannelSplitter = () => this.node();
  createChannelMerger = () => this.node();
  createAnalyser() {
    const loud = this.heard === 0 ? 0.5 : 0;
    this.heard += 1;
    return { ...this.node(), fftSize: 0, getFloatTimeDomainData: (samples: Float32Array) => samples.fill(loud) };
  }
  createGain() {
    const gain = { ...this.node(), gain: { value: 0 } };
    FakeContext.gains.push(gain);
    return gain;
  }
  resume = () => Promise.resolve();
}

describe('meters', () => {
  beforeEach(() => {
    FakeContext.gains.length = 0;
    FakeContext.ways.length = 0;
    FakeContext.made = 0;
    Object.assign(globalThis, { AudioContext: FakeContext });
  });
  afterEach(() => Reflect.deleteProperty(globalThis, 'AudioContext'));

  it('show each channel by itself, and let one be heard alone and all again', async () => {
    TestBed.configureTestingModule({ providers: [provideZonelessChangeDetection()] });
    const fixture = TestBed.createComponent(ChannelMeters);
    fixture.componentRef.setInput('channels', 2);
    fixture.componentRef.setInput('media', document.createElement('video'));
    await fixture.whenStable();
    const root = fixture.nativeElement as HTMLElement;
    const open = () => FakeContext.gains.map(({ gain }) => gain.value);
    // Left and right of the first channel, then of the second.
    expect(open()).toEqual([1, 0, 0, 1]);
    const height = (channel: number) =>
      parseFloat(root.querySelectorAll<HTMLElement>('.bar')[channel]?.style.height ?? '0');
    // Half of full scale is 6 dB below it: nine tenths of a meter of 60.
    await until('the level', () => {
      fixture.detectChanges();
      return Math.abs(height(0) - 90) < 0.5;
    });
    expect(height(1)).toBe(0);
    const press = async (channel: number, which: 'Hear' | 'Silence') => {
      const button = root.querySelector<HTMLElement>(`.channel:nth-child(${channel}) [aria-label^="${which}"]`);
      button?.click();
      await fixture.whenStable();
      return button?.getAttribute('aria-pressed');
    };
    expect(await press(2, 'Hear')).toBe('true');
    expect(open()).toEqual([0, 0, 1, 1]);
    await press(2, 'Hear');
    expect(open()).toEqual([1, 0, 0, 1]);
    await press(1, 'Silence');
    expect(open()).toEqual([0, 0, 0, 1]);
    // What is silenced is not heard alone either.
    await press(1, 'Hear');
    expect(open()).toEqual([0, 0, 0, 0]);
    await press(1, 'Silence');
    expect(open()).toEqual([1, 1, 0, 0]);
    fixture.destroy();
    // The element plays on without meters: past them, to what is heard.
    expect(FakeContext.ways).toHaveLength(1);
    expect(FakeContext.ways[0]).toBe(FakeContext.last?.destination);
  });

  it('that come and go leave one and the same element playing', async () => {
    const media = document.createElement('video');
    for (const channels of [2, 8, 1]) {
      TestBed.resetTestingModule();
      TestBed.configureTestingModule({ providers: [provideZonelessChangeDetection()] });
      const fixture = TestBed.createComponent(ChannelMeters);
      fixture.componentRef.setInput('channels', channels);
      fixture.componentRef.setInput('media', media);
      await fixture.whenStable();
      expect((fixture.nativeElement as HTMLElement).querySelectorAll('.channel')).toHaveLength(
        // Without pieces of sound that have all of them, more are heard as the browser mixes them.
        Math.min(2, channels),
      );
      expect(FakeContext.ways).toHaveLength(1);
      fixture.destroy();
    }
    // Browsers refuse to take an element's sound twice.
    expect(FakeContext.made).toBe(1);
  });
});
