import type { DatabaseOptions } from '../store/database';
import type { FieldId } from '@larder/core/fields';
import type { Query } from '@larder/core/query';
import type {
  DaysAnswer,
  Facet,
  FacetCounts,
  FacetsRequest,
  MapAnswer,
  MapRequest,
  SearchAnswer,
  SearchRequest,
  StepRequest,
} from '@larder/core/search';

/** Questions to the index's thread. `atLeast`: answer only once that revision is in. */
export type Question = { readonly atLeast: number } & (
  | ({ readonly ask: 'search' } & SearchRequest)
  | ({ readonly ask: 'step' } & StepRequest)
  | { readonly ask: 'counts'; readonly trees: readonly Query[] }
  | { readonly ask: 'facet'; readonly tree: Query; readonly field: FieldId; readonly limit: number }
  | ({ readonly ask: 'facets' } & FacetsRequest)
  | ({ readonly ask: 'map' } & MapRequest)
  | { readonly ask: 'days'; readonly tree: Query; readonly field: FieldId }
);

export interface Answers {
  search: SearchAnswer;
  step: number | null;
  counts: readonly number[];
  facet: FacetCounts;
  facets: readonly Facet[];
  map: MapAnswer;
  days: DaysAnswer;
}

/** What the thread is started with. */
export interface ThreadOptions {
  readonly database: DatabaseOptions;
  /** The folder that is the index's own, where it is kept between two starts. */
  readonly indexRoot: string;
  /** The built script of the thread that merges. */
  readonly mergeScript: string;
}

export type ToThread =
  { readonly type: 'ask'; readonly id: number; readonly question: Question } | { readonly type: 'stop' };
export type FromThread =
  | { readonly type: 'answer'; readonly id: number; readonly revision: number; readonly value: Answers[keyof Answers] }
  /** The index has come to this revision. */
  | { readonly type: 'current'; readonly revision: number }
  | { readonly type: 'refusal'; readonly id: number; readonly message: string }
  | { readonly type: 'ready'; readonly revision: number; readonly assets: number };
