import { array, mixed, number, object, string } from 'yup';
import type { OtherWord, SpeakerFrom, Spoken, SpokenWord } from './transcript';

/** The form in which words are kept; another is refused. */
export const SPOKEN_VERSION = 1;

/** How sure something is, in thousandths. */
const SHARES = 1000;

type PackedWord = readonly [
  text: string,
  startMs: number,
  endMs: number,
  certainty?: number | null,
  others?: readonly (readonly [text: string, certainty: number])[],
  sounds?: string,
];

interface Packed {
  readonly version: typeof SPOKEN_VERSION;
  readonly words: readonly PackedWord[];
  readonly speakers: readonly SpeakerFrom[];
}

const share = (certainty: number): number => Math.round(certainty * SHARES);

function packWord({ text, startMs, endMs, certainty, others = [], sounds }: SpokenWord): PackedWord {
  const head = [text, startMs, endMs] as const;
  const sure = certainty === null ? null : share(certainty);
  const packedOthers = others.map((other) => [other.text, share(other.certainty)] as const);
  if (sounds !== undefined) return [...head, sure, packedOthers, sounds];
  if (others.length > 0) return [...head, sure, packedOthers];
  return sure === null ? head : [...head, sure];
}

function unpackWord([text, startMs, endMs, certainty = null, others = [], sounds]: PackedWord): SpokenWord {
  return {
    ...{ text, startMs, endMs, certainty: certainty === null ? null : certainty / SHARES },
    ...(others.length > 0
      ? { others: others.map(([other, share]): OtherWord => ({ text: other, certainty: share / SHARES })) }
      : {}),
    ...(sounds === undefined ? {} : { sounds }),
  };
}

/** An hour of speech is some 9,000 words: without the names of what they consist of, it is a third as long. */
export const packSpoken = ({ words, speakers }: Spoken): string =>
  JSON.stringify({ version: SPOKEN_VERSION, words: words.map(packWord), speakers } satisfies Packed);

const isWord = (word: unknown): word is PackedWord =>
  Array.isArray(word) && typeof word[0] === 'string' && Number.isInteger(word[1]) && Number.isInteger(word[2]);

const packedSchema = object({
  version: number().oneOf([SPOKEN_VERSION]).required(),
  // Looked at in one go: a schema for each of the words of a library takes minutes.
  words: mixed<readonly PackedWord[]>(
    (words): words is readonly PackedWord[] => Array.isArray(words) && words.every(isWord),
  ).required(),
  speakers: array(object({ fromMs: number().required(), name: string().defined() })).required(),
});

/** @throws if it is of another version, or was not written by `packSpoken` */
export function unpackSpoken(text: string): Spoken {
  const { words, speakers } = packedSchema.validateSync(JSON.parse(text), { strict: true });
  return { words: words.map(unpackWord), speakers };
}
