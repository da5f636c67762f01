import { firstNot, firstNotNear } from '../search';
import { NOTCHES, notchOf } from './confidence';
import type { SpokenItem, SpokenQuestion } from './question';
import type { PreparedWay } from './spoken-finder';
import { atOf, confidenceIn, isSpelled, placeEnd, SAID, saidOf, type SpokenHits } from './spoken-hits';
import type { SpokenSegment } from './spoken-segment';

/** What was found in one asset; it holds until the next. */
export interface InDoc {
  readonly doc: number;
  /** By notch, how many hits, and the most likely of them. */
  readonly counts: Uint32Array;
  readonly bests: Uint8Array;
}

export interface Asked {
  readonly item: SpokenItem;
  readonly prepared: readonly PreparedWay[];
}

/** The strictest notch of a hit, by what it says of itself. */
const STRICTEST = Uint8Array.from({ length: SAID }, (_unused, said) => {
  const at = notchOf(isSpelled(said), confidenceIn(said));
  return at < 0 ? NOTCHES.length : at;
});

/** Hits of one item, gone through asset by asset. */
class Cursor {
  /** How many there are at each notch in the asset that was gone to, and how likely the likeliest is. */
  readonly counts = new Uint32Array(NOTCHES.length);
  readonly bests = new Uint8Array(NOTCHES.length);
  /** The asset of the next hit; none where there is no more. */
  next = 0;
  /** Where the next hit is. */
  private at = 0;

  constructor(
    private readonly hits: SpokenHits,
    private readonly starts: Uint32Array,
  ) {
    this.seeNext();
  }

  /** The asset that the next hit is in is mostly near the last. */
  private seeNext(): void {
    const { hits, starts } = this;
    if (this.at === hits.length) {
      this.next = NONE;
      return;
    }
    const at = atOf(hits[this.at] as number);
    this.next = firstNotNear((doc) => (starts[doc] as number) <= at, this.next, starts.length) - 1;
  }

  /** Passes over what is before an asset. */
  skipTo(doc: number): void {
    if (this.next >= doc) return;
    const { hits } = this;
    const first = placeEnd(this.starts[doc] as number);
    this.at = firstNotNear((at) => (hits[at] as number) < first, this.at, hits.length);
    this.seeNext();
  }

  /** Goes to an asset: that of the next hit, or one that has nothing of it. */
  go(doc: number): void {
    const { bests, counts, hits } = this;
    counts.fill(0);
    bests.fill(0);
    if (this.next !== doc) return;
    const end = placeEnd(this.starts[doc + 1] as number);
    let at = this.at;
    for (; at < hits.length && (hits[at] as number) < end; at += 1) {
      const hit = hits[at] as number;
      const notch = STRICTEST[saidOf(hit)] as number;
      if (notch === counts.length) continue;
      counts[notch] = (counts[notch] as number) + 1;
      const confidence = confidenceIn(hit);
      if (confidence > (bests[notch] as number)) bests[notch] = confidence;
    }
    this.at = at;
    for (let notch = 1; notch < counts.length; notch += 1) {
      counts[notch] = (counts[notch] as number) + (counts[notch - 1] as number);
      if ((bests[notch - 1] as number) > (bests[notch] as number)) bests[notch] = bests[notch - 1] as number;
    }
    this.seeNext();
  }

  /** Those in an asset, wherever it has gone. */
  in(doc: number): SpokenHits {
    const { hits, starts } = this;
    const placeOf = (place: number): number => {
      const first = placeEnd(starts[place] as number);
      return firstNot((at) => (hits[at] as number) < first, 0, hits.length);
    };
    return hits.subarray(placeOf(doc), placeOf(doc + 1));
  }
}
const NONE = Infinity;

/** What is found in one segment, asset by asset. */
export class SegmentAnswer {
  private readonly wanted: readonly Cursor[];
  private readonly unwanted: readonly Cursor[];

  constructor(
    private readonly segment: SpokenSegment,
    private readonly question: SpokenQuestion,
    asked: readonly Asked[],
    find: (ways: readonly PreparedWay[]) => SpokenHits,
  ) {
    const cursors = (without: boolean) =>
      asked
        .filter(({ item }) => item.without === without)
        .map(({ prepared }) => new Cursor(find(prepared), segment.starts));
    [this.wanted, this.unwanted] = [cursors(false), cursors(true)];
  }

