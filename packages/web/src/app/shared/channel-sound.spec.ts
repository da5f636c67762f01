import { until } from '../../../test/screen';
import { ChannelSound } from './channel-sound';

/** A piece of sound as it was begun: when by the context's clock, and from where in itself. */
interface Begun {
  readonly from: string;
  readonly when: number;
  readonly offset: number;
  stopped: boolean;
}

class Media extends EventTarget {
  muted = false;
  paused = true;
  seeking = false;
  currentTime = 0;
  playbackRate = 1;
  duration = 20;
  tell(name: string, changes: Partial<Media> = {}): void {
    Object.assign(this, changes);
    this.dispatchEvent(new Event(name));
  }
}

function setUp() {
  const begun: Begun[] = [];
  const media = new Media();
  const asked: string[] = [];
  const failures: unknown[] = [];
  let answers = true;
  const context = {
    currentTime: 100,
    resume: () => Promise.resolve(),
    decodeAudioData: (bytes: { url: string }) => Promise.resolve({ duration: 6, url: bytes.url }),
    createBufferSource: () => {
      const node = {
        ...{
          buffer: null as { url: string } | null,
          playbackRate: { value: 1 },
          onended: null,
          connect: () => undefined,
        },
        start(when: number, offset: number) {
          begun.push({ from: node.buffer?.url ?? '', when, offset, stopped: false });
        },
        stop() {
          const mine = begun.findLast((each) => each.from === node.buffer?.url);
          if (mine) mine.stopped = true;
        },
      };
      return node;
    },
  };
  Object.assign(globalThis, {
    fetch: (url: string) => {
      asked.push(url);
      return Promise.resolve({ ok: answers, status: 500, arrayBuffer: () => Promise.resolve({ url }) });
    },
  });
  const sound = new ChannelSound(
    media as unknown as HTMLMediaElement,
    context as unknown as AudioContext,
    {} as AudioNode,
    (from) => `piece ${from}`,
    (error) => failures.push(error),
  );
  return { media, sound, begun, asked, failures, break: () => (answers = false) };
}

describe('all channels of what an element plays', () => {
  afterEach(() => Reflect.deleteProperty(globalThis, 'fetch'));

  it('begin where it stands, go on with the next piece, and stop with it', async () => {
    const { media, sound, begun, asked } = setUp();
    expect(media.muted).toBe(true);
    expect(asked).toEqual([]);
    media.tell('play', { paused: false, currentTime: 5 });
    await until('the first', () => begun.length > 0);
    expect(begun[0]).toMatchObject({ from: 'piece 0', when: 100, offset: 5 });
    // What comes next begins when this ends: a second from now.
    await until('the next', () => begun.length === 2);
    expect(begun[1]).toMatchObject({ from: 'piece 6000', when: 101, offset: 0 });
    media.tell('pause', { paused: true });
    expect(begun.every(({ stopped }) => stopped)).toBe(true);
    sound.close();
    expect(media.muted).toBe(false);
  });

  it('begin anew where somebody goes to, at the speed that it has, without asking twice', async () => {
    const { media, sound, begun, asked } = setUp();
    media.tell('play', { paused: false });
    await until('the first', () => begun.length === 1);
    media.tell('seeking', { seeking: true });
    expect(begun[0]?.stopped).toBe(true);
    media.tell('seeked', { seeking: false, currentTime: 3, playbackRate: 2 });
    await until('anew', () => begun.length === 2);
    expect(begun[1]).toMatchObject({ from: 'piece 0', offset: 3 });
    expect(asked).toEqual(['piece 0']);
    sound.close();
    media.tell('play');
    expect(begun).toHaveLength(2);
  });

  it('that cannot be had are told, and asked for again the next time', async () => {
    const { media, sound, asked, failures, break: fail } = setUp();
    fail();
    media.tell('play', { paused: false });
    await until('the failure', () => failures.length === 1);
    media.tell('seeked');
    await until('another', () => failures.length === 2);
    expect(asked).toEqual(['piece 0', 'piece 0']);
    sound.close();
  });
});
