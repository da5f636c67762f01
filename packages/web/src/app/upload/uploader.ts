import { inject, Injectable, signal } from '@angular/core';
import { Upload } from 'tus-js-client';
import { FILE_PATHS } from '@larder/contract';
import { CLOCK } from './clock';

export const UPLOAD_STATES = ['waiting', 'sending', 'cut', 'sent', 'failed', 'cancelled'] as const;
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
  readonly items = signal<readonly UploadItem[]>([]);
  /** What is sent together is brought in together. */
  batch = newBatch();
  private readonly files = new Map<number, File>();
  private readonly running = new Map<number, Upload>();
  private next = 1;

  add(files: readonly { readonly file: File; readonly path: string }[]): void {
    const fresh = files.map(({ file, path }): UploadItem => {
      const id = this.next++;
      this.files.set(id, file);
      return { id, path, bytes: file.size, sent: 0, state: 'waiting', speed: null, message: null };
    });
    this.items.update((items) => [...items, ...fresh]);
    this.go();
  }

  cancel(id: number): void {
    void this.running.get(id)?.abort(true);
    this.running.delete(id);
    this.change(id, { state: 'cancelled', speed: null });
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
  }

  private change(id: number, change: Partial<UploadItem>): void {
    this.items.update((items) => items.map((item) => (item.id === id ? { ...item, ...change } : item)));
  }

  private go(): void {
    for (const { id, path } of this.items().filter(({ state }) => state === 'waiting')) {
      if (this.running.size >= AT_ONCE) return;
      const file = this.files.get(id);
      if (file) this.send(id, file, path);
    }
  }

  private send(id: number, file: File, path: string): void {
    let [mark, before] = [this.clock(), 0];
    const ended = (change: Partial<UploadItem>) => {
      this.running.delete(id);
      this.change(id, { speed: null, ...change });
      this.go();
    };
    const upload = new Upload(file, {
      endpoint: FILE_PATHS.uploads,
      chunkSize: CHUNK_BYTES,
      retryDelays: [...RETRY_MS, ...Array.from({ length: TRIES }, () => RETRY_MS.at(-1) ?? 0)],
      metadata: { batch: this.batch, path },
      storeFingerprintForResuming: false,
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
