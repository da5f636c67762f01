import { LRUCache } from 'lru-cache';
import { firstNot, firstNotNear } from '../search';
import {
  confidenceOf,
  confidenceOfHeard,
  type Evidence,
  LEAST_CONFIDENCE,
  leastHeard,
  mostCost,
  type HeardEvidence,
} from './confidence';
import type { Forms } from './forms';
import type { HeardStretch } from './phone-channel';
import { LEAST_SOUGHT, MARGIN, PhoneSearch } from './phone-search';
import { stretcher } from './phone-stretch';
import { type Phones, WHOLE_COST } from './phones';
import type { SpokenWay } from './question';
import { MOST_SOUNDS } from './sound-tree';
import { Beside, bestWithin } from './sounds-like';
import { LEAST_PIECE, type Vocabulary } from './vocabulary';
import { HitDraft, packHit, type SpokenHits } from './spoken-hits';
import { lastAtMost, placesOf, shareOf, type SpokenSegment } from './spoken-segment';

/** A word that is looked for, with all that may have been heard for it. */
interface Sought {
  /** Its number, or those of all that begin so; empty where nobody says it. */
  readonly exact: ReadonlySet<number>;
  readonly phones: number;
  /** What it costs to have heard other words for it. */
  readonly costs: ReadonlyMap<number, number>;
}

/** A word that may be heard in the course of what is looked for, and how many sounds of that lie before and after it at most. */
interface Piece {
  readonly word: number;
  readonly before: number;
  readonly after: number;
  /** What it costs to have heard it, and the sounds that lie right beside it; not known of a name, of which it may be any piece. */
  readonly around: Around | null;
}

interface Around {
  readonly cost: number;
  readonly before: Beside;
  readonly after: Beside;
}

/** What is looked for, made ready once for all segments. */
export interface PreparedWay {
  readonly sought: readonly Sought[];
  /** Also what is not spelled so. */
  readonly loosely: boolean;
  /** How it sounds, where it is looked for across words too; a name in each way to say it. */
  readonly across: readonly Across[];
}

/**
 * The sounds of what is looked for, and the words that may be heard in the course of it, those that fit best first. A name is looked for
 * among the phones that were heard too, wherever these are known.
 */
interface Across {
  readonly sounds: Phones;
  /** Made when they are first wanted, as that takes as long as all else where there are few files. */
  readonly pieces: () => readonly Piece[];
  /** How many words: one is a name. */
  readonly words: number;
  readonly search: PhoneSearch | null;
}

/** In a library of 30,000 files each takes a fifth of a second, while other questions wait: further ones are only looked for across words. */
const MOST_SEARCHES = 8;

/** All that is asked for together, with no more searches among phones than there may be. */
export function withinBounds(items: readonly (readonly PreparedWay[])[]): PreparedWay[][] {
  let left = MOST_SEARCHES;
  const bounded = (across: Across): Across => {
    if (across.search) left -= 1;
    return left < 0 ? { ...across, search: null } : across;
  };
  return items.map((ways) => ways.map((way) => ({ ...way, across: way.across.map(bounded) })));
}

/**
 * @param loosely also what sounds like it, not only what is spelled so
 * @param few so few phones were heard in all that rows of known words can be looked for among them too
 */
export function prepare(
  { words, begun }: SpokenWay,
  { vocabulary }: Forms,
  loosely: boolean,
  few: boolean,
): PreparedWay {
  const ways = words.map((word) => vocabulary.pronouncer.ways(word));
  const sought = words.map((word, at): Sought => {
    if (begun && at === words.length - 1) {
      const exact = new Set(vocabulary.beginning(word));
      return { exact, phones: 0, costs: new Map([...exact].map((id) => [id, 0])) };
    }
    const id = vocabulary.idOf(word);
    const exact = new Set(id === undefined ? [] : [id]);
    const costs = new Map(loosely ? vocabulary.candidates(word, ways[at] ?? []) : []);
    if (id !== undefined) costs.set(id, 0);
    return { exact, phones: ways[at]?.[0]?.length ?? 0, costs };
  });
  // A single word that a recogniser can hear is among its words, or what else they may have been; that is quicker, and surer.
  const hasName = words.some((word) => !vocabulary.pronouncer.isHeard(word));
  const isAcross = loosely && !begun && (words.length > 1 || hasName);
  return { sought, loosely, across: isAcross ? acrossOf(ways, vocabulary, hasName || few) : [] };
}

