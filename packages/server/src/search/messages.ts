import type { DatabaseOptions } from '../store/database';
import type {
  PassageLength,
  ReducedQuestion,
  RelatedAsked,
  RelatedTerm,
  SpokenInFile,
  SpokenPassage,
  SpokenPlace,
  SpokenQuestion,
  SpokenSort,
  SpokenTotals,
  Themes,
  WordsKnown,
} from '@larder/core/dialogue';
import type { FieldId } from '@larder/core/fields';
import type { HeardTest, Query } from '@larder/core/query';
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
  | ({ readonly ask: 'spoken' } & SpokenRequest)
  | ({ readonly ask: 'passages' } & PassagesRequest)
  | ({ readonly ask: 'totals' } & InSpeech)
  | ({ readonly ask: 'related' } & RelatedRequest)
  | ({ readonly ask: 'reduced' } & ReducedRequest)
  | { readonly ask: 'themes'; readonly tree: Query | null }
  | ({ readonly ask: 'theme-passages' } & ThemePassagesRequest)
  | { readonly ask: 'heard'; readonly tests: readonly HeardTest[]; readonly ids: readonly number[] }
  | { readonly ask: 'days'; readonly tree: Query; readonly field: FieldId }
);

/** What is looked for in what is said. */
export interface InSpeech {
  readonly question: SpokenQuestion;
  /** By its place in `NOTCHES`. */
  readonly notch: number;
  /** Which assets are looked through; null for all. */
  readonly tree: Query | null;
}

export interface SpokenRequest extends InSpeech {
  readonly sort: SpokenSort;
  readonly offset: number;
  readonly limit: number;
  /** Hits of a file; as many as are listed if nothing is said. */
  readonly most?: number;
}

export interface RelatedRequest {
  readonly terms: readonly RelatedAsked[];
  readonly tree: Query | null;
}

export interface ReducedRequest {
  readonly text: string;
  readonly kept: ReadonlySet<string>;
  readonly known: WordsKnown;
  readonly tree: Query | null;
}

interface AsPassages {
  readonly length: PassageLength;
  readonly limit: number;
}
export type PassagesRequest = InSpeech & AsPassages;

export interface ThemePassagesRequest extends AsPassages {
  readonly terms: readonly string[];
  readonly tree: Query | null;
  /** Only these of them. */
  readonly ids: readonly number[];
}

export interface FoundPassages {
  readonly count: number;
  readonly passages: readonly SpokenPassage[];
}

export interface SpokenFiles {
  readonly notches: readonly { readonly files: number; readonly hits: number }[];
  readonly files: readonly SpokenInFile[];
  /** Of each thing that was looked for how it sounds, in each of its ways. */
  readonly sounds: readonly (readonly string[])[];
  readonly searched: number;
}

export interface Answers {
  spoken: SpokenFiles;
  passages: FoundPassages & Pick<SpokenFiles, 'notches'>;
  totals: SpokenTotals & Pick<SpokenFiles, 'notches'>;
  related: readonly RelatedTerm[];
  reduced: ReducedQuestion;
  themes: Themes;
  'theme-passages': FoundPassages;
  /** By asset, in the order of their times. */
  heard: ReadonlyMap<number, readonly SpokenPlace[]>;
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
