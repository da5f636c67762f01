import { LRUCache } from 'lru-cache';
import { BUILT_IN, isNumericType, type FieldId, type FieldRegistry, type RegisteredField } from '../fields';
import { boxAround, clustersOf, readPosition, type Position } from '../position';
import { choiceIn, offeredIn, queryAt, type Query } from '../query';
import { both, countOf, holds, listOf } from './doc-set';
import { DAY_MS } from './grouping';
import { likesToRank, saidIn, withLikes, type Known } from './likeness';
import { Listing } from './listing';
import type { Hears } from './finder';
import { mergeSegments, type FieldTypes, type MergePart } from './merge';
import { Part } from './part';
import { withPlaces } from './places';
import { Relevance, wantedIn } from './relevance';
import type { SegmentData } from './segment';
import { SegmentBuilder } from './segment-builder';
import { spreadOf } from './spread';
import { Tally, type Counted } from './tally';
import { mostSaid } from './most-said';
import {
  RELEVANCE,
  type DaysAnswer,
  type Facet,
  type FacetCounts,
  type FacetsRequest,
  type MapAnswer,
  type MapRequest,
  type SearchAnswer,
  type SearchDocument,
  type SearchIndex,
  type ListRequest,
  type SearchRequest,
  type StepRequest,
  type SortBy,
} from './types';
import { Watched } from './watched';
import type { Found, Order } from './window';

/** How large segments grow before they are merged. */
export interface SegmentSizes {
  /** So many documents are put into a segment anew with each change; more become segments of their own. */
  readonly fresh: number;
  /** So many segments of about one size become one. */
  readonly fan: number;
  /** Up to so many documents are merged at once, in a few milliseconds; more are left to whoever keeps the index. */
  readonly quick: number;
  /** What is beside the largest segment goes into it when it is that large a part of it, and that many documents. */
  readonly besideShare: number;
  readonly besideLeast: number;
  /** When that large a part of the largest segment is gone, it is made anew without it. */
  readonly deadShare: number;
}

export const SEGMENT_SIZES: SegmentSizes = {
  fresh: 64,
  fan: 4,
  quick: 2048,
  besideShare: 0.05,
  besideLeast: 20_000,
  deadShare: 0.2,
};

/** Segments to make one of, as they were when this was planned. */
export interface MergePlan {
  readonly parts: readonly MergePart[];
  readonly types: FieldTypes;
  /** Fields that lists were ordered by, and that were counted. */
  readonly ordered: readonly FieldId[];
  readonly counted: readonly FieldId[];
}

/** What the index is made of, to be kept and put in again. */
export type KeptParts = readonly MergePart[];

/** So many answers are kept until the next change. */
const FOUND_KEPT = 32;
/** Titles of a million assets take four megabytes to count; those are counted anew. */
const MOST_GROUPS_KEPT = 20_000;
/** Searches whose counts are kept for when they are asked again. */
const MOST_WATCHED = 5000;
/** As many for what others are to be like: that of some ten assets. */
const MOST_LIKES = 600;

const fieldsIn = (made: Readonly<Partial<Record<FieldId, unknown>>>): FieldId[] => Object.keys(made) as FieldId[];

/**
 * The index of a library: segments that are never changed, the largest with nearly everything, and beside it small ones with what
 * came since. A document that is changed dies in its segment and lives on in a new one.
 */
export class LibraryIndex implements SearchIndex {
  private parts: Part[] = [];
  private readonly fresh = new Map<number, SearchDocument>();
  /** The segment of `fresh`; null until it is asked for. */
  private freshPart: Part | null = null;
  private tally = new Tally();
  private watched = new Watched(MOST_WATCHED);
  /** What is shared with whatever others are to be like. */
  private likes = new Watched(MOST_LIKES);
  private readonly relevance = new Relevance();
  /** A list, its count and each of its facets ask for the same again; until something changes. */
  private readonly found = new LRUCache<string, readonly Found[]>({ max: FOUND_KEPT });
  /** Facets of what was found: that of a field is often the same whatever of it is asked for. */
  private readonly facetsOf = new WeakMap<readonly Found[], Map<string, Counted>>();
  /** Those that are being merged elsewhere; they are left as they are until that is done or given up. */
  private merging: readonly Part[] = [];

