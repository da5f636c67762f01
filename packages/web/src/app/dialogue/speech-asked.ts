import type { SpokenHow } from '@larder/core/dialogue';

/** What is looked for in what is said, and how. */
export interface SpeechAsked {
  readonly said: string;
  readonly how: SpokenHow;
  readonly withinS: number;
  /** By its place in `NOTCHES`. */
  readonly notch: number;
  /** What else holds of the files, as in the search line. */
  readonly query: string;
  readonly atLeast: number;
}

/** What makes one search another; not that it is asked anew. */
export const searchOf = ({ how, notch, query, said, withinS }: SpeechAsked): string =>
  [said, how, withinS, notch, query].join('\n');
