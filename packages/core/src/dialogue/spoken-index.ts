import { NOTCHES } from './confidence';
import { Forms } from './forms';
import { Names } from './names';
import type { Pronouncer } from './pronounce';
import type { SpokenQuestion } from './question';
import { SegmentAnswer, type InDoc } from './spoken-answer';
import { prepare, SpokenFinder, withinBounds } from './spoken-finder';
import { mergedSegments, SegmentDraft, type SpokenDocument, type SpokenSegment } from './spoken-segment';
import { Vocabulary } from './vocabulary';

/** The form of what is kept; another is made anew. */
export const SPOKEN_INDEX_VERSION = 4;

/** A segment with what is gone of it. */
interface Part {
  readonly segment: SpokenSegment;
  /** 1 for each asset that is gone, or said anew elsewhere. */
  readonly gone: Uint8Array;
  live: number;
}

/** What an index is made of, to be kept and put in again. */
export interface KeptSpoken {
  readonly words: readonly string[];
  /** How each word is said, as the numbers of `PHONES`, in its ways. */
  readonly ways: readonly (readonly (readonly number[])[])[];
  readonly forms: readonly (readonly [word: number, text: string])[];
  /** Who speaks, by number. */
  readonly speakers: readonly string[];
  readonly parts: readonly { readonly segment: SpokenSegment; readonly gone: Uint8Array }[];
}

/** So many assets are put into a segment anew with each change. */
const FRESH = 64;
/** So many segments of about one size become one, up to so many assets: a fraction of a second's work. */
const FAN = 4;
const MOST_DOCS = 8192;
/** When that much of a segment is gone, it is made anew without it. */
const WORN = 0.2;

/**
 * So many phones, of some 180 hours of speech, are gone through for any row of words too, which takes a fortieth of a second: 3 in 100 of
 * them have no word in them that was heard. In more than these a row is looked for around such words only.
 */
const FEW_PHONES = 8_000_000;

/** A file in which something was found. */
export interface SpokenFile {
  readonly id: number;
  /** At the notch that was asked for: how many hits, and how likely the likeliest of them is, in percent. */
  readonly count: number;
  readonly best: number;
  readonly segment: SpokenSegment;
  hits(): number[];
  /** Of each thing that was looked for, but for what must not be there. */
  hitsByItem(): number[][];
}

/** What is said in one asset, by its place in a segment. */
export interface SpokenDoc {
  readonly id: number;
  readonly doc: number;
  readonly segment: SpokenSegment;
}

/** What was found, at each notch and at the one that was asked for. */
export interface SpokenFound {
  /** By `NOTCHES`. */
  readonly notches: readonly { readonly files: number; readonly hits: number }[];
  readonly files: readonly SpokenFile[];
}

/** All that is said in a library, found by how it is spelled and by how it sounds. */
export class SpokenIndex {
  private readonly vocabulary: Vocabulary;
  private readonly forms: Forms;
  private readonly names = new Names();
  private parts: Part[] = [];
  private readonly fresh = new Map<number, SpokenDocument>();
  private freshPart: Part | null = null;
  private changed = 0;
  private readonly placeOf = new Map<number, { readonly part: Part; readonly doc: number }>();

  /** @param fewPhones up to how many phones that were heard rows of known words are looked for among all of them */
  constructor(
    pronouncer: Pronouncer,
    private readonly fewPhones = FEW_PHONES,
  ) {
    this.vocabulary = new Vocabulary(pronouncer);
    this.forms = new Forms(this.vocabulary);
  }

  /** Assets in which anything is said. */
  get size(): number {
    return this.placeOf.size + this.fresh.size;
  }

  upsert(documents: readonly SpokenDocument[]): void {
    for (const document of documents) {
      this.bury(document.id);
      if (document.spoken.words.length === 0) continue;
      this.fresh.set(document.id, document);
      this.changed += 1;
    }
    this.freshPart = null;
    if (this.fresh.size > FRESH) this.seal();
  }

  remove(ids: readonly number[]): void {
    for (const id of ids) this.bury(id);
  }

  private bury(id: number): void {
    if (this.fresh.delete(id)) {
      this.freshPart = null;
      this.changed += 1;
    }
    const place = this.placeOf.get(id);
    if (!place) return;
    this.changed += 1;
    this.placeOf.delete(id);
    place.part.gone[place.doc] = 1;
    place.part.live -= 1;
  }

