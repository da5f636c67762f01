/**
 * The machine-readable frame number along the top edge: twenty blocks of equal width, white for 1 and black for 0.
 * White, black (so that it is known as a strip), sixteen bits of the number, most significant first, a parity bit, white.
 */
export const STRIP_BLOCKS = 20;
const BITS = 16;

/** Height of the strip for a picture of that height, in pixels. */
export const stripHeight = (height: number): number => Math.max(8, Math.round(height / 45));

export function stripBits(frame: number): number[] {
  const bits = Array.from({ length: BITS }, (_unused, index) => (frame >> (BITS - 1 - index)) & 1);
  return [1, 0, ...bits, bits.reduce((sum, bit) => sum ^ bit, 0), 1];
}

/** The frame number that twenty brightness values spell, or null if they are no strip. */
export function readStrip(brightness: readonly number[]): number | null {
  const bits = brightness.map((value) => (value > 127 ? 1 : 0));
  const number = bits.slice(2, 2 + BITS).reduce((value: number, bit) => value * 2 + bit, 0);
  return bits.length === STRIP_BLOCKS && stripBits(number).every((bit, index) => bit === bits[index]) ? number : null;
}
