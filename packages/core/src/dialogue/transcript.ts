import { firstNot } from '../search';

/** Where the words come from, the best first: what a person made of them, what was brought in, what a recogniser heard. */
export const TRANSCRIPT_SOURCES = ['corrected', 'brought-in', 'recognised'] as const;
export type TranscriptSource = (typeof TRANSCRIPT_SOURCES)[number];

export const TRANSCRIPT_SOURCE_LABELS: Readonly<Record<TranscriptSource, string>> = {
  corrected: 'Corrected',
  'brought-in': 'Brought in',
  recognised: 'Recognised',
};

/** What may have been said instead. */
export interface OtherWord {
  readonly text: string;
  /** From 0 to 1. */
  readonly certainty: number;
}

/** A word with its time, in whole milliseconds from the beginning of the sound; `endMs` is exclusive. */
export interface SpokenWord {
  readonly text: string;
  readonly startMs: number;
  readonly endMs: number;
  /** How sure a recogniser is of it, from 0 to 1; null where a person says so. */
  readonly certainty: number | null;
  /** The likelier first. */
  readonly others?: readonly OtherWord[];
  /** The phones that were heard while it was said, whatever words they make: one letter each, by `writeSounds`. */
  readonly sounds?: string;
}

/** Who speaks from a moment on, until the next. */
export interface SpeakerFrom {
  readonly fromMs: number;
  /** Empty where that is not known. */
  readonly name: string;
}

/** The words of a sound in the order in which they are said. */
export interface Spoken {
  readonly words: readonly SpokenWord[];
  /** Ascending. */
  readonly speakers: readonly SpeakerFrom[];
}

export const saidText = (words: readonly Pick<SpokenWord, 'text'>[]): string => words.map(({ text }) => text).join(' ');

/** Who speaks at a moment; empty where that is not known. */
export function speakerAt(speakers: readonly SpeakerFrom[], ms: number): string {
  const next = firstNot((at) => (speakers[at] as SpeakerFrom).fromMs <= ms, 0, speakers.length);
  return speakers[next - 1]?.name ?? '';
}

/** The words that begin within a stretch of the sound, with times from its beginning: those of a subclip. */
export function spokenWithin({ words, speakers }: Spoken, startMs: number, endMs: number): Spoken {
  return {
    words: words
      .filter((word) => word.startMs >= startMs && word.startMs < endMs)
      .map((word) => ({ ...word, startMs: word.startMs - startMs, endMs: Math.min(word.endMs, endMs) - startMs })),
    speakers: [{ fromMs: 0, name: speakerAt(speakers, startMs) }]
      .concat(
        speakers
          .filter(({ fromMs }) => fromMs > startMs && fromMs < endMs)
          .map(({ fromMs, name }) => ({ fromMs: fromMs - startMs, name })),
      )
      .filter(({ name }, at) => at > 0 || name !== ''),
  };
}

/** What is said, moved by so many milliseconds; what would be said before the beginning is left out. */
export function spokenMoved({ speakers, words }: Spoken, ms: number): Spoken {
  const name = speakerAt(speakers, -ms);
  return {
    words: words
      .filter(({ startMs }) => startMs + ms >= 0)
      .map((word) => ({ ...word, startMs: word.startMs + ms, endMs: word.endMs + ms })),
    speakers: [
      ...(ms < 0 && name !== '' ? [{ fromMs: 0, name }] : []),
      ...speakers
        .filter(({ fromMs }) => fromMs + ms > 0 || ms >= 0)
        .map((each) => ({ ...each, fromMs: each.fromMs + ms })),
    ],
  };
}

/** Where a moment lies in an asset: frames of its rate, or milliseconds where it has none. */
export const placeOfMs = (ms: number, rate: { readonly num: number; readonly den: number } | null): number =>
  rate ? Math.floor((ms * rate.num) / (rate.den * 1000)) : ms;

/** The moment at which a place begins, as `placeOfMs` counts. */
export const msOfPlace = (place: number, rate: { readonly num: number; readonly den: number } | null): number =>
  rate ? Math.ceil((place * rate.den * 1000) / rate.num) : place;