  private seal(): void {
    const part = this.build();
    if (part) this.take(part);
    this.fresh.clear();
    this.freshPart = null;
    for (let due = this.due(); due.length > 0; due = this.due()) this.merge(due);
  }

  private build(): Part | null {
    if (this.fresh.size === 0) return null;
    const draft = new SegmentDraft(this.forms, this.names);
    for (const document of this.fresh.values()) draft.add(document);
    return partOf(draft.finish());
  }

  private take(part: Part): void {
    if (part.live > 0) this.parts.push(part);
    part.segment.ids.forEach((id, doc) => part.gone[doc] === 0 && this.placeOf.set(id, { part, doc }));
  }

  private all(): readonly Part[] {
    this.freshPart ??= this.build();
    return this.freshPart ? [...this.parts, this.freshPart] : this.parts;
  }

  /** What should become one segment. */
  private due(): readonly Part[] {
    const worn = this.parts.find(({ live, segment }) => segment.ids.length - live > segment.ids.length * WORN);
    if (worn) return [worn];
    const tiers = new Map<number, Part[]>();
    for (const part of this.parts) {
      const tier = Math.floor(Math.log(Math.max(1, part.live / FRESH)) / Math.log(FAN));
      const tiered = tiers.get(tier);
      if (tiered) tiered.push(part);
      else tiers.set(tier, [part]);
    }
    const fits = (parts: readonly Part[]) => parts.reduce((sum, { live }) => sum + live, 0) <= MOST_DOCS;
    return (
      [...tiers.values()].map((parts) => parts.slice(0, FAN)).find((parts) => parts.length === FAN && fits(parts)) ?? []
    );
  }

  private merge(due: readonly Part[]): void {
    const segment = mergedSegments(
      due.map((part) => ({ segment: part.segment, isGone: (doc) => part.gone[doc] === 1 })),
      this.forms,
    );
    this.parts = this.parts.filter((part) => !due.includes(part));
    this.take(partOf(segment));
  }

  /**
   * Finds what is asked.
   * @param notch by its place in `NOTCHES`
   * @param among which assets may be found; null for all
   * @param how `loosely` is false where only what is spelled so is wanted: then nothing else is looked for, nor counted; with
   * `subclips` these are found beside the wholes that they are of
   */
  find(
    question: SpokenQuestion,
    notch: number,
    among: ((id: number) => boolean) | null,
    { loosely = true, subclips = false }: { readonly loosely?: boolean; readonly subclips?: boolean } = {},
  ): SpokenFound {
    const notches = NOTCHES.map(() => ({ files: 0, hits: 0 }));
    const files: SpokenFile[] = [];
    const isAmong = among ?? (() => true);
    const isShown = subclips ? isAmong : this.shown(isAmong);
    this.eachFound(question, loosely, (answer, segment, { bests, counts, doc }) => {
      if (!isShown(segment.ids[doc] as number, segment.wholes[doc] as number)) return;
      for (let at = 0; at < notches.length; at += 1) {
        const counted = notches[at] as { files: number; hits: number };
        counted.files += (counts[at] as number) > 0 ? 1 : 0;
        counted.hits += counts[at] as number;
      }
      const count = counts[notch] as number;
      if (count > 0) files.push(new FoundFile(answer, segment, doc, count, bests[notch] as number, notch));
    });
    return { notches, files };
  }

  /** The numbers of all assets, ascending, in which what is asked is found at a notch; wholes and subclips alike. */
  ids(question: SpokenQuestion, notch: number): Uint32Array {
    const ids: number[] = [];
    this.eachFound(question, true, (_answer, segment, { counts, doc }) => {
      if ((counts[notch] as number) > 0) ids.push(segment.ids[doc] as number);
    });
    return Uint32Array.from(ids).sort();
  }

  private eachFound(
    question: SpokenQuestion,
    loosely: boolean,
    found: (answer: SegmentAnswer, segment: SpokenSegment, inDoc: InDoc) => void,
  ): void {
    // First, as what is new is not in the vocabulary until then.
    const parts = this.all();
    const phones = parts.reduce((sum, { segment }) => sum + segment.sounds.length, 0);
    const few = phones <= this.fewPhones;
    const prepared = withinBounds(
      question.items.map(({ ways, without }) => ways.map((way) => prepare(way, this.forms, loosely && !without, few))),
    );
    const items = question.items.map((item, at) => ({ item, prepared: prepared[at] ?? [] }));
    for (const { gone, segment } of parts) {
      const finder = new SpokenFinder(segment, this.forms);
      const answer = new SegmentAnswer(segment, question, items, (prepared) => finder.find(prepared));
      answer.each((inDoc) => gone[inDoc.doc] === 0 && found(answer, segment, inDoc));
    }
  }