function acrossOf(ways: readonly (readonly Phones[])[], vocabulary: Vocabulary, amongPhones: boolean): Across[] {
  const [only = []] = ways;
  if (ways.length === 1)
    return only
      .filter(({ length }) => length >= LEAST_SOUGHT)
      .map((sounds) => {
        const pieces = once(() => likePieces(sounds, vocabulary));
        return { sounds, pieces, words: 1, search: new PhoneSearch(sounds) };
      });
  const firsts = ways.flatMap(([first]) => (first ? [first] : []));
  const sounds = Uint8Array.from(firsts.flatMap((first) => [...first]));
  // Of a row in which nobody knows how one word is said, nothing is known across words.
  if (firsts.length < ways.length || sounds.length < LEAST_SOUGHT || sounds.length > MOST_SOUNDS) return [];
  const pieces = once(() => heardPieces(firsts, vocabulary));
  return [{ sounds, pieces, words: ways.length, search: amongPhones ? new PhoneSearch(sounds) : null }];
}

function once<T>(make: () => T): () => T {
  let made: { readonly value: T } | null = null;
  return () => (made ??= { value: make() }).value;
}

/** Of words in a row each by itself, as at least one of them is mostly heard; the longest first, which are said least. */
function heardPieces(ways: readonly Phones[], vocabulary: Vocabulary): Piece[] {
  const soundsIn = (some: readonly Phones[]) => Uint8Array.from(some.flatMap((way) => [...way]));
  return ways
    .map((way, at) => ({ way, before: soundsIn(ways.slice(0, at)), after: soundsIn(ways.slice(at + 1)) }))
    .filter(({ way }) => way.length >= LEAST_PIECE)
    .sort((a, b) => b.way.length - a.way.length)
    .flatMap(({ after, before, way }) => {
      const beside = { before: new Beside(before.slice().reverse()), after: new Beside(after) };
      return [...vocabulary.near(way)]
        .sort(([, a], [, b]) => a - b)
        .map(([word, cost]) => ({
          ...{ word, before: before.length, after: after.length },
          around: { cost, ...beside },
        }));
    });
}

/** Words that may be heard in the course of a name, those that fit best first. */
const likePieces = (sounds: Phones, vocabulary: Vocabulary): Piece[] =>
  [...vocabulary.pieces(sounds)]
    .map(([word, cost]) => ({ word, phones: vocabulary.phonesOf(word).length, cost }))
    .sort((a, b) => a.cost / a.phones - b.cost / b.phones || a.word - b.word)
    .map(({ phones, word }) => {
      const rest = Math.max(0, sounds.length - phones);
      return { word, before: rest, after: rest, around: null };
    });

/** Finds what is looked for in one segment. */
export class SpokenFinder {
  private readonly wordOf: Uint32Array;

  constructor(
    private readonly segment: SpokenSegment,
    private readonly forms: Forms,
  ) {
    this.wordOf = forms.wordOf;
  }

  /** Where something is said, in any of its ways. */
  find(ways: readonly PreparedWay[]): SpokenHits {
    const draft = new HitDraft();
    for (const way of ways) {
      if (way.sought.length === 1) this.findWord(way.sought[0] as Sought, way.loosely, draft);
      else this.findRow(way.sought, way.loosely, draft);
      for (const across of way.across) {
        this.findAcross(across, draft);
        if (across.search) for (const hit of this.heard(across.search, across)) draft.push(hit);
      }
    }
    return draft.finish();
  }

