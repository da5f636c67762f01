import { equalRational, rational, type Rational } from './rational';

/**
 * A way of counting frames: how many there are in a second, exactly, and whether timecode labels are dropped.
 * `nominal` is the count of frame labels in one second of timecode (30 for 29.97).
 */
export interface Counting {
  readonly id: string;
  readonly rate: Rational;
  readonly nominal: number;
  readonly dropFrame: boolean;
}

const ntsc = (nominal: number) => rational(nominal * 1000, 1001);

/** The rates of SMPTE ST 12-1 and ST 12-3 and the others met in production. Drop-frame exists for 29.97 and its multiples only. */
export const COUNTINGS = [
  { id: '23.976', rate: ntsc(24), nominal: 24, dropFrame: false },
  { id: '24', rate: rational(24), nominal: 24, dropFrame: false },
  { id: '25', rate: rational(25), nominal: 25, dropFrame: false },
  { id: '29.97', rate: ntsc(30), nominal: 30, dropFrame: false },
  { id: '29.97df', rate: ntsc(30), nominal: 30, dropFrame: true },
  { id: '30', rate: rational(30), nominal: 30, dropFrame: false },
  { id: '47.952', rate: ntsc(48), nominal: 48, dropFrame: false },
  { id: '48', rate: rational(48), nominal: 48, dropFrame: false },
  { id: '50', rate: rational(50), nominal: 50, dropFrame: false },
  { id: '59.94', rate: ntsc(60), nominal: 60, dropFrame: false },
  { id: '59.94df', rate: ntsc(60), nominal: 60, dropFrame: true },
  { id: '60', rate: rational(60), nominal: 60, dropFrame: false },
  { id: '100', rate: rational(100), nominal: 100, dropFrame: false },
  { id: '119.88', rate: ntsc(120), nominal: 120, dropFrame: false },
  { id: '119.88df', rate: ntsc(120), nominal: 120, dropFrame: true },
  { id: '120', rate: rational(120), nominal: 120, dropFrame: false },
] as const satisfies readonly Counting[];

export type CountingId = (typeof COUNTINGS)[number]['id'];
export const COUNTING_IDS = COUNTINGS.map((counting) => counting.id);

const byId = new Map<string, Counting>(COUNTINGS.map((counting) => [counting.id, counting]));

/** The counting of that name, or null. */
export const countingById = (id: string): Counting | null => byId.get(id) ?? null;

/** The counting for an exact rate; rates outside the table get one made for them, counted without dropping. */
export function countingForRate(rate: Rational, dropFrame = false): Counting {
  const known = COUNTINGS.filter((counting) => equalRational(counting.rate, rate));
  const exact = known.find((counting) => counting.dropFrame === dropFrame) ?? known[0];
  if (exact) return exact;
  const perSecond = rate.num / rate.den;
  return {
    id: String(Number(perSecond.toFixed(3))),
    rate,
    nominal: Math.max(1, Math.round(perSecond)),
    dropFrame: false,
  };
}

/** Labels dropped at the start of each minute that is not a tenth one: 2 per 30 nominal frames (ST 12-1, 7.2). */
export const droppedPerMinute = (counting: Counting): number => (counting.dropFrame ? counting.nominal / 15 : 0);
