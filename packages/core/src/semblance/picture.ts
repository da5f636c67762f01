import { bmvbhash } from 'blockhash-core';

/** A picture is hashed to so many blocks across and down, a bit each. */
const BLOCKS = 16;
/** Bytes of the hash of one picture. */
export const PICTURE_BYTES = (BLOCKS * BLOCKS) / 8;

/** Red, green, blue and opaqueness of each point, row by row, from 0 to 255. */
export interface Pixels {
  readonly data: Uint8Array;
  readonly width: number;
  readonly height: number;
}

/** Below this standard deviation of brightness, of 255, nothing can be told on a picture: black, a fade, a plain colour. */
const FLAT = 4;

/**
 * What a picture looks like, in few bytes: the block mean value hash of B. Yang, F. Gu and X. Niu (“Block mean value based image
 * perceptual hashing”, 2006). Size, compression and brightness hardly change it. All bytes are 0 where nothing can be told on it; of
 * no other picture they are, since half of the blocks are brighter than the rest.
 */
export function pictureHash(pixels: Pixels): Uint8Array {
  if (spread(pixels) < FLAT) return new Uint8Array(PICTURE_BYTES);
  const digits = bmvbhash(pixels, BLOCKS);
  return Uint8Array.from({ length: PICTURE_BYTES }, (_byte, at) =>
    Number.parseInt(digits.slice(2 * at, 2 * at + 2), 16),
  );
}

/** Standard deviation of the brightness of its points. */
function spread({ data }: Pixels): number {
  let [sum, squares] = [0, 0];
  const points = data.length / 4;
  for (let at = 0; at < data.length; at += 4) {
    const light = ((data[at] as number) + (data[at + 1] as number) + (data[at + 2] as number)) / 3;
    sum += light;
    squares += light * light;
  }
  return Math.sqrt(Math.max(0, squares / points - (sum / points) ** 2));
}