  private findWord({ costs, exact, phones }: Sought, loosely: boolean, draft: HitDraft): void {
    for (const [word, cost] of costs) {
      const places = placesOf(this.segment, word);
      if (places.length === 0) continue;
      const isExact = exact.has(word);
      const thoughtOf = confidencesOf({ cost, phones, spelled: false });
      const heard = isExact
        ? confidencesOf({ cost, phones, spelled: true })
        : confidencesOf({ cost, phones, spelled: false, isOther: cost === 0 });
      for (let n = 0; n < places.length; n += 1) {
        const at = places[n] as number;
        const isHeard = this.wordAt(at) === word;
        const spelled = isExact && isHeard;
        if (!spelled && !loosely) continue;
        const confidence = (isHeard ? heard : thoughtOf)[this.sureAt(at, word)] as number;
        if (spelled || confidence >= LEAST_CONFIDENCE) draft.push(packHit(at, 1, spelled, confidence));
      }
    }
  }

  private wordAt(at: number): number {
    return this.wordOf[this.segment.forms[at] as number] as number;
  }

  /** How sure it is that this very word is said there. */
  private sureAt(at: number, word: number): number {
    const { others, otherStarts, otherSure, sure } = this.segment;
    if (this.wordAt(at) === word) return sure[at] as number;
    for (let other = otherStarts[at] as number; other < (otherStarts[at + 1] as number); other += 1)
      if (others[other] === word) return otherSure[other] as number;
    return 0;
  }

  /** Words in a row: those places of the rarest where the others stand around it. */
  private findRow(sought: readonly Sought[], loosely: boolean, draft: HitDraft): void {
    const { starts } = this.segment;
    const counts = sought.map(({ costs }) => this.countOf(costs));
    const anchor = counts.indexOf(Math.min(...counts));
    const row = new Row(sought);
    for (const word of (sought[anchor] as Sought).costs.keys())
      for (const place of placesOf(this.segment, word)) {
        const from = place - anchor;
        if (from < 0 || from + sought.length > this.segment.forms.length) continue;
        row.begin();
        if (!sought.every((each, n) => this.hear(row, n, from + n, each, n === anchor ? word : null))) continue;
        const doc = lastAtMost(starts, from);
        if (from + sought.length > (starts[doc + 1] as number)) continue;
        if (!row.spelled && !loosely) continue;
        const confidence = row.confidence;
        if (row.spelled || confidence >= LEAST_CONFIDENCE)
          draft.push(packHit(from, sought.length, row.spelled, confidence));
      }
  }

  private countOf(costs: ReadonlyMap<number, number>): number {
    let count = 0;
    for (const word of costs.keys()) count += placesOf(this.segment, word).length;
    return count;
  }

  /** Takes the word of a row that fits best of those that may be said at a place; false if none does. */
  private hear(row: Row, n: number, at: number, { costs, exact }: Sought, only: number | null): boolean {
    const { others, otherStarts, otherSure, sure } = this.segment;
    const heard = this.wordAt(at);
    const cost = only === null || only === heard ? costs.get(heard) : undefined;
    if (cost !== undefined) row.take(n, cost, sure[at] as number, exact.has(heard));
    for (let other = otherStarts[at] as number; other < (otherStarts[at + 1] as number); other += 1) {
      const word = others[other] as number;
      const otherCost = only === null || only === word ? costs.get(word) : undefined;
      if (otherCost !== undefined) row.take(n, otherCost, otherSure[other] as number, false);
    }
    return row.has(n);
  }

  /**
   * Sounds across words: a name that no dictionary has is heard as several words that sound like it together. Around each word that may
   * be a piece of it, it is looked for where it fits best.
   */
  private findAcross({ pieces, search, sounds, words }: Across, draft: HitDraft): void {
    // Phones that were heard tell more, and there it is looked for among all of them.
    const byPhones = search !== null;
    if (byPhones && this.allHaveSounds()) return;
    const stretch = new Stretch(sounds.length, words > 1 ? 'row' : 'name');
    let left = Math.max(LEAST_PLACES, Math.floor(this.segment.forms.length / WORDS_A_PLACE));
    for (const piece of pieces()) {
      const places = placesOf(this.segment, piece.word);
      // Of what is said so often the rest would take too long; rarer pieces of the same name tell more.
      if (places.length > left) continue;
      left -= places.length;
      for (let n = 0; n < places.length; n += 1) {
        const at = places[n] as number;
        // Only where it is what was heard: with all that it may have been as well, too much fits something.
        if (this.wordAt(at) !== piece.word) continue;
        const doc = lastAtMost(this.segment.starts, at);
        if (this.hasSounds(doc)) {
          if (byPhones) continue;
          if (words > 1) {
            const hit = this.heardHit(this.stretchAround(at, doc, piece, sounds), doc, words);
            if (hit !== null) draft.push(hit);
            continue;
          }
        }
        if (piece.around && !this.mayBe(at, piece.around, stretch.most)) continue;
        this.fill(stretch, doc, at, piece);
        const found = stretch.find(sounds);
        if (found) draft.push(packHit(found.from, found.to - found.from, false, found.confidence));
      }
    }
  }

