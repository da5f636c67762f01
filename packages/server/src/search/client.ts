import { Worker } from 'node:worker_threads';
import type { Answers, FromThread, Question, ThreadOptions, ToThread } from './messages';

/** Longer a person need not wait for what is newest. */
export const INDEX_WAIT_MS = 1000;
/** So long it has to keep what it knows; what it does not get to is worked out anew at the next start. */
const STOP_MS = 10_000;

interface Asked {
  readonly atLeast: number;
  readonly resolve: (answer: { revision: number; value: unknown }) => void;
  readonly reject: (error: Error) => void;
  readonly timer: NodeJS.Timeout;
}

/** The index, seen from the server: questions in, answers with the revision they show. */
export class SearchClient {
  private readonly thread: Worker;
  private readonly open = new Map<number, Asked>();
  private next = 1;
  /** The newest revision that somebody asked for and did not get; 0 while nobody is owed anything. */
  private owed = 0;
  readonly ready: Promise<{ revision: number; assets: number }>;

  /**
   * `waitMs`: after that long an answer is given from what the index has; it says its revision. `onCaughtUp` is called when the index
   * has a revision in that an earlier answer had to do without.
   */
  constructor(
    script: string,
    options: ThreadOptions,
    private readonly waitMs: number,
    private readonly onCaughtUp: () => void,
  ) {
    this.thread = new Worker(script, { workerData: options });
    this.ready = new Promise((resolve, reject) => {
      this.thread.once('error', (error) => {
        reject(error);
        for (const each of this.open.values()) each.reject(error);
      });
      this.thread.on('message', (message: FromThread) => {
        if (message.type === 'ready') resolve(message);
        else if (message.type === 'current') this.current(message.revision);
        else this.settle(message);
      });
    });
  }

  ask<Ask extends Question['ask']>(
    question: Extract<Question, { ask: Ask }>,
  ): Promise<{ revision: number; value: Answers[Ask] }> {
    return new Promise((resolve, reject) => {
      const id = this.next++;
      const timer = setTimeout(
        () => this.post({ type: 'ask', id, question: { ...question, atLeast: 0 } }),
        this.waitMs,
      );
      this.open.set(id, { atLeast: question.atLeast, resolve: resolve as Asked['resolve'], reject, timer });
      this.post({ type: 'ask', id, question });
    });
  }

  async stop(): Promise<void> {
    const gone = new Promise((resolve) => this.thread.once('exit', resolve));
    this.post({ type: 'stop' });
    await Promise.race([gone, new Promise((resolve) => setTimeout(resolve, STOP_MS).unref())]);
    await this.thread.terminate();
    for (const { timer } of this.open.values()) clearTimeout(timer);
  }

  private post(message: ToThread): void {
    this.thread.postMessage(message);
  }

  private current(revision: number): void {
    if (this.owed === 0 || revision < this.owed) return;
    this.owed = 0;
    this.onCaughtUp();
  }

  private settle(message: Extract<FromThread, { type: 'answer' | 'refusal' }>): void {
    const asked = this.open.get(message.id);
    if (!asked) return;
    this.open.delete(message.id);
    clearTimeout(asked.timer);
    if (message.type === 'answer') {
      if (message.revision < asked.atLeast) this.owed = Math.max(this.owed, asked.atLeast);
      asked.resolve(message);
    } else asked.reject(new Error(message.message));
  }
}