  /** Where words were said as they sound; nowhere, until somebody knows. What it says of an asset may change with the asset, or with `setFields`. */
  hears: Hears = () => new Uint32Array(0);

  /** @param now the clock by which `today` is meant, in milliseconds since 1970 */
  constructor(
    private fields: FieldRegistry = BUILT_IN,
    private readonly now: () => number = Date.now,
    private readonly sizes: SegmentSizes = SEGMENT_SIZES,
  ) {}

  get size(): number {
    return this.parts.reduce((sum, part) => sum + part.live, this.fresh.size);
  }

  setFields(fields: FieldRegistry): void {
    this.fields = fields;
    this.freshPart = null;
    this.found.clear();
    this.tally = new Tally();
    this.watched = new Watched(MOST_WATCHED);
    this.likes = new Watched(MOST_LIKES);
    for (const part of this.parts) part.finder.setFields(fields);
  }

  upsert(documents: readonly SearchDocument[]): void {
    for (const document of documents) {
      this.bury(document.id);
      this.fresh.set(document.id, document);
    }
    this.freshPart = null;
    this.found.clear();
    if (this.fresh.size > this.sizes.fresh) this.seal();
  }

  remove(ids: readonly number[]): void {
    for (const id of ids) this.bury(id);
    this.found.clear();
  }

  private bury(id: number): void {
    if (this.fresh.delete(id)) this.freshPart = null;
    else this.parts.some((part) => part.bury(id));
  }

  /** What is fresh becomes a segment. */
  private seal(): void {
    const part = this.build();
    if (part) this.parts.push(part);
    this.fresh.clear();
    this.freshPart = null;
    this.found.clear();
    for (let due = this.quickMerge(); due; due = this.quickMerge()) this.adopt(due, mergeOf(due));
  }

  private build(): Part | null {
    if (this.fresh.size === 0) return null;
    const builder = new SegmentBuilder(this.fields);
    for (const document of [...this.fresh.values()].sort((a, b) => a.id - b.id)) builder.add(document);
    return this.part(builder.finish());
  }

  private part(data: SegmentData, dead?: Uint32Array): Part {
    return new Part(
      data,
      () => this.fields,
      (test) => this.hears(test),
      dead,
    );
  }

  private all(): readonly Part[] {
    this.freshPart ??= this.build();
    return this.freshPart ? [...this.parts, this.freshPart] : this.parts;
  }

  /** Segments of about one size, as many as should be one; the smallest first. */
  private tiersDue(): (readonly Part[])[] {
    const tiers = new Map<number, Part[]>();
    for (const part of this.parts) {
      if (this.merging.includes(part)) continue;
      const tier = Math.floor(
        Math.log(Math.max(1, part.data.ids.length / this.sizes.fresh)) / Math.log(this.sizes.fan),
      );
      tiers.set(tier, [...(tiers.get(tier) ?? []), part]);
    }
    return [...tiers]
      .filter(([, parts]) => parts.length >= this.sizes.fan)
      .sort(([a], [b]) => a - b)
      .map(([, parts]) => parts);
  }

  private quickMerge(): MergePlan | null {
    const worn = this.parts.filter((part) => this.isWorn(part)).map((part) => [part]);
    const due = [...this.tiersDue(), ...worn].find((parts) => documentsIn(parts) <= this.sizes.quick);
    return due ? this.plan(due) : null;
  }

  /** So much of it is gone that it should be made anew. */
  private isWorn(part: Part): boolean {
    const total = part.data.ids.length;
    return total - part.live > total * this.sizes.deadShare && !this.merging.includes(part);
  }

  /**
   * What should be merged next, away from where questions are answered, or null. It is handed back with `adopt` or `giveUp`; meanwhile
   * the index goes on as it is, and changes.
   */
  mergeDue(): MergePlan | null {
    if (this.merging.length > 0) return null;
    this.merging = this.partsDue();
    return this.merging.length > 0 ? this.plan(this.merging) : null;
  }