  /** The phones around a word that a row was most likely said in, so far as it can reach. */
  private stretchAround(at: number, doc: number, { after, before }: Piece, sounds: Phones): HeardStretch {
    const { soundStarts, sounds: heard, starts } = this.segment;
    const first = soundStarts[starts[doc] as number] as number;
    const end = soundStarts[starts[doc + 1] as number] as number;
    const from = Math.max(first, (soundStarts[at] as number) - reachOf(before) - MARGIN);
    const to = Math.min(end, (soundStarts[at + 1] as number) + reachOf(after) + MARGIN);
    return stretcher()(sounds, heard, from, to, from === first);
  }

  /**
   * Whether what is looked for may be around a place. That is worked out from there on with the word as it was found, which its sounds
   * beside it leave a little open; most places are ruled out after a few sounds.
   */
  private mayBe(at: number, { after, before, cost }: Around, most: number): boolean {
    const left = most + LEFT_OPEN - cost;
    return this.besides(before, at, -1, left) && this.besides(after, at, 1, left - before.cost);
  }

  /** Whether some sounds may be said beside a place for that much. Where a file ends is not asked: what is beyond only costs less. */
  private besides(beside: Beside, at: number, step: 1 | -1, cap: number): boolean {
    const { forms } = this.segment;
    const { vocabulary } = this.forms;
    const { sounds } = vocabulary;
    beside.begin(cap);
    for (let n = 1, place = at + step; n < MOST_AROUND && place >= 0 && place < forms.length; n += 1, place += step) {
      const word = this.wordAt(place);
      const first = vocabulary.soundsFrom(word);
      const end = first + vocabulary.soundCount(word);
      if (!(step > 0 ? beside.add(sounds, first, end, 1) : beside.add(sounds, end - 1, first - 1, -1))) break;
    }
    return beside.cost <= cap;
  }

  private allHaveSounds(): boolean {
    for (let doc = 0; doc < this.segment.ids.length; doc += 1) if (!this.hasSounds(doc)) return false;
    return true;
  }

  private hasSounds(doc: number): boolean {
    const { soundStarts, starts } = this.segment;
    return soundStarts[starts[doc] as number] !== soundStarts[starts[doc + 1] as number];
  }

  /**
   * A name among the phones that were heard, whatever words they make. What was found is kept, as the same is asked for again with each
   * other order or criterion, and the phones of a large library take up to a second.
   */
  private heard(search: PhoneSearch, { sounds, words }: Across): readonly number[] {
    let kept = keptHeard.get(this.segment);
    if (!kept) keptHeard.set(this.segment, (kept = new LRUCache({ max: MOST_KEPT })));
    const key = `${words} ${sounds.join()}`;
    let hits = kept.get(key);
    if (!hits) kept.set(key, (hits = this.findHeard(search, words)));
    return hits;
  }

  private findHeard(search: PhoneSearch, sought: number): number[] {
    const hits: number[] = [];
    const { soundStarts, starts } = this.segment;
    const endOf = (doc: number) => soundStarts[starts[doc + 1] as number] as number;
    search.each(this.segment.sounds, endOf, (stretch, doc) => {
      const hit = this.heardHit(stretch, doc, sought);
      if (hit !== null) hits.push(hit);
    });
    return hits;
  }

