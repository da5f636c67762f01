import { inject, Injectable, signal } from '@angular/core';
import { Upload } from 'tus-js-client';
import { FILE_PATHS } from '@larder/contract';
import { CLOCK } from './clock';
import { keepQueue, keptQueue } from './kept-queue';

export const UPLOAD_STATES = ['waiting', 'sending', 'cut', 'interrupted', 'sent', 'failed', 'cancelled'] as const;
export type UploadState = (typeof UPLOAD_STATES)[number];

/** A file on its way from this browser. */
export interface UploadItem {
  readonly id: number;
  /** Its path below the folder that was chosen, or its name. */
  readonly path: string;
  readonly bytes: number;
  readonly sent: number;
  readonly state: UploadState;
  /** Bytes a second over the last while; null while not known. */
  readonly speed: number | null;
  readonly message: string | null;
  /** By which a file that is chosen again is known, besides its path and size. */
  readonly modifiedMs: number;
  /** Where the server has what came of it so far. */
  readonly url: string | null;
}

const CHUNK_BYTES = 8 * 1024 * 1024;
const AT_ONCE = 2;
/** How long is waited before each new try after the connection was cut; the last holds from there on. */
const RETRY_MS = [0, 1000, 3000, 5000, 10_000, 20_000];
/** For as long as an evening without a network. */
const TRIES = 500;

const newBatch = (): string => crypto.randomUUID();

/** Sends files in pieces, two at a time, and goes on where it stopped when the connection comes back. */
@Injectable({ providedIn: 'root' })
export class Uploader {
  private readonly clock = inject(CLOCK);
  private readonly kept = keptQueue();
  readonly items = signal<readonly UploadItem[]>([]);
  /** What is sent together is brought in together. */
  batch = this.kept?.batch ?? newBatch();
  private readonly files = new Map<number, File>();
  private readonly running = new Map<number, Upload>();
  private next = 1;

  constructor() {
    const known = (this.kept?.items ?? []).map(({ state, ...item }): UploadItem => ({
      ...item,
      id: this.next++,
      sent: state === 'sent' ? item.bytes : 0,
      state: state === 'sent' ? 'sent' : 'interrupted',
      speed: null,
      message: null,
    }));
    this.items.set(known);
  }

  /** Sends files. One whose sending was interrupted goes on where it stopped, and one that was sent is not sent again. */
  add(files: readonly { readonly file: File; readonly path: string }[]): void {
    for (const { file, path } of files) {
      const known = this.items().find(
        (item) =>
          (item.state === 'interrupted' || item.state === 'sent') &&
          item.path === path &&
          item.bytes === file.size &&
          item.modifiedMs === file.lastModified,
      );
      if (known?.state === 'sent') continue;
      const id = known?.id ?? this.next++;
      this.files.set(id, file);
      if (known) this.change(id, { state: 'waiting' });
      else
        this.items.update((items) => [
          ...items,
          {
            ...{ id, path, bytes: file.size, modifiedMs: file.lastModified },
            ...{ sent: 0, state: 'waiting', speed: null, message: null, url: null },
          },
        ]);
    }
    this.keep();
    this.go();
  }

  cancel(id: number): void {
    const url = this.items().find((item) => item.id === id)?.url;
    const running = this.running.get(id);
    if (running) void running.abort(true);
    // What an earlier page began is given up with the server; if it is gone already, so much the better.
    else if (url) void Upload.terminate(url).catch(() => undefined);
    this.running.delete(id);
    this.change(id, { state: 'cancelled', speed: null });
    this.keep();
    this.go();
  }

  retry(id: number): void {
    this.change(id, { state: 'waiting', message: null });
    this.go();
  }

  /** Everything that was sent has been handed on; the next files are another batch. */
  clear(): void {
    this.items.set([]);
    this.files.clear();
    this.batch = newBatch();
    this.keep();
  }

  /** What is on its way, or was given up by the server for now, is interrupted for the page that comes after this one. */
  private keep(): void {
    const items = this.items()
      .filter(({ state }) => state !== 'cancelled')
      .map(({ path, bytes, modifiedMs, url, state }) => ({
        ...{ path, bytes, modifiedMs, url },
        state: state === 'sent' ? state : ('interrupted' as const),
      }));
    keepQueue({ batch: this.batch, items });
  }

  private change(id: number, change: Partial<UploadItem>): void {
    this.items.update((items) => items.map((item) => (item.id === id ? { ...item, ...change } : item)));
  }

  private go(): void {
    for (const item of this.items().filter(({ state }) => state === 'waiting')) {
      if (this.running.size >= AT_ONCE) return;
      const file = this.files.get(item.id);
      if (file) this.send(item, file);
    }
  }

  private send({ id, path, url }: UploadItem, file: File): void {
    let [mark, before] = [this.clock(), 0];
    const ended = (change: Partial<UploadItem>) => {
      this.running.delete(id);
      this.change(id, { speed: null, ...change });
      this.keep();
      this.go();
    };
    const upload = new Upload(file, {
      endpoint: FILE_PATHS.uploads,
      uploadUrl: url,
      chunkSize: CHUNK_BYTES,
      retryDelays: [...RETRY_MS, ...Array.from({ length: TRIES }, () => RETRY_MS.at(-1) ?? 0)],
      metadata: { batch: this.batch, path },
      storeFingerprintForResuming: false,
      onUploadUrlAvailable: () => {
        this.change(id, { url: upload.url });
        this.keep();
      },
      onProgress: (sent) => {
        const now = this.clock();
        const speed = now - mark > 500 ? ((sent - before) * 1000) / (now - mark) : undefined;
        if (speed !== undefined) [mark, before] = [now, sent];
        this.change(id, { state: 'sending', sent, ...(speed === undefined ? {} : { speed }) });
      },
      onShouldRetry: (error) => {
        const status = error.originalResponse?.getStatus() ?? 0;
        const worthIt = status === 0 || status >= 500 || status === 423 || status === 409;
        if (worthIt) this.change(id, { state: 'cut', speed: null });
        return worthIt;
      },
      onSuccess: () => ended({ state: 'sent', sent: file.size }),
      onError: (error) => {
        const said = 'originalResponse' in error ? error.originalResponse?.getBody() : null;
        ended({ state: 'failed', message: said || 'It could not be sent. Try again.' });
      },
    });
    this.running.set(id, upload);
    this.change(id, { state: 'sending' });
    upload.start();
  }
}
