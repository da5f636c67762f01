import type { FieldId, FieldRegistry, FieldValues } from '../fields';
import type { Query } from '../query';

/** What the index knows of one asset. */
export interface SearchDocument {
  readonly id: number;
  readonly values: FieldValues;
}

/** One field that a list is ordered by. */
export interface SortBy {
  readonly field: FieldId;
  readonly descending: boolean;
}

/** What a list is ordered by, and what orders those that are equal in it. */
export interface SortOrder extends SortBy {
  readonly then?: readonly SortBy[] | undefined;
}

export interface SearchRequest {
  readonly tree: Query;
  readonly sort: SortOrder;
  /** The window of the answer: how many to leave out at the front, and how many to give. */
  readonly offset: number;
  readonly limit: number;
}

export interface SearchAnswer {
  readonly total: number;
  /** Asset ids of the window, in order. Equal values are ordered by id, so that the order is one and the same each time. */
  readonly ids: readonly number[];
}

/** A count for each value of a field among the hits, most frequent first. */
export type FacetCounts = readonly { readonly value: string; readonly count: number }[];

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
  facet(tree: Query, field: FieldId, limit: number): FacetCounts;
}
