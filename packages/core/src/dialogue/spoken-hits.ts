/**
 * Hits in a segment as numbers that sort by their places: where the first word stands, how many words it is, whether they are spelled
 * as was asked, and how likely it is that they were said. 48 bits of a float's 53.
 */
export type SpokenHits = Float64Array;

const [LENGTH, SPELLED, PLACE] = [256, 128, 65_536];
/** What a hit says beside where it is, is the rest by this. */
export const SAID = LENGTH;

export const packHit = (at: number, words: number, spelled: boolean, confidence: number): number =>
  at * PLACE + Math.min(words, 255) * LENGTH + (spelled ? SPELLED : 0) + confidence;

/** More than any hit before a place. */
export const placeEnd = (at: number): number => at * PLACE;

export const atOf = (hit: number): number => Math.floor(hit / PLACE);
export const wordsOf = (hit: number): number => Math.floor(hit / LENGTH) % 256;
export const isSpelled = (hit: number): boolean => hit % LENGTH >= SPELLED;
export const confidenceIn = (hit: number): number => hit % SPELLED;
/** What is spelled as asked is before whatever merely sounds so. */
const worthOf = (hit: number): number => hit % SAID;

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
    } else if (worthOf(hit) > worthOf(hits[count - 1] as number)) hits[count - 1] = hit;
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
