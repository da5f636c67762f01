import { randomUUID } from 'node:crypto';
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
  /** Every so-manieth request is not answered as it should be, and so many sounds are given up; 0 for none. */
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
  private requests = 0;
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
    this.requests += 1;
    const { busyEvery } = this.options;
    const say = (status: number, body: unknown) => {
      response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(body));
    };
    const id = /^\/sounds\/([\w-]+)$/.exec(request.url ?? '')?.[1];
    const body = await bodyOf(request);
    if (busyEvery > 0 && this.requests % busyEvery === 0) return say(503, { message: 'Too much to do.' });
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
    const gaveUp = this.options.failEvery > 0 && this.taken % this.options.failEvery === 0;
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
