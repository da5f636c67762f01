import { AssemblyCode } from '../search';
import { FROM, FROM_BITS, likeliestStretch, LONGEST_STRETCH, START, TABLES, type HeardStretch } from './phone-channel';
import { PHONE_STRETCH_CODE } from './phone-stretch-code';
import { PHONES, type Phones } from './phones';

const N = PHONES.length;
/** So many that are looked for are gone through with vectors, and so many there is room for behind each phone. */
const MOST_SOUGHT = 32;
/** What speaks for more than are looked for: so little that it is never taken. */
const NOTHING = -(1 << 29);

/** What `phone-stretch.wat` exports: addresses, and where a stretch ends. */
interface Exports {
  readonly memory: { readonly buffer: ArrayBuffer };
  readonly after: { readonly value: number };
  readonly extra: { readonly value: number };
  readonly gains: { readonly value: number };
  readonly column: { readonly value: number };
  readonly sounds: { readonly value: number };
  stretch(sought: number, length: number): number;
}

/** Finds the stretch of some phones that were heard which the phones that are looked for were most likely said in. */
export type Stretcher = (sought: Phones, sounds: Uint8Array, from: number, to: number, begins: boolean) => HeardStretch;

/** In WebAssembly with vectors: a tenth of the time. */
class VectorStretch {
  private readonly gains: Int32Array;
  private readonly best: Int32Array;
  private readonly sounds: Uint8Array;
  private sought: Phones | null = null;
  /** What it costs to miss all that is looked for. */
  private missed = 0;

  constructor(private readonly exports: Exports) {
    const { buffer } = exports.memory;
    new Uint8Array(buffer, exports.after.value).set(TABLES.after);
    new Uint8Array(buffer, exports.extra.value).set(TABLES.extra);
    this.gains = new Int32Array(buffer, exports.gains.value, N * MOST_SOUGHT);
    this.best = new Int32Array(buffer, exports.column.value - 4, 1);
    this.sounds = new Uint8Array(buffer, exports.sounds.value, LONGEST_STRETCH + 1);
  }

  readonly likeliest: Stretcher = (sought, sounds, from, to, begins) => {
    if (sought.length > MOST_SOUGHT) return likeliestStretch(sought, sounds, from, to, begins);
    if (sought !== this.sought) this.take(sought);
    const length = Math.min(to - from, LONGEST_STRETCH);
    const { sounds: some } = this;
    some[0] = begins ? START : (sounds[from - 1] as number);
    // Of some twenty a copy at once takes longer.
    for (let at = 0; at < length; at += 1) some[at + 1] = sounds[from + at] as number;
    const end = this.exports.stretch(sought.length, length);
    const best = this.best[0] as number;
    return { odds: (best >> FROM_BITS) - this.missed, from: from + (best & FROM), to: from + end };
  };

  private take(sought: Phones): void {
    this.gains.fill(NOTHING);
    this.missed = 0;
    for (const [i, phone] of sought.entries()) {
      const missed = TABLES.missed[phone] as number;
      this.missed += missed;
      for (let other = 0; other < N; other += 1)
        this.gains[other * MOST_SOUGHT + i] = (missed - (TABLES.heard[phone * N + other] as number)) * (1 << FROM_BITS);
    }
    this.sought = sought;
  }
}

const code = new AssemblyCode(PHONE_STRETCH_CODE);
let known: Stretcher | null = null;

/** The quickest that there is here. */
export function stretcher(): Stretcher {
  if (!known) {
    const exports = code.instance();
    known = exports ? new VectorStretch(exports as Exports).likeliest : likeliestStretch;
  }
  return known;
}
