import { firstNot } from '../search';
import { NOTCHES, notchOf } from './confidence';
import type { SpokenItem, SpokenQuestion } from './question';
import type { PreparedWay } from './spoken-finder';
import { atOf, confidenceIn, isSpelled, placeEnd, SAID, type SpokenHits } from './spoken-hits';
import { lastAtMost, type SpokenSegment } from './spoken-segment';

/** What was found in one asset; it holds until the next. */
export interface InDoc {
  readonly doc: number;
  /** By notch, how many hits, and the most likely of them. */
  readonly counts: Uint32Array;
  readonly bests: Uint8Array;
}

/** Where in the hits of each item those of one asset are. */
export type Ranges = readonly (readonly [from: number, to: number])[];

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
  /** Those in the asset that was gone to; how many at each notch, and how likely the likeliest is. */
  from = 0;
  to = 0;
  readonly counts = new Uint32Array(NOTCHES.length);
  readonly bests = new Uint8Array(NOTCHES.length);

  constructor(
    readonly hits: SpokenHits,
    private readonly starts: Uint32Array,
  ) {}

  /** The asset of the next hit; none where there is no more. */
  get next(): number {
    return this.to < this.hits.length ? lastAtMost(this.starts, atOf(this.hits[this.to] as number)) : NONE;
  }

  /** Passes over what is before an asset. */
  skipTo(doc: number): void {
    const first = placeEnd(this.starts[doc] as number);
    this.to = firstNot((at) => (this.hits[at] as number) < first, this.to, this.hits.length);
  }

  /** Goes to an asset that has the next hit, or to nothing of it. */
  go(doc: number, isNext: boolean): void {
    const { bests, counts, hits } = this;
    counts.fill(0);
    bests.fill(0);
    this.from = this.to;
    if (!isNext) return;
    const end = placeEnd(this.starts[doc + 1] as number);
    let at = this.from;
    for (; at < hits.length && (hits[at] as number) < end; at += 1) {
      const said = (hits[at] as number) % SAID;
      const notch = STRICTEST[said] as number;
      if (notch === counts.length) continue;
      counts[notch] = (counts[notch] as number) + 1;
      bests[notch] = Math.max(bests[notch] as number, confidenceIn(said));
    }
    this.to = at;
    for (let notch = 1; notch < counts.length; notch += 1) {
      counts[notch] = (counts[notch] as number) + (counts[notch - 1] as number);
      bests[notch] = Math.max(bests[notch] as number, bests[notch - 1] as number);
    }
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
      for (const cursor of wanted) cursor.go(doc, cursor.next === doc);
      if (unwanted.some((cursor) => saysIn(cursor, doc))) continue;
      for (let notch = 0; notch < counts.length; notch += 1) {
        counts[notch] = this.countAt(notch);
        bests[notch] =
          counts[notch] === 0 ? 0 : wanted.reduce((best, cursor) => Math.max(best, cursor.bests[notch] as number), 0);
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

  private countAt(notch: number): number {
    const { how } = this.question;
    const count = countOf(this.wanted, notch, how !== 'any');
    return how === 'near' && count > 0 ? this.hits(this.ranges, notch).length : count;
  }

  /** Of the asset that was found last. */
  get ranges(): Ranges {
    return this.wanted.map(({ from, to }) => [from, to] as const);
  }

  /** The hits of an asset at a notch, ascending. */
  hits(ranges: Ranges, notch: number): number[] {
    const fitting = this.hitsByItem(ranges, notch);
    return fitting.length === 1 ? (fitting[0] as number[]) : fitting.flat().sort((a, b) => a - b);
  }

  /** As `hits`, of each thing that is looked for. */
  hitsByItem(ranges: Ranges, notch: number): number[][] {
    const { how, withinMs } = this.question;
    const each = this.wanted.map(({ hits }, n) => {
      const [from, to] = ranges[n] as Ranges[number];
      return Array.from(hits.subarray(from, to)).filter((hit) => (STRICTEST[hit % SAID] as number) <= notch);
    });
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

/** Whether there is anything of it in an asset; goes on to it. */
function saysIn(cursor: Cursor, doc: number): boolean {
  for (let next = cursor.next; next <= doc; next = cursor.next) {
    cursor.go(next, true);
    if (next === doc) return true;
  }
  return false;
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
