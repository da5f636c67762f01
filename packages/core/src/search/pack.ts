import { SEGMENT_VERSION, type SegmentData } from './segment';

/** The kinds of arrays that segments are made of, and how many bytes a number takes in each. */
const KINDS = { u8: Uint8Array, u16: Uint16Array, u32: Uint32Array, f64: Float64Array } as const;
type Kind = keyof typeof KINDS;
type Flat = InstanceType<(typeof KINDS)[Kind]>;

/** Arrays begin at multiples of this, as wide numbers must. */
const ALIGNED_BYTES = 8;

/** In the place of an array: what kind it is, where it begins, and how many numbers it has. */
interface Placed {
  readonly $kind: Kind;
  readonly at: number;
  readonly length: number;
}

/** What is made of flat arrays, taken apart: the rest as JSON, and the arrays in the order in which they follow each other. */
export interface Packed {
  readonly head: string;
  /** Each with how many bytes to leave empty before it. */
  readonly arrays: readonly { readonly gap: number; readonly array: Flat }[];
  readonly bytes: number;
}

const kindOf = (array: Flat): Kind =>
  array instanceof Uint8Array
    ? 'u8'
    : array instanceof Uint16Array
      ? 'u16'
      : array instanceof Uint32Array
        ? 'u32'
        : 'f64';

const isFlat = (value: unknown): value is Flat => ArrayBuffer.isView(value);

export function packFlat(data: object): Packed {
  const arrays: { gap: number; array: Flat }[] = [];
  let bytes = 0;
  const head = JSON.stringify(data, (_key, value: unknown) => {
    if (!isFlat(value)) return value;
    const at = Math.ceil(bytes / ALIGNED_BYTES) * ALIGNED_BYTES;
    arrays.push({ gap: at - bytes, array: value });
    bytes = at + value.byteLength;
    return { $kind: kindOf(value), at, length: value.length } satisfies Placed;
  });
  return { head, arrays, bytes };
}

const isPlaced = (value: unknown): value is Placed => typeof value === 'object' && value !== null && '$kind' in value;

/**
 * Puts together again what was taken apart, from its head and its bytes, which it goes on using. Throws if an array lies outside the
 * bytes; whether they are the bytes that were written, and of what, is for whoever read them to know.
 */
export const unpackFlat = (head: string, bytes: ArrayBufferLike): unknown =>
  JSON.parse(head, (_key, value: unknown) => {
    if (!isPlaced(value)) return value;
    const kind = Object.hasOwn(KINDS, value.$kind) ? KINDS[value.$kind] : null;
    if (!kind) throw new Error('there is an array of no known kind');
    // Either kind of memory does; the types of the constructors name one.
    return new kind(bytes as ArrayBuffer, value.at, value.length);
  });

/** As `unpackFlat`, a segment; throws if it is of another version. */
export function unpackSegment(head: string, bytes: ArrayBufferLike): SegmentData {
  const data = unpackFlat(head, bytes) as SegmentData;
  if (data.version !== SEGMENT_VERSION) throw new Error(`a segment is of version ${String(data.version)}`);
  return data;
}