  /** The words that a stretch of phones was taken for, if they may be what is looked for. */
  private heardHit(stretch: HeardStretch, doc: number, sought: number): number | null {
    if (stretch.to <= stretch.from || stretch.odds < leastHeard(sought)) return null;
    const { first, ...evidence } = this.evidenceOf(stretch, doc, sought);
    const confidence = confidenceOfHeard(evidence);
    return confidence < LEAST_CONFIDENCE ? null : packHit(first, evidence.words, false, confidence);
  }

  /** What speaks for it that a stretch of phones is what was said, and the word that it begins in. */
  private evidenceOf(
    { from, odds, to }: HeardStretch,
    doc: number,
    sought: number,
  ): HeardEvidence & { readonly first: number } {
    const { soundStarts, starts, sure } = this.segment;
    const end = starts[doc + 1] as number;
    const first = wordWith(soundStarts, from, starts[doc] as number, end);
    let next = first;
    let sures = 0;
    for (; next < end && (soundStarts[next] as number) < to; next += 1) {
      const [start, stop] = [soundStarts[next] as number, soundStarts[next + 1] as number];
      sures += (sure[next] as number) * (Math.min(stop, to) - Math.max(start, from));
    }
    const [begins, ends] = [soundStarts[first] === from, soundStarts[next] === to];
    return { first, odds, sought, sure: shareOf(sures / (to - from)), words: next - first, begins, ends };
  }

  /** The words around a place, so far as what is looked for can reach; at the place itself, this word. */
  private fill(stretch: Stretch, doc: number, at: number, { after, before, word }: Piece): void {
    const { starts, sure } = this.segment;
    const [first, end] = [starts[doc] as number, starts[doc + 1] as number];
    const { vocabulary } = this.forms;
    let from = at;
    // Of some words no sound is known.
    for (let sounds = 0; from > first && at - from < MOST_AROUND && sounds < reachOf(before);) {
      from -= 1;
      sounds += vocabulary.phonesOf(this.wordAt(from)).length;
    }
    stretch.begin();
    const last = Math.min(end, at + MOST_AROUND);
    for (let to = from, sounds = 0; to < last && (to <= at || sounds < reachOf(after)); to += 1) {
      const phones = vocabulary.phonesOf(to === at ? word : this.wordAt(to));
      if (!stretch.add(to, phones, sure[to] as number)) return;
      if (to > at) sounds += phones.length;
    }
  }
}

/** So many sounds are looked at for so many that are expected: some that are heard may be too many. */
const reachOf = (sounds: number): number => (sounds === 0 ? 0 : Math.ceil(sounds * MOST_HEARD));
const MOST_HEARD = 1.3;
const MOST_AROUND = 40;

/** So many places are looked around at least, and one in so many words. */
const LEAST_PLACES = 500;
const WORDS_A_PLACE = 1000;

/** By how sure the recogniser is of a word, how likely it is that it was said: the same for all that cost as much. */
const confidences = new Map<number, Uint8Array>();
function confidencesOf(evidence: Omit<Evidence, 'sure'>): Uint8Array {
  const { cost, isOther, phones, spelled } = evidence;
  const key = (cost * 256 + Math.min(phones, 255)) * 4 + (spelled ? 2 : 0) + (isOther ? 1 : 0);
  let known = confidences.get(key);
  if (!known) {
    known = Uint8Array.from({ length: 256 }, (_unused, sure) => confidenceOf({ ...evidence, sure: shareOf(sure) }));
    confidences.set(key, known);
  }
  return known;
}

/** Words in a row as they are heard at a place. */
class Row {
  private readonly costs: Uint16Array;
  private readonly sures: Uint8Array;
  private readonly spells: Uint8Array;
  private readonly worths: Float64Array;
  private readonly phones: number;

  constructor(private readonly sought: readonly Sought[]) {
    this.costs = new Uint16Array(sought.length);
    this.sures = new Uint8Array(sought.length);
    this.spells = new Uint8Array(sought.length);
    this.worths = new Float64Array(sought.length);
    this.phones = sought.reduce((sum, { phones }) => sum + phones, 0);
  }

  begin(): void {
    this.worths.fill(-1);
  }

  has(n: number): boolean {
    return (this.worths[n] as number) >= 0;
  }

