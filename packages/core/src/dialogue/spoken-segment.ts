import { firstNot } from '../search';
import type { Forms } from './forms';
import type { Names } from './names';
import { PASSAGE_LENGTHS, passagesOf, type PassageLength } from './passages';
import { spokenWords } from '../fields';
import { MOST_SOUNDS } from './sound-tree';
import { addSounds } from './sounds';
import type { Spoken, SpokenWord } from './transcript';

/** What is said in one asset. */
export interface SpokenDocument {
  readonly id: number;
  /** Of a subclip its whole, in which the same is said; 0 for what is itself one. */
  readonly wholeId: number;
  readonly spoken: Spoken;
}

/**
 * What is said in some assets, word after word, and where each word is said. Never changed. Words go by their numbers in the
 * vocabulary, and by those of the forms in which they are written.
 */
export interface SpokenSegment {
  readonly ids: Uint32Array;
  readonly wholes: Uint32Array;
  /** Where the words of each asset begin; one more at the end. */
  readonly starts: Uint32Array;
  /** Of each word the form that it is written in, when it begins, how long it is (65 seconds at most), and how sure it is. */
  readonly forms: Uint32Array;
  readonly startMs: Uint32Array;
  readonly lengthMs: Uint16Array;
  /** In 255ths. */
  readonly sure: Uint8Array;
  /** What else each may have been: words, and how likely they are. */
  readonly otherStarts: Uint32Array;
  readonly others: Uint32Array;
  readonly otherSure: Uint8Array;
  /** The phones that were heard while each was said, whatever words they make; none where no recogniser told. */
  readonly soundStarts: Uint32Array;
  readonly sounds: Uint8Array;
  /** Where passages begin, the shortest that there are; one more at the end. */
  readonly passages: Uint32Array;
  /** Of each the longest length at which one begins there, by its place in `PASSAGE_LENGTHS`, and by number who speaks. */
  readonly levels: Uint8Array;
  readonly speakers: Uint32Array;
  /** The words that are or may have been said, ascending, and the places of each. */
  readonly words: Uint32Array;
  readonly placesOf: Uint32Array;
  readonly places: Uint32Array;
}

const WHOLE = 255;
export const shareOf = (sure: number): number => sure / WHOLE;

/** A recogniser is never quite as sure as a person. */
const inShares = (certainty: number | null): number =>
  certainty === null ? WHOLE : Math.min(WHOLE - 1, Math.round(Math.max(0, certainty) * WHOLE));

/** What a segment is made of, but for where its words are, which is worked out. */
type Sayings = Omit<SpokenSegment, 'words' | 'placesOf' | 'places'>;

const SHORTEST: PassageLength = 'sentence';

/** Collects what is said in some assets. */
export class SegmentDraft {
  private readonly ids: number[] = [];
  private readonly wholes: number[] = [];
  private readonly starts: number[] = [0];
  private readonly forms: number[] = [];
  private readonly startMs: number[] = [];
  private readonly lengthMs: number[] = [];
  private readonly sure: number[] = [];
  private readonly otherStarts: number[] = [0];
  private readonly others: number[] = [];
  private readonly otherSure: number[] = [];
  private readonly soundStarts: number[] = [0];
  private readonly sounds: number[] = [];
  private readonly passages: number[] = [];
  private readonly levels: number[] = [];
  private readonly speakers: number[] = [];

  constructor(
    private readonly known: Forms,
    private readonly names: Names,
  ) {}

  get size(): number {
    return this.ids.length;
  }

  add({ id, wholeId, spoken }: SpokenDocument): void {
    this.ids.push(id);
    this.wholes.push(wholeId);
    // What says no word is no passage: the next begins wherever it would have begun.
    let begins = 0;
    for (const { level, speaker, words } of passagesOf(spoken, SHORTEST)) {
      begins = Math.min(begins, level);
      const from = this.forms.length;
      for (const word of words) this.addWord(word);
      if (this.forms.length === from) continue;
      this.passages.push(from);
      this.levels.push(begins);
      this.speakers.push(this.names.add(speaker));
      begins = PASSAGE_LENGTHS.length;
    }
    this.starts.push(this.forms.length);
  }