  /** A subclip is left out where its whole is found as well: what is said there is said once. */
  private shown(among: (id: number) => boolean): (id: number, wholeId: number) => boolean {
    return (id, wholeId) => among(id) && !(wholeId > 0 && among(wholeId) && this.has(wholeId));
  }

  has(id: number): boolean {
    return this.placeOf.has(id) || this.fresh.has(id);
  }

  /** All that is said by itself, of the assets that are wanted: where it is said in a whole, a subclip says nothing of its own. */
  *docs(among: ((id: number) => boolean) | null): Generator<SpokenDoc> {
    const isShown = this.shown(among ?? (() => true));
    for (const { gone, segment } of this.all())
      for (let doc = 0; doc < segment.ids.length; doc += 1) {
        const id = segment.ids[doc] as number;
        if (gone[doc] === 0 && isShown(id, segment.wholes[doc] as number)) yield { id, doc, segment };
      }
  }

  /** The words of the vocabulary, by number, and the number of the word at each place of a segment. */
  get words(): readonly string[] {
    // First, as what is new is not in the vocabulary until then.
    this.all();
    return this.vocabulary.words;
  }
  /** Whether it is, or was, said anywhere. */
  knows(word: string): boolean {
    this.all();
    return this.vocabulary.idOf(word) !== undefined;
  }

  wordAt({ forms }: SpokenSegment): (at: number) => number {
    const { wordOf } = this.forms;
    return (at) => wordOf[forms[at] as number] as number;
  }

  /** The word of each form in which words are written. */
  get wordOfForm(): Uint32Array {
    this.all();
    return this.forms.wordOf;
  }

  /** Counts up with each change to what is said. */
  get changes(): number {
    return this.changed;
  }

  speakerOf(id: number): string {
    return this.names.textOf(id);
  }

  /** The words around a hit, as they are written. */
  text({ forms }: SpokenSegment, from: number, to: number): string {
    const said: string[] = [];
    for (let at = from; at < to; at += 1) {
      const text = this.forms.textOf(forms[at] as number);
      if (text !== '') said.push(text);
    }
    return said.join(' ');
  }

  /** All that it is made of. */
  keep(): KeptSpoken {
    this.seal();
    return {
      words: [...this.vocabulary.words],
      ways: this.vocabulary.words.map((_word, id) => this.vocabulary.waysOfWord(id).map((way) => [...way])),
      forms: this.forms.all(),
      speakers: [...this.names.all()],
      parts: this.parts.map(({ gone, segment }) => ({ segment, gone: gone.slice() })),
    };
  }

  /** Takes what was kept, instead of all there is. */
  static restored({ forms, parts, speakers, ways, words }: KeptSpoken, pronouncer: Pronouncer): SpokenIndex {
    const index = new SpokenIndex(pronouncer);
    words.forEach((word, id) => index.vocabulary.put(word, ways[id]?.map((way) => Uint8Array.from(way)) ?? []));
    for (const [word, text] of forms) index.forms.add(words[word] as string, text);
    for (const name of speakers) index.names.add(name);
    for (const { gone, segment } of parts) index.take(partOf(segment, gone.slice()));
    return index;
  }
}

/** Tens of thousands of these are made at once: they are small, and work out their hits when asked. */
class FoundFile implements SpokenFile {
  readonly id: number;

  constructor(
    private readonly answer: SegmentAnswer,
    readonly segment: SpokenSegment,
    private readonly doc: number,
    readonly count: number,
    readonly best: number,
    private readonly notch: number,
  ) {
    this.id = segment.ids[doc] as number;
  }

  hits(): number[] {
    return this.answer.hits(this.doc, this.notch);
  }

  hitsByItem(): number[][] {
    return this.answer.hitsByItem(this.doc, this.notch);
  }
}

function partOf(segment: SpokenSegment, gone = new Uint8Array(segment.ids.length)): Part {
  let live = 0;
  for (const each of gone) live += each === 0 ? 1 : 0;
  return { segment, gone, live };
}
