import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import type { SpokenWord } from '@larder/core/dialogue';
import { number, object, string } from 'yup';
import type { PieceFile, Recogniser } from './recogniser';
import { wordsIn } from './recogniser-program';

/** What is asked twice as long after each time that it does not answer. */
const [FIRST_WAIT_MS, LONGEST_WAIT_MS] = [500, 15_000] as const;
const MOST_TRIES = 6;
/** A piece that it gives up is sent again so often. */
const MOST_SENT = 3;
const ANSWER_MS = 60_000;
const POLL_MS = 500;
const LONGEST_ANSWER = 4_000_000;

const takenSchema = object({
  id: string()
    .matches(/^[\w-]{1,100}$/)
    .required(),
});
const soundSchema = object({
  state: string()
    .oneOf(['queued', 'working', 'done', 'failed'] as const)
    .required(),
  ahead: number().integer().min(0).optional(),
  ctm: string().max(LONGEST_ANSWER).optional(),
  message: string().max(1000).optional(),
});

/** How long is waited between two questions; tests wait less. */
export interface RemotePace {
  readonly firstWaitMs: number;
  readonly pollMs: number;
}

/**
 * A recogniser that is asked over the network: pieces are sent to it, wait in its queue, and are asked for until they are done. What does
 * not answer is asked again; what it gives up is sent again.
 */
export function remoteRecogniser(
  choice: { readonly name: string; readonly language: string; readonly url: string },
  pace: RemotePace = { firstWaitMs: FIRST_WAIT_MS, pollMs: POLL_MS },
): Recogniser {
  const base = choice.url.replace(/\/+$/, '');
  const ask = (path: string, init: RequestInit, signal: AbortSignal) => answered(`${base}${path}`, init, signal, pace);

  const send = async (sound: Buffer<ArrayBuffer>, signal: AbortSignal): Promise<string> => {
    const headers = { 'content-type': 'audio/wav', 'accept-language': choice.language };
    return takenSchema.validateSync(await ask('/sounds', { method: 'POST', headers, body: sound }, signal)).id;
  };
  const heardOf = async (piece: PieceFile, folder: string, signal: AbortSignal): Promise<readonly SpokenWord[]> => {
    const sound = await readFile(join(folder, `${piece.name}.wav`));
    for (let sent = 1; ; sent += 1) {
      const id = await send(sound, signal);
      try {
        for (;;) {
          const told = soundSchema.validateSync(await ask(`/sounds/${id}`, {}, signal));
          if (told.state === 'done') return wordsIn(told.ctm ?? '', piece, base);
          if (told.state === 'failed' && sent < MOST_SENT) break;
          if (told.state === 'failed')
            throw new Error(`The recogniser at ${base} gave up: ${told.message ?? 'it does not say why'}.`);
          await wait(pace.pollMs, undefined, { signal });
        }
      } catch (error) {
        // It need not go on with what nobody waits for any longer.
        if (signal.aborted) void fetch(`${base}/sounds/${id}`, { method: 'DELETE' }).catch(() => undefined);
        throw error;
      }
    }
  };
  return {
    madeBy: choice.name,
    language: choice.language,
    knows: async () => new Set(),
    // Sent at once, as its queue is its own matter. Where one fails, nobody waits for the others any longer.
    hear: async (pieces, _customWords, folder, signal) => {
      const stop = new AbortController();
      const either = AbortSignal.any([signal, stop.signal]);
      try {
        return await Promise.all(pieces.map((piece) => heardOf(piece, folder, either)));
      } finally {
        stop.abort();
      }
    },
  };
}

/** What a server answers in JSON. While it cannot be reached, or says that it has too much to do, it is asked again for a while. */
async function answered(url: string, init: RequestInit, signal: AbortSignal, pace: RemotePace): Promise<unknown> {
  for (let tries = 1, waitMs = pace.firstWaitMs; ; tries += 1, waitMs = Math.min(LONGEST_WAIT_MS, waitMs * 2)) {
    const failure = await once(url, init, signal);
    if (!('why' in failure)) return failure.said;
    signal.throwIfAborted();
    if (failure.isFinal || tries >= MOST_TRIES)
      throw new Error(
        `The recogniser at ${new URL(url).origin} does not do its work (${failure.why}). What was heard so far is kept: see that it runs, then try this job again.`,
      );
    await wait(waitMs, undefined, { signal });
  }
}

async function once(
  url: string,
  init: RequestInit,
  signal: AbortSignal,
): Promise<{ readonly said: unknown } | { readonly why: string; readonly isFinal: boolean }> {
  try {
    const answer = await fetch(url, { ...init, signal: AbortSignal.any([signal, AbortSignal.timeout(ANSWER_MS)]) });
    const isBusy = answer.status === 429 || answer.status >= 500;
    if (!answer.ok) {
      await answer.body?.cancel();
      return { why: `it answers ${answer.status}`, isFinal: !isBusy };
    }
    return { said: JSON.parse(await textOf(answer)) as unknown };
  } catch (error) {
    const { cause, message } = error as Error & { readonly cause?: { readonly code?: string } };
    return { why: cause?.code ?? message, isFinal: error instanceof SyntaxError };
  }
}

/** No more of it is read than a few seconds of speech can say. */
async function textOf(answer: Response): Promise<string> {
  const pieces: Uint8Array[] = [];
  let bytes = 0;
  // As Node's streams are; those of the DOM, of which some of this is told, promise less.
  const body = (answer.body ?? []) as unknown as AsyncIterable<Uint8Array>;
  // Left in the middle, the rest is not read.
  for await (const piece of body) {
    bytes += piece.length;
    if (bytes > 2 * LONGEST_ANSWER) throw new SyntaxError('its answer is too long');
    pieces.push(piece);
  }
  return Buffer.concat(pieces).toString('utf8');
}