  /** What is written as one word may be several that are looked for: the first of them is written so, and the others are not. */
  private addWord({ text, startMs, endMs, certainty, others = [], sounds = '' }: SpokenWord): void {
    spokenWords(text).forEach((word, at) => {
      this.forms.push(this.known.add(word, at === 0 ? text : ''));
      this.startMs.push(startMs);
      this.lengthMs.push(Math.min(0xffff, Math.max(0, endMs - startMs)));
      this.sure.push(inShares(certainty));
      if (at === 0)
        for (const other of others) {
          const [only, ...more] = spokenWords(other.text);
          if (only === undefined || more.length > 0 || only === word) continue;
          this.others.push(this.known.vocabulary.add(only));
          this.otherSure.push(inShares(other.certainty));
        }
      this.otherStarts.push(this.others.length);
      if (at === 0) addSounds(sounds, this.sounds, MOST_SOUNDS);
      this.soundStarts.push(this.sounds.length);
    });
  }

  finish(): SpokenSegment {
    return withPlaces(
      {
        ids: Uint32Array.from(this.ids),
        wholes: Uint32Array.from(this.wholes),
        starts: Uint32Array.from(this.starts),
        forms: Uint32Array.from(this.forms),
        startMs: Uint32Array.from(this.startMs),
        lengthMs: Uint16Array.from(this.lengthMs),
        sure: Uint8Array.from(this.sure),
        otherStarts: Uint32Array.from(this.otherStarts),
        others: Uint32Array.from(this.others),
        otherSure: Uint8Array.from(this.otherSure),
        soundStarts: Uint32Array.from(this.soundStarts),
        sounds: Uint8Array.from(this.sounds),
        passages: Uint32Array.from([...this.passages, this.forms.length]),
        levels: Uint8Array.from(this.levels),
        speakers: Uint32Array.from(this.speakers),
      },
      this.known,
    );
  }
}

/** Works out where each word is said: counts, then puts each place where its word's begin. */
function withPlaces(sayings: Sayings, known: Forms): SpokenSegment {
  const { forms, others, otherStarts } = sayings;
  const wordOf = known.wordOf;
  const size = known.vocabulary.size;
  const counts = new Uint32Array(size + 1);
  for (let at = 0; at < forms.length; at += 1) {
    const word = wordOf[forms[at] as number] as number;
    counts[word] = (counts[word] as number) + 1;
  }
  for (let at = 0; at < others.length; at += 1) {
    const word = others[at] as number;
    counts[word] = (counts[word] as number) + 1;
  }
  let kinds = 0;
  for (let word = 0; word < size; word += 1) if ((counts[word] as number) > 0) kinds += 1;
  const words = new Uint32Array(kinds);
  const placesOf = new Uint32Array(kinds + 1);
  const next = new Uint32Array(size);
  let [kind, total] = [0, 0];
  for (let word = 0; word < size; word += 1) {
    const count = counts[word] as number;
    if (count === 0) continue;
    words[kind] = word;
    next[word] = total;
    total += count;
    kind += 1;
    placesOf[kind] = total;
  }
  const places = new Uint32Array(total);
  const put = (word: number, at: number): void => {
    const to = next[word] as number;
    places[to] = at;
    next[word] = to + 1;
  };
  for (let at = 0; at < forms.length; at += 1) {
    put(wordOf[forms[at] as number] as number, at);
    for (let other = otherStarts[at] as number; other < (otherStarts[at + 1] as number); other += 1)
      put(others[other] as number, at);
  }
  return { ...sayings, words, placesOf, places };
}

