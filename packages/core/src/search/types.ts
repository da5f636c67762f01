import type { FieldId, FieldRegistry, FieldValues } from '../fields';
import type { Box, Cluster } from '../position';
import type { Query } from '../query';
import type { Group } from './grouping';
import type { Spread } from './spread';

/** What the index knows of one asset. */
export interface SearchDocument {
  readonly id: number;
  readonly values: FieldValues;
  /** Other words for what is said in a field: looked for like those, and never shown, counted or sorted by. */
  readonly also?: Readonly<Partial<Record<FieldId, readonly string[]>>>;
}

/** Orders a list by how well its assets fit what the search asks of words; `descending` is the best first. */
export const RELEVANCE = 'relevance';

/** One field that a list is ordered by. */
export interface SortBy {
  readonly field: FieldId | typeof RELEVANCE;
  readonly descending: boolean;
}

/** What a list is ordered by, and what orders those that are equal in it. */
export interface SortOrder extends SortBy {
  readonly then?: readonly SortBy[] | undefined;
}

/** A list: what is in it, and where each of it stands. */
export interface ListRequest {
  readonly tree: Query;
  /** What of the list stands out among the rest, which stays; best fits are of this. */
  readonly lift?: Query | undefined;
  readonly sort: SortOrder;
  /**
   * The list is cut into groups by what is said in this field, each in the order of `sort`. What says several things in it stands in
   * several groups, so that the list has more places than assets.
   */
  readonly by?: FieldId | undefined;
  /** Assets in an order of their own; what is not among them comes after, in the order of `sort`. */
  readonly order?: readonly number[] | undefined;
}

export interface SearchRequest extends ListRequest {
  /** The window of the answer: how many to leave out at the front, and how many to give. */
  readonly offset: number;
  readonly limit: number;
}

/** Asks for the nearest place that is lifted, from one on or before it. */
export interface StepRequest extends ListRequest {
  readonly lift: Query;
  readonly from: number;
  readonly backwards: boolean;
}

export interface SearchAnswer {
  /** How many places the list has. */
  readonly total: number;
  /** How many assets were found. */
  readonly assets: number;
  /** Of a list in groups: in their order, the places of the list beneath them one after the other. */
  readonly groups: readonly Group[] | null;
  /** Asset ids of the window, in order. Equal values are ordered by id, so that the order is one and the same each time. */
  readonly ids: readonly number[];
  /** How many of all assets are lifted, and which of the window; there only where something is to be lifted. */
  readonly lifted?: { readonly count: number; readonly ids: readonly number[] };
}

/** A count for each value of a field among the hits, most frequent first. */
export type FacetCounts = readonly { readonly value: string; readonly count: number }[];

/** What a list offers to narrow it by: the things said in each of some fields. */
export interface FacetsRequest {
  readonly tree: Query;
  readonly fields: readonly FieldId[];
  /** Things of one field; what the search asks for is given beyond them. */
  readonly limit: number;
  /** Of numbers, dates and lengths also how those that were found are spread. */
  readonly spread?: boolean;
}

export interface Facet {
  readonly field: FieldId;
  readonly groups: readonly Group[];
  /** How many different things are said beside those. */
  readonly more: number;
  readonly spread?: Spread;
}

/** What a map asks: what lies in a stretch of it, gathered as finely as there are columns across; or with no box, all that there is. */
export interface MapRequest {
  readonly tree: Query;
  readonly box: Box | null;
  readonly columns: number;
}

export interface MapAnswer {
  readonly clusters: readonly (Omit<Cluster, 'of'> & {
    /** Of its first. */
    readonly id: number;
    /** What its assets say of their place, the most frequent first. */
    readonly places: readonly string[];
  })[];
  /** Around all that was found, also outside the box; null if nothing says where it lies. */
  readonly around: Box | null;
  readonly placed: number;
  readonly total: number;
}

/** How many assets were found for a day, by its beginning in UTC. */
export interface DayCount {
  readonly dayMs: number;
  readonly count: number;
}

export interface DaysAnswer {
  /** In order; days without any are not in it. */
  readonly days: readonly DayCount[];
  /** Assets that have a day. */
  readonly dated: number;
  readonly total: number;
}

/**
 * The index: derived from the database, thrown away without loss. Written so that an inside for a million assets fits:
 * nothing in it hands out or takes all documents at once but `upsert` in batches.
 */
export interface SearchIndex {
  readonly size: number;
  /** Which fields there are from now on. A field's type never changes. */
  setFields(fields: FieldRegistry): void;
  /** Puts documents in, or in place of those with the same id. */
  upsert(documents: readonly SearchDocument[]): void;
  remove(ids: readonly number[]): void;
  search(request: SearchRequest): SearchAnswer;
  count(tree: Query): number;
  counts(trees: readonly Query[]): readonly number[];
  facet(tree: Query, field: FieldId, limit: number): FacetCounts;
  /** Counts in what the search finds with the field's own choice put aside where one of several is enough. */
  facets(request: FacetsRequest): readonly Facet[];
  map(request: MapRequest): MapAnswer;
  days(tree: Query, field: FieldId): DaysAnswer;
}
