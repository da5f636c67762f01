import { PICTURE_BYTES } from './picture';

/** What an asset looks and sounds like. */
export interface Semblance {
  readonly lengthMs: number;
  /** Milliseconds from one of its pictures to the next. */
  readonly everyMs: number;
  /** A hash for each of its pictures, one behind the other; null without any. */
  readonly picture: Uint8Array | null;
  /** Words of its sound, evenly spread over its length; null without any. */
  readonly sound: Uint32Array | null;
}

/** Copies in another form may begin or end by so much otherwise, as encoders of sound fill up their first and last block. */
export const LENGTH_TOLERANCE_MS = 250;
/**
 * Pictures so far apart in time are still of one moment, and so are those that are by such a part of the time from each to the next: a
 * file that is a frame longer may have its pictures a little further apart.
 */
const SAME_MOMENT = { ms: 100, part: 0.05 } as const;
/** So much of two assets has to say something before they are called alike: one word of sound, one frame may be so by chance. */
const LEAST = { pictures: 3, words: 6 } as const;
/** What Chromaprint makes of digital silence; as it came out of ffmpeg 5.1, no source. */
const SILENT_WORD = 627964279;

const bitsIn = (word: number): number => {
  const pairs = word - ((word >>> 1) & 0x55555555);
  const fours = (pairs & 0x33333333) + ((pairs >>> 2) & 0x33333333);
  return Math.imul((fours + (fours >>> 4)) & 0x0f0f0f0f, 0x01010101) >>> 24;
};
/** How many bits are set in each byte: each new asset is compared with thousands, some 300 bytes each. */
const BITS = Uint8Array.from({ length: 256 }, (_byte, at) => bitsIn(at));

/** The share of bits by which the pictures of two assets differ, 0 to 1; null where nothing can be told. */
export function pictureDistance(a: Semblance, b: Semblance): number | null {
  if (!a.picture || !b.picture) return null;
  const [one, other] = [a.picture, b.picture];
  const [count, others] = [one.length / PICTURE_BYTES, other.length / PICTURE_BYTES];
  const apart = Math.max(SAME_MOMENT.ms, SAME_MOMENT.part * a.everyMs);
  let [told, bits] = [0, 0];
  for (let at = 0; at < count; at += 1) {
    const nearest = b.everyMs > 0 ? Math.round((at * a.everyMs) / b.everyMs) : at;
    if (nearest >= others || Math.abs(at * a.everyMs - nearest * b.everyMs) > apart) continue;
    const shift = (nearest - at) * PICTURE_BYTES;
    let shown = 0;
    for (let byte = at * PICTURE_BYTES; byte < (at + 1) * PICTURE_BYTES; byte += 1) {
      const [mine, theirs] = [one[byte] as number, other[byte + shift] as number];
      shown |= mine | theirs;
      bits += BITS[mine ^ theirs] as number;
    }
    if (shown !== 0) told += 1;
  }
  return told < Math.min(LEAST.pictures, count, others) || told === 0 ? null : bits / (told * PICTURE_BYTES * 8);
}

/** The share of bits by which the sound of two assets differs, 0 to 1; null where nothing can be told. */
export function soundDistance(a: Semblance, b: Semblance): number | null {
  if (!a.sound || !b.sound || a.sound.length !== b.sound.length) return null;
  let [told, bits] = [0, 0];
  for (const [at, word] of a.sound.entries()) {
    const other = b.sound[at] as number;
    if (word === SILENT_WORD && other === SILENT_WORD) continue;
    told += 1;
    bits += bitsIn(word ^ other);
  }
  return told < LEAST.words ? null : bits / (told * 32);
}

/**
 * Up to which share of differing bits two are the same, and from which on they are not; between, nothing is said. Of 49 clips and 19
 * sounds of the demo, made anew smaller and coarser, brighter, or quieter, pictures differed by at most .09 and in nine of ten by
 * less than .06, sound by at most .12; of those that are not the same, one pair of a hundred by less than .12 and .16.
 */
const BOUNDS = { picture: { same: 0.08, other: 0.2 }, sound: { same: 0.13, other: 0.18 } } as const;
export type Sense = keyof typeof BOUNDS;

/** Whether a difference is that of the same pictures or sound, true, of others, false, or of neither. */
export function isSame(sense: Sense, distance: number | null): boolean | null {
  if (distance === null) return null;
  const { other, same } = BOUNDS[sense];
  return distance <= same ? true : distance >= other ? false : null;
}

export interface Distance {
  readonly picture: number | null;
  readonly sound: number | null;
}

export const distanceOf = (a: Semblance, b: Semblance): Distance => ({
  picture: pictureDistance(a, b),
  sound: soundDistance(a, b),
});

/**
 * Whether two assets of one kind are near each other. Pictures tell where there are any, whatever they sound like: two cameras may have
 * recorded the same sound, and one picture may have been given another.
 */
export function areNear(a: Semblance, b: Semblance): boolean {
  if (Math.abs(a.lengthMs - b.lengthMs) > LENGTH_TOLERANCE_MS) return false;
  return a.picture || b.picture
    ? isSame('picture', pictureDistance(a, b)) === true
    : isSame('sound', soundDistance(a, b)) === true;
}