/** One segment of several, without what is gone from them. */
export function mergedSegments(
  parts: readonly { readonly segment: SpokenSegment; readonly isGone: (doc: number) => boolean }[],
  known: Forms,
): SpokenSegment {
  const kept = parts.map(({ segment, isGone }) => ({
    segment,
    docs: Uint32Array.from(segment.ids.keys()).filter((doc) => !isGone(doc)),
  }));
  const sum = (of: (segment: SpokenSegment, doc: number) => number): number =>
    kept.reduce((all, { segment, docs }) => docs.reduce((some, doc) => some + of(segment, doc), all), 0);
  const docCount = sum(() => 1);
  const wordCount = sum(({ starts }, doc) => (starts[doc + 1] as number) - (starts[doc] as number));
  const otherCount = sum(
    ({ starts, otherStarts }, doc) =>
      (otherStarts[starts[doc + 1] as number] as number) - (otherStarts[starts[doc] as number] as number),
  );
  const soundCount = sum(
    ({ soundStarts, starts }, doc) =>
      (soundStarts[starts[doc + 1] as number] as number) - (soundStarts[starts[doc] as number] as number),
  );
  const passageCount = sum(({ passages, starts }, doc) => {
    const [from, to] = passagesIn(passages, starts[doc] as number, starts[doc + 1] as number);
    return to - from;
  });
  const made = {
    ids: new Uint32Array(docCount),
    wholes: new Uint32Array(docCount),
    starts: new Uint32Array(docCount + 1),
    forms: new Uint32Array(wordCount),
    startMs: new Uint32Array(wordCount),
    lengthMs: new Uint16Array(wordCount),
    sure: new Uint8Array(wordCount),
    otherStarts: new Uint32Array(wordCount + 1),
    others: new Uint32Array(otherCount),
    otherSure: new Uint8Array(otherCount),
    soundStarts: new Uint32Array(wordCount + 1),
    sounds: new Uint8Array(soundCount),
    passages: new Uint32Array(passageCount + 1),
    levels: new Uint8Array(passageCount),
    speakers: new Uint32Array(passageCount),
  };
  let [doc, word, other, sound, passage] = [0, 0, 0, 0, 0];
  for (const { segment, docs } of kept)
    for (const old of docs) {
      const [from, to] = [segment.starts[old] as number, segment.starts[old + 1] as number];
      const [otherFrom, otherTo] = [segment.otherStarts[from] as number, segment.otherStarts[to] as number];
      made.ids[doc] = segment.ids[old] as number;
      made.wholes[doc] = segment.wholes[old] as number;
      for (const part of ['forms', 'startMs', 'lengthMs', 'sure'] as const)
        made[part].set(segment[part].subarray(from, to), word);
      for (let at = from; at < to; at += 1)
        made.otherStarts[word + at - from + 1] = (segment.otherStarts[at + 1] as number) - otherFrom + other;
      made.others.set(segment.others.subarray(otherFrom, otherTo), other);
      made.otherSure.set(segment.otherSure.subarray(otherFrom, otherTo), other);
      const [soundFrom, soundTo] = [segment.soundStarts[from] as number, segment.soundStarts[to] as number];
      for (let at = from; at < to; at += 1)
        made.soundStarts[word + at - from + 1] = (segment.soundStarts[at + 1] as number) - soundFrom + sound;
      made.sounds.set(segment.sounds.subarray(soundFrom, soundTo), sound);
      const [passageFrom, passageTo] = passagesIn(segment.passages, from, to);
      for (let at = passageFrom; at < passageTo; at += 1)
        made.passages[passage + at - passageFrom] = (segment.passages[at] as number) - from + word;
      for (const part of ['levels', 'speakers'] as const)
        made[part].set(segment[part].subarray(passageFrom, passageTo), passage);
      passage += passageTo - passageFrom;
      doc += 1;
      word += to - from;
      other += otherTo - otherFrom;
      sound += soundTo - soundFrom;
      made.starts[doc] = word;
    }
  made.passages[passage] = word;
  return withPlaces(made, known);
}

/** Which passages begin within some words. */
export function passagesIn(passages: Uint32Array, from: number, to: number): readonly [from: number, to: number] {
  const first = firstNot((at) => (passages[at] as number) < from, 0, passages.length - 1);
  return [first, firstNot((at) => (passages[at] as number) < to, first, passages.length - 1)];
}

/** The place of the last that is not above a value. */
export const lastAtMost = (list: Uint32Array, value: number): number =>
  firstNot((at) => (list[at] as number) <= value, 0, list.length) - 1;

/** Where a word is said, or may be; ascending. */
export function placesOf({ words, places, placesOf: starts }: SpokenSegment, word: number): Uint32Array {
  const at = lastAtMost(words, word);
  if (at < 0 || words[at] !== word) return NOWHERE;
  return places.subarray(starts[at], starts[at + 1]);
}
const NOWHERE = new Uint32Array(0);