  take(n: number, cost: number, sure: number, spelled: boolean): void {
    const phones = (this.sought[n] as Sought).phones;
    // What is spelled as was asked is taken, however sure the recogniser is of something else.
    const worth = (spelled ? 1 : 0) + shareOf(sure) * (1 - cost / Math.max(cost + 1, phones * WHOLE_COST));
    if (worth <= (this.worths[n] as number)) return;
    this.worths[n] = worth;
    this.costs[n] = cost;
    this.sures[n] = sure;
    this.spells[n] = spelled ? 1 : 0;
  }

  get spelled(): boolean {
    return this.spells.every((spelled) => spelled === 1);
  }

  get confidence(): number {
    const { costs, phones, sures } = this;
    let [cost, sure] = [0, 0];
    for (let n = 0; n < costs.length; n += 1) {
      cost += costs[n] as number;
      sure += sures[n] as number;
    }
    return confidenceOf({ cost, phones, spelled: this.spelled, isRow: true, sure: shareOf(sure / costs.length) });
  }
}

/** So much less than with its word as that was found it may cost to have heard a row: sounds at its edges may be of the words beside it. */
const LEFT_OPEN = 30;

/** What it costs to begin or end in the middle of a word. */
const WITHIN_WORD = 40;

/** The sounds of some words in a row, and which word each is of. */
class Stretch {
  private readonly sounds = new Uint8Array(256);
  private readonly words = new Uint32Array(256);
  private readonly sures = new Uint8Array(256);
  private readonly edges = new Uint8Array(257);
  private length = 0;
  readonly most: number;

  constructor(
    phones: number,
    private readonly kind: 'row' | 'name',
  ) {
    this.most = Math.min(mostCost(phones, kind), Math.floor(phones * WHOLE_COST * MOST_APART));
  }

  begin(): void {
    this.length = 0;
    this.edges[0] = 0;
  }

  /** False if there is no room for more. */
  add(word: number, phones: Phones, sure: number): boolean {
    if (this.length + phones.length > this.sounds.length) return false;
    for (let n = 0; n < phones.length; n += 1) {
      this.sounds[this.length] = phones[n] as number;
      this.words[this.length] = word;
      this.sures[this.length] = sure;
      this.length += 1;
      this.edges[this.length] = n === phones.length - 1 ? 0 : WITHIN_WORD;
    }
    return true;
  }

  find(sought: Phones): { readonly from: number; readonly to: number; readonly confidence: number } | null {
    const text = this.sounds.subarray(0, this.length);
    const best = bestWithin(sought, text, this.edges, this.edges, this.most);
    if (!best || best.to <= best.from) return null;
    let sures = 0;
    for (let at = best.from; at < best.to; at += 1) sures += this.sures[at] as number;
    const sure = Math.min(MOST_SURE, shareOf(sures / (best.to - best.from)));
    const confidence = confidenceOf({
      cost: best.cost,
      phones: sought.length,
      spelled: false,
      sure,
      across: this.kind,
    });
    if (confidence < LEAST_CONFIDENCE) return null;
    return { from: this.words[best.from] as number, to: (this.words[best.to - 1] as number) + 1, confidence };
  }
}

/** The word that a sound was heard in, among some: about as far among them as the sound is among theirs. */
function wordWith(soundStarts: Uint32Array, sound: number, first: number, end: number): number {
  const [begins, ends] = [soundStarts[first] as number, soundStarts[end] as number];
  const isBefore = (at: number): boolean => (soundStarts[at + 1] as number) <= sound;
  const guess = first + Math.floor(((sound - begins) / (ends - begins)) * (end - first));
  if (isBefore(guess)) return firstNotNear(isBefore, guess + 1, end);
  let low = guess;
  for (let step = 1; low > first && (soundStarts[low] as number) > sound; step *= 2) low = Math.max(first, low - step);
  return firstNot(isBefore, low, guess);
}

/** Names that were looked for lately, in each segment. */
const keptHeard = new WeakMap<SpokenSegment, LRUCache<string, readonly number[]>>();
const MOST_KEPT = 12;

/** How far from it, of a sound, something across words may be. */
const MOST_APART = 0.3;
const MOST_SURE = 0.99;
