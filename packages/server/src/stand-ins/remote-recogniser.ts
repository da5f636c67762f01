import { createHash, randomUUID } from 'node:crypto';
import { once } from 'node:events';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { writeCtm } from '@larder/core/dialogue';
import type { Recogniser } from '../media/recogniser';

export interface RemoteStandInOptions {
  /** Who listens behind it. */
  readonly by: Recogniser;
  readonly host: string;
  /** 0 for any free one. */
  readonly port: number;
  /** How long each sound takes on its way, beside what listening takes. */
  readonly delayMs: number;
  /**
   * What is asked is refused, and a sound is lost, every so-manieth time; 0 for never. Counted for each by itself, so that above 1 nothing
   * is refused twice in a row, whoever asks for what at the same time.
   */
  readonly busyEvery: number;
  readonly failEvery: number;
}

interface Sound {
  state: 'queued' | 'working' | 'done' | 'failed';
  ctm?: string;
  message?: string;
}

/** A sound of a few seconds at 16,000 samples a second is far below this. */
const MOST_BYTES = 64 * 1024 * 1024;
/** Answers that were not fetched are forgotten, the oldest first. */
const MOST_KEPT = 1000;

/** How often each was seen, of those that were seen lately. */
class Times {
  private readonly of = new Map<string, number>();

  /** True every so-manieth time; where each begins to count is told by its hash. */
  isDue(what: Buffer | string, every: number): boolean {
    const hash = createHash('sha256').update(what).digest();
    const key = hash.toString('base64');
    const count = (this.of.get(key) ?? hash.readUInt32LE()) + 1;
    this.of.delete(key);
    this.of.set(key, count);
    for (const old of [...this.of.keys()].slice(0, Math.max(0, this.of.size - MOST_KEPT))) this.of.delete(old);
    return every > 0 && count % every === 0;
  }
}

/** Samples of 16 bits, 16,000 a second, after the head of a WAV file. */
const [WAV_HEAD, BYTES_PER_MS] = [44, 32] as const;

/**
 * Stands in for a recogniser that is asked over the network: sounds wait in its queue and are listened to one after the other, each with
 * a delay, and now and then it is too busy or gives a sound up.
 */
export class RemoteRecogniserStandIn {
  private readonly sounds = new Map<string, Sound>();
  private queue: Promise<void> = Promise.resolve();
  private readonly ending = new AbortController();
  private readonly asked = new Times();
  private readonly sent = new Times();
  private taken = 0;

  private constructor(
    private readonly options: RemoteStandInOptions,
    private readonly folder: string,
    private readonly server: Server,
  ) {}

  static async start(options: RemoteStandInOptions): Promise<RemoteRecogniserStandIn> {
    const server = createServer();
    const standIn = new RemoteRecogniserStandIn(options, await mkdtemp(join(tmpdir(), 'larder-recogniser-')), server);
    server.on('request', (request, response) => {
      void standIn.answer(request, response).catch(() => response.destroy());
    });
    server.listen(options.port, options.host);
    await once(server, 'listening');
    return standIn;
  }

  get url(): string {
    return `http://${this.options.host}:${(this.server.address() as AddressInfo).port}`;
  }

  async stop(): Promise<void> {
    this.ending.abort();
    this.server.closeAllConnections();
    this.server.close();
    await this.queue;
    await rm(this.folder, { recursive: true, force: true });
  }

  private async answer(request: IncomingMessage, response: ServerResponse): Promise<void> {
    const say = (status: number, body: unknown) => {
      response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(body));
    };
    const id = /^\/sounds\/([\w-]+)$/.exec(request.url ?? '')?.[1];
    const body = await bodyOf(request);
    const what = Buffer.concat([Buffer.from(`${request.method} ${request.url} `), body ?? Buffer.of()]);
    if (this.asked.isDue(what, this.options.busyEvery)) return say(503, { message: 'Too much to do.' });
    if (request.method === 'POST' && request.url === '/sounds') {
      if (body === null) return say(413, { message: 'That is too long.' });
      return say(202, { id: this.take(body) });
    }
    const sound = id === undefined ? undefined : this.sounds.get(id);
    if (id === undefined || !sound) return say(404, { message: 'There is no such sound.' });
    if (request.method === 'DELETE') {
      this.sounds.delete(id);
      return say(200, {});
    }
    const waiting = [...this.sounds].filter(([, { state }]) => state === 'queued' || state === 'working');
    say(200, {
      ...sound,
      ahead: Math.max(
        0,
        waiting.findIndex(([each]) => each === id),
      ),
    });
  }

  private take(wav: Buffer): string {
    const id = randomUUID();
    this.taken += 1;
    const gaveUp = this.sent.isDue(wav, this.options.failEvery);
    this.sounds.set(id, { state: 'queued' });
    for (const old of [...this.sounds.keys()].slice(0, Math.max(0, this.sounds.size - MOST_KEPT)))
      this.sounds.delete(old);
    this.queue = this.queue.then(() => this.listen(id, wav, gaveUp));
    return id;
  }

  private async listen(id: string, wav: Buffer, gaveUp: boolean): Promise<void> {
    const sound = this.sounds.get(id);
    if (!sound || this.ending.signal.aborted) return;
    sound.state = 'working';
    try {
      await wait(this.options.delayMs, undefined, { signal: this.ending.signal });
      if (gaveUp) throw new Error('It was lost on the way');
      const piece = {
        name: `sound${this.taken}`,
        startMs: 0,
        endMs: Math.ceil((wav.length - WAV_HEAD) / BYTES_PER_MS),
      };
      await writeFile(join(this.folder, `${piece.name}.wav`), wav);
      const [words = []] = await this.options.by.hear([piece], [], this.folder, this.ending.signal);
      Object.assign(sound, { state: 'done', ctm: writeCtm(piece.name, words, 0) });
    } catch (error) {
      Object.assign(sound, { state: 'failed', message: (error as Error).message });
    }
  }
}

/** What was sent; null if it is too much. */
async function bodyOf(request: IncomingMessage): Promise<Buffer | null> {
  const pieces: Buffer[] = [];
  let bytes = 0;
  for await (const piece of request as AsyncIterable<Buffer>) {
    bytes += piece.length;
    if (bytes <= MOST_BYTES) pieces.push(piece);
  }
  return bytes > MOST_BYTES ? null : Buffer.concat(pieces);
}
