import type { FieldId } from '../fields';
import type { Bits } from './bits';
import type { GroupedData } from './grouped';

/** The form of segments; kept ones of another are not read but made anew. */
export const SEGMENT_VERSION = 1;

/** Up to so many documents are gone through one by one sooner than anything is made of them for it. */
export const FEW_DOCS = 4096;

/** As narrow as the largest of the numbers allows. */
export type Numbers = Uint8Array | Uint16Array | Uint32Array;

/** What single documents say, as one more than the number of the value; 0 where nothing is said. */
interface Single {
  readonly numbers: Numbers;
  readonly starts: null;
  readonly items: null;
}

/** What documents say several of: the numbers of the values of a document stand in `items` from its start up to the next one's. */
interface Several {
  readonly numbers: null;
  readonly starts: Uint32Array;
  readonly items: Numbers;
}

/** A field of numbers: each different one once, ascending. */
export type NumberColumn = Single & { readonly kind: 'numbers'; readonly values: Float64Array };

/** A field of words: each different text once, in the order of `valueKey`. */
export type TextColumn = (Single | Several) & {
  readonly kind: 'texts';
  readonly bytes: Uint8Array;
  readonly textStarts: Uint32Array;
  /** For each text the number of its group, of those with the same words; null where each is a group of its own. */
  readonly groups: Uint32Array | null;
};

export type Column = NumberColumn | TextColumn;

/**
 * A part of the index that is never changed: documents in the order of their ids, numbered from 0. All of it is in flat arrays, in
 * memory that threads can share, so that it is handed to another thread, written to disk and read back without being touched.
 */
export interface SegmentData {
  readonly version: typeof SEGMENT_VERSION;
  readonly ids: Uint32Array;
  /** The fields that have words, by the numbers that `entryFields` gives. */
  readonly worded: readonly FieldId[];
  /** Every word of any field, in the order of its bytes. */
  readonly termBytes: Uint8Array;
  readonly termStarts: Uint32Array;
  /** A word in a field is an entry; those of one word stand together, so that a beginning in any field is one stretch. */
  readonly entriesOf: Uint32Array;
  readonly entryFields: Uint16Array;
  /** Where each entry's postings begin. */
  readonly postingsOf: Uint32Array;
  /** Of each posting the document, ascending within an entry, and where in the field the word stands (`PLACE`). */
  readonly docs: Uint32Array;
  readonly places: Uint16Array;
  /** 1 for each entry whose word is all of what is said wherever it is said in the field. */
  readonly wholeEntries: Uint8Array;
  /** Entries found in so many documents that their bits are kept, ascending, and the bits one after the other. */
  readonly denseEntries: Uint32Array;
  readonly denseBits: Bits;
  /** Runs of three bytes within words, ascending, and the words that have each. */
  readonly trigrams: Uint32Array;
  readonly trigramStarts: Uint32Array;
  readonly trigramTerms: Uint32Array;
  /** Words in each field of each document, 255 for as many or more; by the field's number. */
  readonly lengths: readonly Uint8Array[];
  readonly columns: Readonly<Partial<Record<FieldId, Column>>>;
  /** Documents that say something in a field in the order of what they say; made for the fields that lists are ordered by. */
  readonly orders: Readonly<Partial<Record<FieldId, Uint32Array>>>;
  /** Groups of what is said in a field; made for the fields that were counted. */
  readonly grouped: Readonly<Partial<Record<FieldId, GroupedData>>>;
}

/**
 * A place is a word's number within its field, with one left out between two things said so that no phrase goes over both, and with
 * two marks. Words beyond the last number all stand at it: they are found as words, and not in phrases.
 */
export const PLACE = { first: 0x8000, last: 0x4000, number: 0x3fff } as const;

/** Where a document that is gone stands in what its segment was merged into. */
export const NOWHERE = 0xffff_ffff;

const shared = (bytes: number): SharedArrayBuffer | ArrayBuffer =>
  typeof SharedArrayBuffer === 'undefined' ? new ArrayBuffer(bytes) : new SharedArrayBuffer(bytes);

export const sharedBytes = (length: number): Uint8Array => new Uint8Array(shared(length));
export const sharedPlaces = (length: number): Uint16Array => new Uint16Array(shared(length * 2));
export const sharedNumbers = (length: number): Uint32Array => new Uint32Array(shared(length * 4));
export const sharedDoubles = (length: number): Float64Array => new Float64Array(shared(length * 8));

/** Room for numbers up to and with `largest`. */
export const sharedNarrow = (length: number, largest: number): Numbers =>
  largest < 0x100 ? sharedBytes(length) : largest < 0x1_0000 ? sharedPlaces(length) : sharedNumbers(length);

export function asShared(list: ArrayLike<number>): Uint32Array {
  const out = sharedNumbers(list.length);
  out.set(list);
  return out;
}
