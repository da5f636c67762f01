import type { GroupColumn } from './add-up';
import { AssemblyCode, PAGE_BYTES, type Memory } from './assembly';
import { bitsFor, type Bits } from './bits';
import { KERNEL_CODE } from './kernel-code';

/** Vectors are this long; everything begins at a multiple of it. */
const VECTOR_BYTES = 16;

/** What `kernel.wat` exports; all addresses and lengths in bytes. */
interface Exports {
  countBoth(a: number, b: number, length: number): number;
  countList(from: number, to: number, bits: number): number;
  hasList(from: number, to: number, bits: number): number;
  readonly addSingle8: AddSingle;
  readonly addSingle16: AddSingle;
  readonly addSingle32: AddSingle;
  readonly addSeveral8: AddSeveral;
  readonly addSeveral16: AddSeveral;
  readonly addSeveral32: AddSeveral;
}

type AddSingle = (numbers: number, bits: number, length: number, counts: number) => void;
type AddSeveral = (starts: number, items: number, bits: number, length: number, counts: number) => void;
type Width = 8 | 16 | 32;

const code = new AssemblyCode(KERNEL_CODE);

const padded = (bytes: number): number => Math.ceil(bytes / VECTOR_BYTES) * VECTOR_BYTES;

/**
 * Counting for one segment in WebAssembly with vectors: sets of bits eight times, lists and columns three times as quick as in
 * TypeScript. What is counted is copied in once; the set that it is counted in, when it is another than the last.
 */
export class Kernel {
  private used = 0;
  private readonly found: number;
  private readonly foundBytes: number;
  private last: Bits | null = null;
  private readonly columns = new WeakMap<GroupColumn, PlacedColumn>();

  private constructor(
    private readonly memory: Memory,
    private readonly exports: Exports,
    universe: number,
  ) {
    this.foundBytes = padded(bitsFor(universe).byteLength);
    this.found = this.room(this.foundBytes);
  }

  static of(universe: number): Kernel | null {
    const memory = AssemblyCode.memory();
    const exports = memory && code.instance(memory);
    return memory && exports ? new Kernel(memory, exports as Exports, universe) : null;
  }

  private room(bytes: number): number {
    const at = this.used;
    // A vector more, so that none is ever read beyond the end.
    this.used = padded(at + bytes) + VECTOR_BYTES;
    const missing = this.used - this.memory.buffer.byteLength;
    if (missing > 0) this.memory.grow(Math.ceil(missing / PAGE_BYTES));
    return at;
  }

  /** Copies an array in, and gives its address. */
  place(array: Uint8Array | Uint16Array | Uint32Array): number {
    const at = this.room(array.byteLength);
    this.write(at, array);
    return at;
  }

  private write(at: number, array: Uint8Array | Uint16Array | Uint32Array): void {
    new Uint8Array(this.memory.buffer).set(new Uint8Array(array.buffer, array.byteOffset, array.byteLength), at);
  }

  private setFound(bits: Bits): number {
    if (this.last !== bits) this.write(this.found, bits);
    this.last = bits;
    return this.found;
  }

  /** How many are in both of two sets, the first by its address. */
  countBoth(at: number, found: Bits): number {
    return this.exports.countBoth(this.setFound(found), at, this.foundBytes);
  }

  /** How many documents of a list are in a set; the list by the address of its first document, and of the first after it. */
  countList(from: number, to: number, found: Bits): number {
    return this.exports.countList(from, to, this.setFound(found));
  }

  hasList(from: number, to: number, found: Bits): boolean {
    return this.exports.hasList(from, to, this.setFound(found)) !== 0;
  }

  /** By the number of their group, how many documents of a set say it; at 0 those that say nothing. */
  addUp(column: GroupColumn, found: Bits, groups: number): Uint32Array {
    const { numbers, starts, width, counts } = this.placed(column, groups);
    const bits = this.setFound(found);
    new Uint32Array(this.memory.buffer, counts, groups + 1).fill(0);
    if (starts === null) this.exports[`addSingle${width}`](numbers, bits, this.foundBytes, counts);
    else this.exports[`addSeveral${width}`](starts, numbers, bits, this.foundBytes, counts);
    return new Uint32Array(this.memory.buffer, counts, groups + 1).slice();
  }

  private placed(column: GroupColumn, groups: number): PlacedColumn {
    let placed = this.columns.get(column);
    if (!placed) {
      const numbers = column.numbers ?? column.items;
      placed = {
        numbers: this.place(numbers),
        starts: column.starts && this.place(column.starts),
        width: (numbers.BYTES_PER_ELEMENT * 8) as Width,
        counts: this.room((groups + 1) * 4),
      };
      this.columns.set(column, placed);
    }
    return placed;
  }
}

/** Addresses of a column, and of where its groups are counted. */
interface PlacedColumn {
  readonly numbers: number;
  readonly starts: number | null;
  /** Bits of a number. */
  readonly width: Width;
  readonly counts: number;
}
