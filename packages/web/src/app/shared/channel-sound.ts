import { SOUND_PIECE_MS } from '@larder/contract';

/** The next piece is asked for this long before it is due. */
const AHEAD_MS = 2500;
const KEPT_PIECES = 4;
const BEGIN = ['play', 'seeked', 'ratechange', 'playing'] as const;
const HALT = ['pause', 'seeking', 'waiting', 'ended'] as const;

/**
 * All channels of what an element plays, in time with it. Browsers mix the sound of an element down to as many channels as there are
 * loudspeakers, so that the element is silent meanwhile and its sound is fetched in pieces, each with all of its channels.
 */
export class ChannelSound {
  private readonly pieces = new Map<number, Promise<AudioBuffer>>();
  private readonly nodes = new Set<AudioBufferSourceNode>();
  /** Counts the stretches that are played without a stop; what comes late for an earlier one is thrown away. */
  private stretch = 0;
  private readonly muted: boolean;

  constructor(
    private readonly media: HTMLMediaElement,
    private readonly context: AudioContext,
    private readonly destination: AudioNode,
    /** Where the piece is that begins at so many milliseconds of what is played. */
    private readonly urlOf: (fromMs: number) => string,
    private readonly failed: (error: unknown) => void,
  ) {
    this.muted = media.muted;
    media.muted = true;
    for (const name of BEGIN) media.addEventListener(name, this.begin);
    for (const name of HALT) media.addEventListener(name, this.halt);
    this.begin();
  }

  close(): void {
    this.halt();
    for (const name of BEGIN) this.media.removeEventListener(name, this.begin);
    for (const name of HALT) this.media.removeEventListener(name, this.halt);
    this.media.muted = this.muted;
  }

  private readonly halt = (): void => {
    this.stretch += 1;
    for (const node of this.nodes) node.stop();
    this.nodes.clear();
  };

  private readonly begin = (): void => {
    this.halt();
    if (this.media.paused || this.media.seeking) return;
    void this.context.resume();
    this.play(this.stretch).catch((error: unknown) => this.failed(error));
  };

  private nowMs(): number {
    return this.media.currentTime * 1000;
  }

  private async play(stretch: number): Promise<void> {
    const { media, context } = this;
    let at = this.nowMs();
    while (!Number.isFinite(media.duration) || at < media.duration * 1000) {
      const start = Math.floor(at / SOUND_PIECE_MS) * SOUND_PIECE_MS;
      const buffer = await this.piece(start);
      if (stretch !== this.stretch) return;
      const now = this.nowMs();
      const from = Math.max(at, now);
      const offset = (from - start) / 1000;
      if (offset < buffer.duration) {
        const node = context.createBufferSource();
        node.buffer = buffer;
        node.playbackRate.value = media.playbackRate;
        node.connect(this.destination);
        node.onended = () => void this.nodes.delete(node);
        node.start(context.currentTime + (from - now) / 1000 / media.playbackRate, offset);
        this.nodes.add(node);
      }
      at = start + SOUND_PIECE_MS;
      const wait = (at - this.nowMs() - AHEAD_MS) / media.playbackRate;
      await new Promise((resolve) => setTimeout(resolve, Math.max(0, wait)));
      if (stretch !== this.stretch) return;
    }
  }

  private piece(fromMs: number): Promise<AudioBuffer> {
    const had = this.pieces.get(fromMs);
    if (had) return had;
    const piece = fetch(this.urlOf(fromMs)).then(async (answer) => {
      if (!answer.ok) throw new Error(`the sound from ${fromMs} ms was refused: ${answer.status}`);
      return this.context.decodeAudioData(await answer.arrayBuffer());
    });
    // One that failed is asked for again next time.
    piece.catch(() => this.pieces.delete(fromMs));
    this.pieces.set(fromMs, piece);
    for (const old of [...this.pieces.keys()].slice(0, -KEPT_PIECES)) this.pieces.delete(old);
    return piece;
  }
}
