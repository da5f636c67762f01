import { words } from '../fields';
import { compareBytes, Strings, utf8 } from './strings';

/** What a word is kept as where its letters take no more than a byte each; 0 for what stands between words. */
const LETTERS = Uint8Array.from({ length: 128 }, (_unused, code) => {
  const letter = String.fromCharCode(code);
  return /[a-z0-9]/i.test(letter) ? letter.toLowerCase().charCodeAt(0) : 0;
});

/**
 * Gives each word that comes by a number. Words are found by their bytes without being made strings first, which is most of the work
 * of making an index.
 */
export class TermTable {
  private bytes: Uint8Array<ArrayBuffer> = new Uint8Array(1024);
  private starts: Uint32Array<ArrayBuffer> = new Uint32Array(256);
  /** One more than the number of a term, by its hash; 0 where there is none. Twice as many places as terms, at least. */
  private slots: Uint32Array<ArrayBuffer> = new Uint32Array(512);
  count = 0;

  /** Calls with the number of each word of a text, in order. */
  each(text: string, visit: (term: number) => void): void {
    const used = this.starts[this.count] as number;
    this.room(text.length + 1);
    let [at, hash] = [used, SEED];
    for (let i = 0; i < text.length; i += 1) {
      const code = text.charCodeAt(i);
      if (code > 127) return this.eachFolded(text, i, visit);
      const letter = LETTERS[code] as number;
      if (letter > 0) {
        // The word is written where it will stay, if it is a new one.
        this.bytes[at++] = letter;
        hash = Math.imul(hash ^ letter, PRIME);
      } else if (at > this.end) {
        visit(this.numberOf(at, hash));
        this.room(text.length - i + 1);
        [at, hash] = [this.end, SEED];
      }
    }
    if (at > this.end) visit(this.numberOf(at, hash));
  }

  /** Of a text with other letters, all words; those up to the first such letter came by before, and are not called with again. */
  private eachFolded(text: string, from: number, visit: (term: number) => void): void {
    let begin = from;
    // The word that the letter is in began before it.
    while (begin > 0 && (LETTERS[text.charCodeAt(begin - 1)] as number) > 0) begin -= 1;
    for (const word of words(text.slice(begin))) {
      const bytes = utf8(word);
      this.room(bytes.length);
      this.bytes.set(bytes, this.end);
      let hash = SEED;
      for (const byte of bytes) hash = Math.imul(hash ^ byte, PRIME);
      visit(this.numberOf(this.end + bytes.length, hash));
    }
  }

  private get end(): number {
    return this.starts[this.count] as number;
  }

  private room(more: number): void {
    const least = this.end + more;
    if (least <= this.bytes.length) return;
    const larger = new Uint8Array(Math.max(least, this.bytes.length * 2));
    larger.set(this.bytes);
    this.bytes = larger;
  }

  /** The number of the word that was written behind the others, up to `to`. */
  private numberOf(to: number, hash: number): number {
    const from = this.end;
    const mask = this.slots.length - 1;
    let slot = mixed(hash) & mask;
    for (let there = this.slots[slot] as number; there > 0; there = this.slots[slot] as number) {
      const [start, end] = [this.starts[there - 1] as number, this.starts[there] as number];
      if (compareBytes(this.bytes, start, end, this.bytes, from, to) === 0) return there - 1;
      slot = (slot + 1) & mask;
    }
    this.count += 1;
    this.slots[slot] = this.count;
    if (this.count + 1 >= this.starts.length) {
      const more = new Uint32Array(this.starts.length * 2);
      more.set(this.starts);
      this.starts = more;
    }
    this.starts[this.count] = to;
    if (this.count * 2 > mask) this.grow();
    return this.count - 1;
  }

  private grow(): void {
    this.slots = new Uint32Array(this.slots.length * 2);
    const mask = this.slots.length - 1;
    for (let term = 0; term < this.count; term += 1) {
      let hash = SEED;
      for (let at = this.starts[term] as number; at < (this.starts[term + 1] as number); at += 1)
        hash = Math.imul(hash ^ (this.bytes[at] as number), PRIME);
      let slot = mixed(hash) & mask;
      while (this.slots[slot] !== 0) slot = (slot + 1) & mask;
      this.slots[slot] = term + 1;
    }
  }

  /** The numbers of all terms in the order of their bytes. */
  sorted(): Uint32Array {
    const { bytes, starts } = this;
    // Most are told apart by their first four bytes.
    const heads = new Float64Array(this.count);
    for (let term = 0; term < this.count; term += 1) {
      const [from, to] = [starts[term] as number, starts[term + 1] as number];
      let head = 0;
      for (let i = 0; i < 6; i += 1) head = head * 256 + (from + i < to ? (bytes[from + i] as number) : 0);
      heads[term] = head;
    }
    return Uint32Array.from({ length: this.count }, (_unused, term) => term).sort((a, b) => {
      const apart = (heads[a] as number) - (heads[b] as number);
      if (apart !== 0) return apart;
      const [fromA, toA] = [starts[a] as number, starts[a + 1] as number];
      return compareBytes(bytes, fromA, toA, bytes, starts[b] as number, starts[b + 1] as number);
    });
  }

  strings(): Strings {
    return new Strings(this.bytes.subarray(0, this.end), this.starts.subarray(0, this.count + 1));
  }
}

// FNV-1a, 32 bits.
const SEED = 0x811c_9dc5 | 0;
const PRIME = 0x0100_0193;
/** The low bits of the hash are its worst. */
const mixed = (hash: number): number => (hash ^ (hash >>> 15)) >>> 0;
