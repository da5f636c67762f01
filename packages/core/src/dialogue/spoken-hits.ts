/**
 * Hits in a segment as numbers that sort by their places: where the first word stands, how many words it is, whether they are spelled
 * as was asked, and how likely it is that they were said. 48 bits of a float's 53.
 */
export type SpokenHits = Float64Array;

const [LENGTH, SPELLED, PLACE] = [256, 128, 65_536];
/** What a hit says beside where it is, is below this. */
export const SAID = LENGTH;

export const packHit = (at: number, words: number, spelled: boolean, confidence: number): number =>
  at * PLACE + Math.min(words, 255) * LENGTH + (spelled ? SPELLED : 0) + confidence;

/** More than any hit before a place. */
export const placeEnd = (at: number): number => at * PLACE;

/** What is left of a whole number by another; of numbers so large `%` takes as long as ten of these. */
const restBy = (value: number, by: number): number => value - Math.floor(value / by) * by;

export const atOf = (hit: number): number => Math.floor(hit / PLACE);
export const wordsOf = (hit: number): number => restBy(Math.floor(hit / LENGTH), LENGTH);
/** Whether it is spelled as asked, and how likely it is, in one number below `SAID`. What is spelled so is before all else. */
export const saidOf = (hit: number): number => restBy(hit, SAID);
export const isSpelled = (hit: number): boolean => saidOf(hit) >= SPELLED;
export const confidenceIn = (hit: number): number => restBy(hit, SPELLED);

/** Hits in order, of those that overlap the best. The list is the caller's, and is used up. */
export function inOrder(hits: Float64Array): SpokenHits {
  if (!isAscending(hits)) hits.sort();
  let [count, end] = [0, -1];
  for (let n = 0; n < hits.length; n += 1) {
    const hit = hits[n] as number;
    const at = atOf(hit);
    if (at >= end) {
      hits[count] = hit;
      count += 1;
    } else if (saidOf(hit) > saidOf(hits[count - 1] as number)) hits[count - 1] = hit;
    else continue;
    end = at + wordsOf(hit);
  }
  return hits.subarray(0, count);
}

function isAscending(hits: Float64Array): boolean {
  for (let n = 1; n < hits.length; n += 1) if ((hits[n] as number) < (hits[n - 1] as number)) return false;
  return true;
}

/** Collects hits. */
export class HitDraft {
  private all = new Float64Array(64);
  private count = 0;

  push(hit: number): void {
    if (this.count === this.all.length) {
      const more = new Float64Array(this.all.length * 2);
      more.set(this.all);
      this.all = more;
    }
    this.all[this.count] = hit;
    this.count += 1;
  }

  finish(): SpokenHits {
    return inOrder(this.all.subarray(0, this.count));
  }
}
