import { AssemblyCode } from '../search';
import { NATS, type SoughtPhones } from './phone-channel';
import { PHONE_SCAN_CODE } from './phone-scan-code';
import { PHONES } from './phones';

/** So many phones are looked through in one go. */
export const CHUNK = 8192;
/** So many are read beyond them, where no phone stands. */
const BEYOND = 32;
const NONE = PHONES.length;
/** A row of gains, in whole vectors. */
const WIDTH = 48;
/**
 * What speaks for it is summed up in bytes, of which none is beyond these: a third as finely as elsewhere, 24 nats at most. So a place is
 * passed over where more than that spoke for a beginning, and all but three of it against the end: the end was not heard.
 */
const COARSER = 3;
const [LEAST, MOST] = [-128, 127] as const;

/** What `phone-scan.wat` exports: addresses, and how many places it found. */
interface Exports {
  readonly memory: { readonly buffer: ArrayBuffer };
  readonly gains: { readonly value: number };
  readonly misses: { readonly value: number };
  readonly extras: { readonly value: number };
  readonly sounds: { readonly value: number };
  readonly found: { readonly value: number };
  scan(sought: number, length: number, least: number): number;
}

/**
 * Looks through phones that were heard for places where others, in a row, may have been said. Of each place it sums up what speaks for
 * all of them having been said just before it, none of it left out, with no more than one phone heard beside them between each two: the
 * last row of the table that `likeliestStretch` goes through, without what depends on which phone stood before. 16 places at a time that
 * takes 2 ns a phone for a name of eight, a fiftieth of the table.
 */
export interface PhoneScan {
  /**
   * The places, ascending: each the one after the last phone.
   * @param sounds `CHUNK` phones at most @param nats so much must speak for each
   */
  ends(sought: SoughtPhones, sounds: Uint8Array, nats: number): Uint16Array;
}

const inBytes = (value: number): number => Math.max(LEAST, Math.min(MOST, value));
const coarser = (value: number): number => inBytes(Math.round(value / COARSER));
const boundOf = (nats: number): number => inBytes(Math.ceil((nats * NATS) / COARSER));

/** In WebAssembly with vectors. */
class VectorScan implements PhoneScan {
  private readonly gains: Int8Array;
  private readonly misses: Int8Array;
  private readonly extras: Int8Array;
  private readonly sounds: Uint8Array;
  private readonly found: Uint16Array;
  private sought: SoughtPhones | null = null;

  constructor(private readonly exports: Exports) {
    const { buffer } = exports.memory;
    const [from, to] = [exports.gains.value, exports.misses.value];
    this.gains = new Int8Array(buffer, from, to - from);
    this.misses = new Int8Array(buffer, to, exports.extras.value - to);
    this.extras = new Int8Array(buffer, exports.extras.value, WIDTH);
    this.sounds = new Uint8Array(buffer, exports.sounds.value, CHUNK + BEYOND);
    this.found = new Uint16Array(buffer, exports.found.value, CHUNK + BEYOND);
    new Uint8Array(buffer)[exports.sounds.value - 1] = NONE;
  }

  ends(sought: SoughtPhones, sounds: Uint8Array, nats: number): Uint16Array {
    if (sought !== this.sought) this.take(sought);
    this.sounds.set(sounds);
    this.sounds.fill(NONE, sounds.length, sounds.length + BEYOND);
    return this.found.subarray(0, this.exports.scan(sought.phones.length, sounds.length, boundOf(nats)));
  }

  private take(sought: SoughtPhones): void {
    const { extras, gains, misses, phones } = sought;
    for (let n = 0; n < phones.length; n += 1)
      for (let phone = 0; phone < WIDTH; phone += 1)
        this.gains[n * WIDTH + phone] = phone < NONE ? coarser(gains[n * NONE + phone] as number) : LEAST;
    this.misses.set(misses.map(coarser));
    this.extras.set(extras.map(coarser));
    this.sought = sought;
  }
}

/** Where there are no vectors: the same place by place. */
export const plainScan: PhoneScan = {
  ends({ extras, gains, misses }, sounds, nats) {
    const against = Int16Array.from(sounds, (phone) => coarser(extras[phone] as number));
    // Of as many as were looked for until now. It has a place more than there are phones, before the first.
    const row = new Int8Array(sounds.length + 1);
    const passed = (at: number): number => (at < 0 ? LEAST : inBytes((row[at] as number) - (against[at] as number)));
    const before = (at: number): number => (at < 0 ? LEAST : Math.max(row[at] as number, passed(at - 1)));
    for (let n = 0; n < misses.length; n += 1)
      // From the last to the first, so that each row takes the place of the one before: it hangs on places before only.
      for (let at = sounds.length; at >= 0; at -= 1) {
        const gain = at === 0 ? LEAST : coarser(gains[n * NONE + (sounds[at - 1] as number)] as number);
        const missed = inBytes((row[at] as number) - coarser(misses[n] as number));
        row[at] = Math.max(missed, inBytes(before(at - 1) + gain));
      }
    const bound = boundOf(nats);
    return Uint16Array.from(row.keys()).filter((at) => (row[at] as number) >= bound);
  },
};

const code = new AssemblyCode(PHONE_SCAN_CODE);
let vectors: PhoneScan | null = null;

/** The quickest that there is here. */
export function phoneScan(): PhoneScan {
  if (!vectors) {
    const exports = code.instance();
    vectors = exports ? new VectorScan(exports as Exports) : plainScan;
  }
  return vectors;
}
