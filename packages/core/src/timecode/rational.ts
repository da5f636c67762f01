/** An exact fraction in lowest terms; `den` is always positive. */
export interface Rational {
  readonly num: number;
  readonly den: number;
}

const gcd = (a: bigint, b: bigint): bigint => {
  while (b !== 0n) [a, b] = [b, a % b];
  return a < 0n ? -a : a;
};

/** Brings `num/den` into lowest terms. Throws RangeError on a zero denominator or a part beyond 2^53. */
export function rational(num: number | bigint, den: number | bigint = 1n): Rational {
  let n = BigInt(num);
  let d = BigInt(den);
  if (d === 0n) throw new RangeError('a fraction needs a denominator other than zero');
  if (d < 0n) [n, d] = [-n, -d];
  const divisor = gcd(n, d) || 1n;
  const result = { num: Number(n / divisor), den: Number(d / divisor) };
  if (!Number.isSafeInteger(result.num) || !Number.isSafeInteger(result.den))
    throw new RangeError(`the fraction ${n}/${d} is too large to be exact`);
  return result;
}

/** Reads `30000/1001`, `25/1` or `25`; null for anything else and for zero or negative values. */
export function parseRational(text: string): Rational | null {
  const match = /^(\d{1,15})(?:\/(\d{1,15}))?$/.exec(text.trim());
  if (!match) return null;
  const num = Number(match[1]);
  const den = match[2] === undefined ? 1 : Number(match[2]);
  return num > 0 && den > 0 ? rational(num, den) : null;
}

export const equalRational = (a: Rational, b: Rational): boolean => a.num === b.num && a.den === b.den;

export const ROUNDINGS = ['floor', 'nearest', 'ceil'] as const;
export type Rounding = (typeof ROUNDINGS)[number];

/** `value × num / den` as an integer, rounded as asked (halves go up); exact for any safe input. */
export function scale(value: number, num: bigint, den: bigint, rounding: Rounding): number {
  const product = BigInt(value) * num;
  const floor = (x: bigint, y: bigint): bigint => x / y - (x % y !== 0n && x < 0n !== y < 0n ? 1n : 0n);
  switch (rounding) {
    case 'floor':
      return Number(floor(product, den));
    case 'ceil':
      return Number(-floor(-product, den));
    case 'nearest':
      return Number(floor(2n * product + den, 2n * den));
    default:
      return rounding satisfies never;
  }
}