  giveUp(): void {
    this.merging = [];
  }

  private partsDue(): readonly Part[] {
    const [largest, ...others] = this.parts.toSorted((a, b) => b.data.ids.length - a.data.ids.length);
    if (!largest) return [];
    const total = largest.data.ids.length;
    const beside = documentsIn(others);
    const { besideLeast, besideShare, quick } = this.sizes;
    if (beside > Math.max(besideLeast, total * besideShare) || (total > quick && this.isWorn(largest)))
      return this.parts;
    return this.tiersDue()[0] ?? [];
  }

  private plan(parts: readonly Part[]): MergePlan {
    return {
      parts: parts.map(({ data, dead }) => ({ data, dead: dead.slice() })),
      types: Object.fromEntries(this.fields.all.map(({ id, type }) => [id, type])),
      ordered: [...new Set(parts.flatMap((part) => [...part.finder.ordered, ...fieldsIn(part.data.orders)]))],
      counted: [...new Set(parts.flatMap((part) => [...this.tally.askedIn(part), ...fieldsIn(part.data.grouped)]))],
    };
  }

  /** Puts what came of a plan in the place of its segments. What died in them meanwhile is dead in it too. */
  adopt(plan: MergePlan, merged: SegmentData): void {
    const replaced = plan.parts.map(({ data }) => this.parts.find((part) => part.data === data));
    if (replaced.includes(undefined)) throw new Error('a merge of segments that are no longer there');
    const part = this.part(merged);
    replaced.forEach((old, at) => {
      const before = plan.parts[at]?.dead as Uint32Array;
      (old as Part).dead.forEach((word, index) => {
        for (let died = word & ~(before[index] as number); died !== 0; died &= died - 1)
          part.bury((old as Part).data.ids[(index << 5) + 31 - Math.clz32(died & -died)] as number);
      });
    });
    for (const counts of [this.watched, this.likes]) counts.replaced(replaced as Part[], part);
    if (replaced.some((old) => this.merging.includes(old as Part))) this.merging = [];
    this.parts = [...this.parts.filter((each) => !replaced.includes(each)), ...(merged.ids.length > 0 ? [part] : [])];
    this.found.clear();
  }

  /** Takes a whole library: documents in the order of their ids, which are all there is once they are `done`. */
  fill(): { readonly add: (documents: readonly SearchDocument[]) => void; readonly done: () => void } {
    const builder = new SegmentBuilder(this.fields);
    return {
      add: (documents) => documents.forEach((document) => builder.add(document)),
      done: () => this.restore(builder.count > 0 ? [{ data: builder.finish(), dead: new Uint32Array(0) }] : []),
    };
  }

  /** All that it is made of. */
  keep(): KeptParts {
    this.seal();
    return this.parts.map(({ data, dead }) => ({ data, dead: dead.slice() }));
  }

  /** Takes what was kept, instead of all there is. */
  restore(kept: KeptParts): void {
    this.fresh.clear();
    this.freshPart = null;
    this.merging = [];
    this.found.clear();
    this.parts = kept.map(({ data, dead }) => this.part(data, dead.length > 0 ? dead.slice() : undefined));
  }

  private find(tree: Query): readonly Found[] {
    return this.findMeant(this.meant(tree));
  }

  /** `tree` has nothing in it that depends on the present. */
  private findMeant(tree: Query): readonly Found[] {
    const key = JSON.stringify(tree);
    let found = this.found.get(key);
    if (!found) this.found.set(key, (found = this.all().map((part) => ({ part, set: part.find(tree, key) }))));
    return found;
  }

  /** What has to be known of the library to say what is like something. */
  private get known(): Known {
    return {
      living: this.size,
      counts: (trees) => this.likes.counts(trees, this.all()),
      said: (id, field) => this.saidBy(id, field),
    };
  }

