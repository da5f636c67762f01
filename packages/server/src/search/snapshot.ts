import { randomUUID } from 'node:crypto';
import { mkdir, open, readdir, readFile, rename, rm, writeFile, type FileHandle } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { Xxh64 } from '@node-rs/xxhash';
import { SPOKEN_INDEX_VERSION, type KeptSpoken, type SpokenSegment } from '@larder/core/dialogue';
import { packFlat, SEGMENT_VERSION, unpackFlat, unpackSegment, type KeptParts } from '@larder/core/search';

/** The form of what is kept beside the segments. */
const VERSION = 2;
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
  readonly segments: readonly (KeptFile & {
    /** Which of its documents are gone, 32 bits each. */
    readonly dead: string;
  })[];
  /** What is said: its words, and where they are said. */
  readonly spoken: {
    readonly words: KeptFile;
    readonly segments: readonly (KeptFile & {
      /** Which of its documents are gone, a byte each. */
      readonly gone: string;
    })[];
  };
}

interface KeptFile {
  readonly file: string;
  readonly bytes: number;
  readonly xxh64: string;
}

/** All that is kept. */
export interface Kept {
  readonly parts: KeptParts;
  readonly spoken: KeptSpoken;
  readonly state: KeptState;
}

/**
 * Keeps an index in a folder of its own. A segment is written once, as it never changes; what is gone from it stands in the manifest,
 * which takes the place of the one before when all is written. Nothing in here is needed: what cannot be read is made anew.
 */
export class IndexSnapshots {
  private readonly root: string;
  private readonly files = new WeakMap<object, KeptFile>();

  constructor(root: string) {
    this.root = resolve(root);
  }

  async save({ parts, spoken: { parts: said, ...words }, state }: Kept): Promise<void> {
    await mkdir(this.root, { recursive: true });
    const segments: Manifest['segments'][number][] = [];
    for (const { data, dead } of parts) segments.push({ ...(await this.once(data)), dead: inBase64(dead) });
    const spoken: Manifest['spoken']['segments'][number][] = [];
    for (const { gone, segment } of said) spoken.push({ ...(await this.once(segment)), gone: inBase64(gone) });
    const manifest: Manifest = {
      ...{ version: VERSION, ...state, segments },
      spoken: { words: await this.write({ version: SPOKEN_INDEX_VERSION, ...words }), segments: spoken },
    };
    const temporary = join(this.root, `${MANIFEST}.part`);
    const text = JSON.stringify(manifest);
    await writeFile(temporary, `${hashOf(text)}\n${text}`);
    await rename(temporary, join(this.root, MANIFEST));
    const kept = new Set([...segments, ...spoken, manifest.spoken.words].map(({ file }) => file));
    for (const name of await readdir(this.root))
      if (SEGMENT.test(name) && !kept.has(name)) await rm(join(this.root, name), { force: true });
  }

  /** What never changes is written once. */
  private async once(data: object): Promise<KeptFile> {
    let file = this.files.get(data);
    if (!file) this.files.set(data, (file = await this.write(data)));
    return file;
  }

  private async write(data: object): Promise<KeptFile> {
    const file = `segment-${randomUUID()}.bin`;
    const { head, arrays } = packFlat(data);
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
  async load(): Promise<Kept | null> {
    try {
      const [hash, text = ''] = (await readFile(join(this.root, MANIFEST), 'utf8')).split('\n');
      if (hash !== hashOf(text)) return null;
      const manifest = JSON.parse(text) as Manifest;
      if (manifest.version !== VERSION) return null;
      const parts: KeptParts[number][] = [];
      for (const { dead, ...segment } of manifest.segments) {
        const { body, head } = await this.read(segment);
        const data = unpackSegment(head, body);
        parts.push({ data, dead: new Uint32Array(fromBase64(dead)) });
        this.files.set(data, segment);
      }
      const { revision, mark, documents, spoken } = manifest;
      return { parts, spoken: await this.loadSpoken(spoken), state: { revision, mark, documents } };
    } catch {
      return null;
    }
  }

  private async loadSpoken({ segments, words }: Manifest['spoken']): Promise<KeptSpoken> {
    const parts: KeptSpoken['parts'][number][] = [];
    for (const { gone, ...file } of segments) {
      const { body, head } = await this.read(file);
      const segment = unpackFlat(head, body) as SpokenSegment;
      parts.push({ segment, gone: new Uint8Array(fromBase64(gone)) });
      this.files.set(segment, file);
    }
    const { body, head } = await this.read(words);
    const { version, ...known } = unpackFlat(head, body) as Omit<KeptSpoken, 'parts'> & { version: number };
    if (version !== SPOKEN_INDEX_VERSION) throw new Error(`what is said is kept in version ${String(version)}`);
    return { ...known, parts };
  }

  private async read({
    file,
    bytes,
    xxh64,
  }: KeptFile): Promise<{ readonly head: string; readonly body: SharedArrayBuffer }> {
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
      return { head: head.toString(), body: memory };
    } finally {
      await handle.close();
    }
  }
}

const inBase64 = ({ buffer, byteLength, byteOffset }: Uint8Array | Uint32Array): string =>
  Buffer.from(buffer, byteOffset, byteLength).toString('base64');

/** Memory of its own, so that it begins where wide numbers may. */
const fromBase64 = (text: string): ArrayBuffer => Uint8Array.from(Buffer.from(text, 'base64')).buffer;

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