  each(found: (inDoc: InDoc) => void): void {
    const { unwanted, wanted } = this;
    const counts = new Uint32Array(NOTCHES.length);
    const bests = new Uint8Array(NOTCHES.length);
    for (let doc = this.nextDoc(); doc < NONE; doc = this.nextDoc()) {
      for (const cursor of wanted) cursor.go(doc);
      if (unwanted.some((cursor) => saysIn(cursor, doc))) continue;
      for (let notch = 0; notch < counts.length; notch += 1) {
        counts[notch] = this.countAt(doc, notch);
        bests[notch] = counts[notch] === 0 ? 0 : bestOf(wanted, notch);
      }
      if ((counts[counts.length - 1] as number) > 0) found({ doc, counts, bests });
    }
  }

  /** The next asset that may answer: where all is needed, the next in which there is something of everything. */
  private nextDoc(): number {
    const { wanted } = this;
    if (this.question.how === 'any') return nearest(wanted);
    for (;;) {
      let doc = wanted.length > 0 ? 0 : NONE;
      for (const { next } of wanted) if (next > doc) doc = next;
      if (doc === NONE || wanted.every(({ next }) => next === doc)) return doc;
      for (const cursor of wanted) cursor.skipTo(doc);
    }
  }

  private countAt(doc: number, notch: number): number {
    const { how } = this.question;
    const count = countOf(this.wanted, notch, how !== 'any');
    return how === 'near' && count > 0 ? this.hits(doc, notch).length : count;
  }

  /** The hits of an asset at a notch, ascending. */
  hits(doc: number, notch: number): number[] {
    const fitting = this.hitsByItem(doc, notch);
    return fitting.length === 1 ? (fitting[0] as number[]) : fitting.flat().sort((a, b) => a - b);
  }

  /** As `hits`, of each thing that is looked for. */
  hitsByItem(doc: number, notch: number): number[][] {
    const { how, withinMs } = this.question;
    const each = this.wanted.map((cursor) =>
      Array.from(cursor.in(doc)).filter((hit) => (STRICTEST[saidOf(hit)] as number) <= notch),
    );
    if (how !== 'any' && each.some(({ length }) => length === 0)) return each.map(() => []);
    return how === 'near' ? near(each, this.segment.startMs, withinMs) : each;
  }
}

function nearest(cursors: readonly Cursor[]): number {
  let doc = NONE;
  for (const { next } of cursors) if (next < doc) doc = next;
  return doc;
}

/** How many hits of all items there are; where all are needed, none if one has none. */
function countOf(cursors: readonly Cursor[], notch: number, areAllNeeded: boolean): number {
  let sum = 0;
  for (const { counts } of cursors) {
    const count = counts[notch] as number;
    if (count === 0 && areAllNeeded) return 0;
    sum += count;
  }
  return sum;
}

function bestOf(cursors: readonly Cursor[], notch: number): number {
  let best = 0;
  for (const { bests } of cursors) if ((bests[notch] as number) > best) best = bests[notch] as number;
  return best;
}

/** Whether there is anything of it in an asset; goes on to it. */
function saysIn(cursor: Cursor, doc: number): boolean {
  cursor.skipTo(doc);
  return cursor.next === doc;
}

/** Those hits of each item that have one of every other item within so long. */
function near(each: readonly (readonly number[])[], startMs: Uint32Array, withinMs: number): number[][] {
  const times = each.map((hits) => hits.map((hit) => startMs[atOf(hit)] as number));
  return each.map((hits, n) =>
    hits.filter((_hit, at) => {
      const ms = times[n]?.[at] as number;
      return times.every((others, other) => other === n || (nextFrom(others, ms - withinMs) ?? NONE) <= ms + withinMs);
    }),
  );
}

/** The first of ascending times that is not before a moment. */
const nextFrom = (times: readonly number[], ms: number): number | undefined =>
  times[firstNot((at) => (times[at] as number) < ms, 0, times.length)];