  /** What an asset says in a field of words; nothing if it is not there. */
  saidBy(id: number, field: FieldId): readonly string[] {
    return this.all().flatMap((part) => {
      const doc = part.docOf(id);
      return doc < 0 ? [] : saidIn(part, doc, field);
    });
  }

  /** What an asset says in a field of numbers, in its unit. */
  numberBy(id: number, field: FieldId): number | null {
    for (const part of this.all()) {
      const [doc, column] = [part.docOf(id), part.finder.column(field)];
      if (doc < 0) continue;
      const number = column?.kind === 'numbers' ? (column.numbers[doc] as number) : 0;
      return column?.kind === 'numbers' && number > 0 ? (column.values[number - 1] as number) : null;
    }
    return null;
  }

  /** What a search means now, in this library: its days and ages, what is like something, and its places. */
  private meant(tree: Query): Query {
    return withPlaces(withLikes(queryAt(tree, this.now()), this.known), (saying) =>
      placed(this.findMeant(saying)).map(({ position }) => position),
    );
  }

  count(tree: Query): number {
    return this.find(tree).reduce((sum, { set }) => sum + countOf(set), 0);
  }

  /** Tells of any asset whether a search finds it. */
  finds(tree: Query): (id: number) => boolean {
    return isAmong(this.find(tree));
  }

  /** Which of some assets a search finds; nothing of it is kept. */
  which(tree: Query, ids: readonly number[]): number[] {
    const meant = this.meant(tree);
    return this.all().flatMap((part) => {
      const docs = ids.map((id) => part.docOf(id)).filter((doc) => doc >= 0);
      if (docs.length === 0) return [];
      return Array.from(listOf(part.finder.among(Uint32Array.from(docs).sort(), meant)), (doc) => idOf({ part, doc }));
    });
  }

  /** As `count` of each, for searches that are asked again after every change: only what changed is looked at. */
  counts(trees: readonly Query[]): number[] {
    const parts = this.all();
    return this.watched.counts(
      trees.map((tree) => this.meant(tree)),
      parts,
    );
  }

  search({ offset, limit, ...asked }: SearchRequest): SearchAnswer {
    const found = this.find(asked.tree);
    const assets = found.reduce((sum, { set }) => sum + countOf(set), 0);
    const listing = this.listing(asked, found, assets);
    const window = listing?.window(offset, limit) ?? { total: 0, groups: [], ids: [] };
    if (!asked.lift) return { ...window, assets };
    const lifted = this.find(asked.lift);
    const count = found.reduce((sum, { set }, at) => sum + countOf(both(set, (lifted[at] as Found).set)), 0);
    return { ...window, assets, lifted: { count, ids: window.ids.filter(isAmong(lifted)) } };
  }

  /** The next or the last place of the list with an asset that is lifted. */
  step({ from, backwards, lift, ...asked }: StepRequest): number | null {
    const listing = this.listing({ ...asked, lift }, this.find(asked.tree), 0);
    return listing?.nearest(from, backwards, isAmong(this.find(lift))) ?? null;
  }

  /** Null where it should be cut by a field that there is not. */
  private listing(asked: ListRequest, found: readonly Found[], assets: number): Listing | null {
    const { tree, lift = tree, sort, by, order } = asked;
    const { then = [], ...first } = sort;
    const field = by === undefined ? undefined : this.fields.byId(by);
    if (by !== undefined && !field) return null;
    const grouping = field ? { tally: this.tally, field } : null;
    return new Listing(found, assets, this.orderOf(lift, [first, ...then], found), order, grouping);
  }

  /** By relevance only where something is asked that could be said more or less. */
  private orderOf(tree: Query, by: readonly SortBy[], found: readonly Found[]): Order {
    const isRanked = by.some(({ field }) => field === RELEVANCE);
    return {
      by,
      scores: isRanked ? this.relevance.rank(wantedIn(likesToRank(tree, this.known), this.fields), found) : null,
    };
  }

  facet(tree: Query, field: FieldId, limit: number): FacetCounts {
    const known = this.fields.byId(field);
    return known ? this.tally.mostSaid(this.find(tree), known, limit) : [];
  }

