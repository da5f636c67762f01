import { firstNot } from './first-not';

const encoder = new TextEncoder();
const decoder = new TextDecoder();

export const utf8 = (text: string): Uint8Array => encoder.encode(text);

/** Many texts in one stretch of bytes (UTF-8), each from its start up to the next one's. */
export class Strings {
  constructor(
    readonly bytes: Uint8Array,
    /** One more than there are texts. */
    readonly starts: Uint32Array,
  ) {}

  get length(): number {
    return this.starts.length - 1;
  }

  at(index: number): string {
    return decodeText(this.bytes, this.starts[index] as number, this.starts[index + 1] as number);
  }

  /** Its bytes. */
  lengthAt(index: number): number {
    return (this.starts[index + 1] as number) - (this.starts[index] as number);
  }

  /** The first that is not below those bytes; texts must stand in the order of their bytes. */
  firstAtLeast(bytes: Uint8Array): number {
    return firstNot((at) => this.compare(at, bytes) < 0, 0, this.length);
  }

  /** The first after all that begin with those bytes. */
  firstBeyond(prefix: Uint8Array, from: number): number {
    return firstNot((at) => this.beginsWith(at, prefix), from, this.length);
  }

  beginsWith(index: number, prefix: Uint8Array): boolean {
    const start = this.starts[index] as number;
    if ((this.starts[index + 1] as number) - start < prefix.length) return false;
    for (let i = 0; i < prefix.length; i += 1) if (this.bytes[start + i] !== prefix[i]) return false;
    return true;
  }

  endsWith(index: number, suffix: Uint8Array): boolean {
    const end = this.starts[index + 1] as number;
    if (end - (this.starts[index] as number) < suffix.length) return false;
    const start = end - suffix.length;
    for (let i = 0; i < suffix.length; i += 1) if (this.bytes[start + i] !== suffix[i]) return false;
    return true;
  }

  includes(index: number, part: Uint8Array): boolean {
    const last = (this.starts[index + 1] as number) - part.length;
    outer: for (let at = this.starts[index] as number; at <= last; at += 1) {
      for (let i = 0; i < part.length; i += 1) if (this.bytes[at + i] !== part[i]) continue outer;
      return true;
    }
    return false;
  }

  compare(index: number, other: Uint8Array): number {
    const start = this.starts[index] as number;
    return compareBytes(this.bytes, start, this.starts[index + 1] as number, other, 0, other.length);
  }
}

export function compareBytes(
  a: Uint8Array,
  aFrom: number,
  aTo: number,
  b: Uint8Array,
  bFrom: number,
  bTo: number,
): number {
  const shared = Math.min(aTo - aFrom, bTo - bFrom);
  for (let i = 0; i < shared; i += 1) {
    const apart = (a[aFrom + i] as number) - (b[bFrom + i] as number);
    if (apart !== 0) return apart;
  }
  return aTo - aFrom - (bTo - bFrom);
}

/** Short texts of ASCII, most of all there are, are put together faster than the decoder is called. */
function decodeText(bytes: Uint8Array, from: number, to: number): string {
  if (to - from > 64) return decoder.decode(bytes.subarray(from, to));
  let text = '';
  for (let i = from; i < to; i += 1) {
    const byte = bytes[i] as number;
    if (byte > 127) return decoder.decode(bytes.subarray(from, to));
    text += String.fromCharCode(byte);
  }
  return text;
}

/** Numbers that grow at the end, kept in chunks so that growing copies nothing. */
export class GrowingNumbers {
  private readonly chunks: Uint32Array[] = [];
  length = 0;

  push(value: number): void {
    const at = this.length & CHUNK_MASK;
    if (at === 0) this.chunks.push(new Uint32Array(this.length === 0 ? FIRST : CHUNK));
    let chunk = this.chunks[this.length >>> CHUNK_BITS] as Uint32Array;
    if (at >= chunk.length) {
      const larger = new Uint32Array(chunk.length * 4);
      larger.set(chunk);
      this.chunks[this.length >>> CHUNK_BITS] = chunk = larger;
    }
    chunk[at] = value;
    this.length += 1;
  }

  at(index: number): number {
    return (this.chunks[index >>> CHUNK_BITS] as Uint32Array)[index & CHUNK_MASK] as number;
  }
}

const CHUNK_BITS = 16;
const CHUNK = 1 << CHUNK_BITS;
const CHUNK_MASK = CHUNK - 1;
/** The first chunk grows from here by fours: most segments are of few documents. */
const FIRST = CHUNK >>> 10;

/** Texts that grow at the end. */
export class GrowingStrings {
  private bytes: Uint8Array<ArrayBuffer> = new Uint8Array(256);
  private starts = new GrowingNumbers();
  private used = 0;

  constructor() {
    this.starts.push(0);
  }

  get length(): number {
    return this.starts.length - 1;
  }

  push(text: string): void {
    // A UTF-16 unit takes three bytes at most.
    const least = this.used + text.length * 3;
    if (least > this.bytes.length) {
      const larger = new Uint8Array(Math.max(least, Math.floor(this.bytes.length * 1.5)));
      larger.set(this.bytes);
      this.bytes = larger;
    }
    this.used += encoder.encodeInto(text, this.bytes.subarray(this.used)).written;
    this.starts.push(this.used);
  }

  at(index: number): string {
    return decodeText(this.bytes, this.starts.at(index), this.starts.at(index + 1));
  }

  /** Those of them, in that order, as they are kept. */
  pick(
    order: ArrayLike<number>,
    bytes: (length: number) => Uint8Array,
    numbers: (length: number) => Uint32Array,
  ): Strings {
    let total = 0;
    for (let i = 0; i < order.length; i += 1) {
      const index = order[i] as number;
      total += this.starts.at(index + 1) - this.starts.at(index);
    }
    const out = new Strings(bytes(total), numbers(order.length + 1));
    let used = 0;
    for (let i = 0; i < order.length; i += 1) {
      const index = order[i] as number;
      const [from, to] = [this.starts.at(index), this.starts.at(index + 1)];
      out.bytes.set(this.bytes.subarray(from, to), used);
      used += to - from;
      out.starts[i + 1] = used;
    }
    return out;
  }
}
