import { passagesOf } from './passages';
import { saidText, type Spoken } from './transcript';

/** When something is said, in words. */
export type PlaceOf = (ms: number) => string;

/** A transcript for reading: a passage a paragraph, with when it begins and who speaks. */
export const writeText = (spoken: Spoken, placeOf: PlaceOf): string =>
  passagesOf(spoken)
    .map(({ speaker, startMs, words }) => `[${placeOf(startMs)}] ${speaker ? `${speaker}: ` : ''}${saidText(words)}\n`)
    .join('\n');

const HEAD = ['Start', 'End', 'Speaker', 'Said'];

/** Its passages as the rows of a table. */
export const passageRows = (spoken: Spoken, placeOf: PlaceOf): string[][] => [
  HEAD,
  ...passagesOf(spoken).map(({ speaker, startMs, endMs, words }) => [
    ...[placeOf(startMs), placeOf(endMs), speaker],
    saidText(words),
  ]),
];