  facets({ tree: asked, fields, limit, spread = false }: FacetsRequest): Facet[] {
    const tree = this.meant(asked);
    return fields.flatMap((id) => {
      const field = this.fields.byId(id);
      if (!field) return [];
      const { chosen, refused } = choiceIn(tree, id);
      const counted = this.counted(this.findMeant(offeredIn(tree, id)), field, limit);
      const facet = { field: id, ...counted.offered(limit, [...chosen, ...refused]) };
      if (!spread || !isNumericType(field.type)) return [facet];
      const said = this.findMeant(tree).flatMap((found) => this.tally.numbers(found, id));
      return [{ ...facet, spread: spreadOf(field, said) }];
    });
  }

  private counted(found: readonly Found[], field: RegisteredField, limit: number): Counted {
    const known = this.facetsOf.get(found) ?? new Map<string, Counted>();
    this.facetsOf.set(found, known);
    const key = `${field.id} ${limit}`;
    let counted = known.get(key);
    if (counted) return counted;
    counted = this.tally.groups(found, field, limit);
    if (counted.groups <= MOST_GROUPS_KEPT) known.set(key, counted);
    return counted;
  }

  map({ tree, box, columns }: MapRequest): MapAnswer {
    const found = this.find(tree);
    const all = placed(found);
    const positions = all.map(({ position }) => position);
    const around = boxAround(positions);
    const shown = box ?? around;
    const at = (index: number) => all[index] as Placed;
    return {
      clusters: (shown ? clustersOf(positions, shown, columns) : []).map(({ of, ...cluster }) => ({
        ...cluster,
        id: idOf(at(of[0] as number)),
        places: mostSaid(of.map((index) => said(at(index), 'place'))),
      })),
      around,
      placed: all.length,
      total: found.reduce((sum, { set }) => sum + countOf(set), 0),
    };
  }

  days(tree: Query, field: FieldId): DaysAnswer {
    const found = this.find(tree);
    const counts = new Map<number, number>();
    let dated = 0;
    for (const { part, set } of found)
      for (const { value, count } of this.tally.numbers({ part, set }, field)) {
        const day = Math.floor(value / DAY_MS) * DAY_MS;
        counts.set(day, (counts.get(day) ?? 0) + count);
        dated += count;
      }
    const days = [...counts].map(([dayMs, count]) => ({ dayMs, count })).sort((a, b) => a.dayMs - b.dayMs);
    return { days, dated, total: found.reduce((sum, { set }) => sum + countOf(set), 0) };
  }
}

interface Placed {
  readonly part: Part;
  readonly doc: number;
  readonly position: Position;
}

/** What of it says where it lies. */
function placed(found: readonly Found[]): Placed[] {
  const all: Placed[] = [];
  for (const { part, set } of found) {
    const column = part.finder.column('position');
    if (!column?.numbers) continue;
    const texts = part.finder.textsOf('position');
    const known = new Map<number, Position | null>();
    for (const doc of listOf(set)) {
      const number = column.numbers[doc] as number;
      if (number === 0) continue;
      let position = known.get(number);
      if (position === undefined) known.set(number, (position = readPosition(texts.at(number - 1))));
      if (position) all.push({ part, doc, position });
    }
  }
  return all;
}

const isAmong =
  (found: readonly Found[]) =>
  (id: number): boolean =>
    found.some(({ part, set }) => {
      const doc = part.docOf(id);
      return doc >= 0 && holds(set, doc);
    });

const documentsIn = (parts: readonly Part[]): number => parts.reduce((sum, { data }) => sum + data.ids.length, 0);

export const mergeOf = ({ parts, types, ordered, counted }: MergePlan): SegmentData =>
  mergeSegments(parts, types, ordered, counted);

const idOf = ({ part, doc }: { readonly part: Part; readonly doc: number }): number => part.data.ids[doc] as number;

const said = ({ part, doc }: { readonly part: Part; readonly doc: number }, field: FieldId): string | undefined =>
  saidIn(part, doc, field)[0];
