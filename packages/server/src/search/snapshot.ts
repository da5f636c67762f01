import { randomUUID } from 'node:crypto';
import { mkdir, open, readdir, readFile, rename, rm, writeFile, type FileHandle } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { Xxh64 } from '@node-rs/xxhash';
import { packSegment, SEGMENT_VERSION, unpackSegment, type KeptParts, type SegmentData } from '@larder/core/search';

/** The form of what is kept beside the segments. */
const VERSION = 1;
/** The hash of its second line, then what it says. */
const MANIFEST = 'index.txt';
const SEGMENT = /^segment-[0-9a-f-]{36}\.bin$/;
/** The length of a segment's head stands at its beginning, in so many digits. */
const HEAD_DIGITS = 12;
const CHUNK_BYTES = 64 * 1024 * 1024;

/** How an index was when it was kept: the change that was in it last, and by what rules documents were made. */
export interface KeptState {
  readonly revision: number;
  readonly mark: string | null;
  readonly documents: string;
}

interface Manifest extends KeptState {
  readonly version: typeof VERSION;
  readonly segments: readonly {
    readonly file: string;
    readonly bytes: number;
    readonly xxh64: string;
    /** Which of its documents are gone, 32 bits each. */
    readonly dead: string;
  }[];
}

/**
 * Keeps an index in a folder of its own. A segment is written once, as it never changes; what is gone from it stands in the manifest,
 * which takes the place of the one before when all is written. Nothing in here is needed: what cannot be read is made anew.
 */
export class IndexSnapshots {
  private readonly root: string;
  private readonly files = new WeakMap<SegmentData, Omit<Manifest['segments'][number], 'dead'>>();

  constructor(root: string) {
    this.root = resolve(root);
  }

  async save(parts: KeptParts, state: KeptState): Promise<void> {
    await mkdir(this.root, { recursive: true });
    const segments: Manifest['segments'][number][] = [];
    for (const { data, dead } of parts) {
      let file = this.files.get(data);
      if (!file) this.files.set(data, (file = await this.write(data)));
      segments.push({ ...file, dead: Buffer.from(dead.buffer, dead.byteOffset, dead.byteLength).toString('base64') });
    }
    const manifest: Manifest = { version: VERSION, ...state, segments };
    const temporary = join(this.root, `${MANIFEST}.part`);
    const text = JSON.stringify(manifest);
    await writeFile(temporary, `${hashOf(text)}\n${text}`);
    await rename(temporary, join(this.root, MANIFEST));
    const kept = new Set(segments.map(({ file }) => file));
    for (const name of await readdir(this.root))
      if (SEGMENT.test(name) && !kept.has(name)) await rm(join(this.root, name), { force: true });
  }

  private async write(data: SegmentData): Promise<Omit<Manifest['segments'][number], 'dead'>> {
    const file = `segment-${randomUUID()}.bin`;
    const { head, arrays } = packSegment(data);
    const hash = new Xxh64(0n);
    let bytes = 0;
    const handle = await open(join(this.root, file), 'wx');
    try {
      const put = async (piece: Uint8Array): Promise<void> => {
        hash.update(piece);
        bytes += piece.length;
        for (let done = 0; done < piece.length;)
          done += (await handle.write(piece, done, Math.min(CHUNK_BYTES, piece.length - done))).bytesWritten;
      };
      const text = Buffer.from(head);
      await put(Buffer.from(String(text.length).padStart(HEAD_DIGITS, '0')));
      await put(text);
      for (const { gap, array } of arrays) {
        if (gap > 0) await put(Buffer.alloc(gap));
        await put(new Uint8Array(array.buffer, array.byteOffset, array.byteLength));
      }
      await handle.sync();
    } finally {
      await handle.close();
    }
    return { file, bytes, xxh64: hash.digest().toString(16) };
  }

  /** What was kept last; null if nothing was, or it is not whole. */
  async load(): Promise<{ readonly parts: KeptParts; readonly state: KeptState } | null> {
    try {
      const [hash, text = ''] = (await readFile(join(this.root, MANIFEST), 'utf8')).split('\n');
      if (hash !== hashOf(text)) return null;
      const manifest = JSON.parse(text) as Manifest;
      if (manifest.version !== VERSION) return null;
      const parts: { data: SegmentData; dead: Uint32Array }[] = [];
      for (const { dead, ...segment } of manifest.segments) {
        const data = await this.read(segment);
        const bytes = Buffer.from(dead, 'base64');
        parts.push({
          data,
          dead: new Uint32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length)),
        });
        this.files.set(data, segment);
      }
      const { revision, mark, documents } = manifest;
      return { parts, state: { revision, mark, documents } };
    } catch {
      return null;
    }
  }

  private async read({ file, bytes, xxh64 }: Omit<Manifest['segments'][number], 'dead'>): Promise<SegmentData> {
    if (!SEGMENT.test(file)) throw new Error('no name of a segment');
    const handle = await open(join(this.root, file), 'r');
    try {
      if ((await handle.stat()).size !== bytes) throw new Error('a segment is cut off');
      const hash = new Xxh64(0n);
      const digits = await readPiece(handle, Buffer.alloc(HEAD_DIGITS), 0);
      hash.update(digits);
      const length = Number(digits.toString());
      if (!Number.isSafeInteger(length) || length > bytes) throw new Error('a segment has no head');
      const head = await readPiece(handle, Buffer.alloc(length), HEAD_DIGITS);
      hash.update(head);
      const memory = new SharedArrayBuffer(bytes - HEAD_DIGITS - length);
      const body = await readPiece(handle, Buffer.from(memory), HEAD_DIGITS + length);
      hash.update(body);
      if (hash.digest().toString(16) !== xxh64) throw new Error('a segment is not what was written');
      return unpackSegment(head.toString(), memory);
    } finally {
      await handle.close();
    }
  }
}

const hashOf = (text: string): string => new Xxh64(0n).update(text).digest().toString(16);

async function readPiece(handle: FileHandle, into: Buffer, from: number): Promise<Buffer> {
  for (let done = 0; done < into.length;) {
    const length = Math.min(CHUNK_BYTES, into.length - done);
    const { bytesRead } = await handle.read(into, done, length, from + done);
    if (bytesRead === 0) throw new Error('a segment is cut off');
    done += bytesRead;
  }
  return into;
}

/** By what rules documents are cut into words and put in order: others, and what was kept is of no use. */
export const documentRules = (version: number): string =>
  [version, SEGMENT_VERSION, process.versions['unicode'], process.versions['icu']].join(' ');
