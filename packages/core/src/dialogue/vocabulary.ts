import { LRUCache } from 'lru-cache';
import { mostCost } from './confidence';
import { GrowingNumbers } from '../search';
import { SKIPS, WHOLE_COST, type Phones } from './phones';
import type { Pronouncer } from './pronounce';
import { MOST_SOUNDS, SoundTree, type Ways } from './sound-tree';
import { NEVER } from './sounds-like';

/** All words that are said anywhere, and how; it only ever grows, so that its numbers hold. */
export class Vocabulary {
  private readonly ids = new Map<string, number>();
  private readonly texts: string[] = [];
  /** The ways to say a word, one after the other: those of word n from the nth place on. */
  private readonly waysOf = new GrowingNumbers();
  private readonly wayEnds = new GrowingNumbers();
  private readonly wayWords = new GrowingNumbers();
  private bytes = new Uint8Array(1024);
  private byteCount = 0;
  private readonly tree = new SoundTree(this.waysInOrder());
  private readonly like = new LRUCache<string, Kept>({ max: 500 });
  private readonly parts = new LRUCache<string, Kept>({ max: 200 });

  constructor(readonly pronouncer: Pronouncer) {}

  get size(): number {
    return this.texts.length;
  }

  idOf(word: string): number | undefined {
    return this.ids.get(word);
  }

  get words(): readonly string[] {
    return this.texts;
  }

  add(word: string): number {
    const known = this.ids.get(word);
    if (known !== undefined) return known;
    this.put(word, this.pronouncer.ways(word));
    return this.texts.length - 1;
  }

  /** Puts in a word with the ways to say it that were known before. */
  put(word: string, ways: readonly Phones[]): void {
    if (this.ids.has(word)) return;
    this.ids.set(word, this.texts.length);
    this.waysOf.push(this.wayWords.length);
    // What is spelled out letter by letter has hundreds of sounds, and is looked for by nobody.
    for (const way of ways) if (way.length > 0 && way.length <= MOST_SOUNDS) this.addWay(this.texts.length, way);
    this.texts.push(word);
  }

  /** All known ways to say a word, the commonest first. */
  waysOfWord(id: number): Phones[] {
    const ways: Phones[] = [];
    for (let at = this.waysOf.at(id); at < this.wayWords.length && this.wayWords.at(at) === id; at += 1)
      ways.push(this.way(at));
    return ways;
  }

  private addWay(id: number, way: Phones): void {
    while (this.byteCount + way.length > this.bytes.length) {
      const more = new Uint8Array(this.bytes.length * 2);
      more.set(this.bytes);
      this.bytes = more;
    }
    this.bytes.set(way, this.byteCount);
    this.byteCount += way.length;
    this.wayEnds.push(this.byteCount);
    this.wayWords.push(id);
  }

  private waysInOrder(): Ways {
    const count = () => this.wayWords.length;
    return {
      get length() {
        return count();
      },
      at: (place) => this.way(place),
    };
  }

  private way(at: number): Phones {
    return this.bytes.subarray(at === 0 ? 0 : this.wayEnds.at(at - 1), this.wayEnds.at(at));
  }

  /** The commonest way to say a word; empty for one that nobody knows how to say. */
  phonesOf(id: number): Phones {
    const at = this.waysOf.at(id);
    return at < this.wayWords.length && this.wayWords.at(at) === id ? this.way(at) : UNKNOWN;
  }

  /** All the sounds that are known, in which those of a word lie: without a view of its own for each, of which a search makes millions. */
  get sounds(): Phones {
    return this.bytes;
  }

  /** Where the sounds of a word begin, the commonest way to say it; and how many they are, 0 where nobody knows. */
  soundsFrom(id: number): number {
    const at = this.waysOf.at(id);
    return at === 0 ? 0 : this.wayEnds.at(at - 1);
  }
  soundCount(id: number): number {
    const at = this.waysOf.at(id);
    if (at >= this.wayWords.length || this.wayWords.at(at) !== id) return 0;
    return this.wayEnds.at(at) - (at === 0 ? 0 : this.wayEnds.at(at - 1));
  }

  /** Words that begin so. */
  beginning(prefix: string): number[] {
    return this.texts.flatMap((text, id) => (text.startsWith(prefix) ? [id] : []));
  }

  /** Words that may have been heard for one, with what that costs. Kept, and only what came since is looked at again. */
  candidates(word: string, ways: readonly Phones[]): ReadonlyMap<number, number> {
    // How it is said may have been another, or not known, when it was asked for before.
    return this.kept(this.like, `${word} ${ways.map((way) => way.join()).join(' ')}`, (from, found) => {
      for (const way of ways) {
        const most = mostCost(way.length);
        const longest = way.length + Math.floor(most / LEAST_SKIP);
        this.tree.each(way, { within: false, most: () => most, longest }, from, found);
      }
    });
  }

  /** Words that sound like some, closely enough to be heard for them in the course of others. */
  near(sought: Phones): ReadonlyMap<number, number> {
    const most = Math.round(sought.length * WHOLE_COST * PIECE_APART);
    const longest = sought.length + Math.floor(most / LEAST_SKIP);
    return this.kept(this.parts, `near ${sought.join()}`, (from, found) =>
      this.tree.each(sought, { within: false, most: () => most, longest }, from, found),
    );
  }

  /** Words that may be heard within some sounds: what a name that nobody knows is heard as, in pieces. */
  pieces(sought: Phones): ReadonlyMap<number, number> {
    const least = Math.max(LEAST_PIECE, sought.length * LEAST_SHARE);
    const most = (sounds: number) => Math.round(sounds * WHOLE_COST * PIECE_APART);
    return this.kept(this.parts, sought.join(), (from, found) =>
      this.tree.each(sought, { within: true, most, longest: sought.length + 1 }, from, (at, cost) => {
        if (this.way(at).length >= least) found(at, cost);
      }),
    );
  }

  private kept(
    cache: LRUCache<string, Kept>,
    key: string,
    look: (from: number, found: (at: number, cost: number) => void) => void,
  ): ReadonlyMap<number, number> {
    let known = cache.get(key);
    if (!known) cache.set(key, (known = { upTo: 0, costs: new Map() }));
    const { costs, upTo } = known;
    if (upTo < this.wayWords.length)
      look(upTo, (at, cost) => {
        const word = this.wayWords.at(at);
        if (cost < (costs.get(word) ?? NEVER)) costs.set(word, cost);
      });
    known.upTo = this.wayWords.length;
    return costs;
  }
}

/** What was found of the ways that there were. */
interface Kept {
  upTo: number;
  readonly costs: Map<number, number>;
}

const UNKNOWN: Phones = new Uint8Array(0);
/** A word that is heard as a piece of a name has at least so many sounds, and is that much of it. */
export const LEAST_PIECE = 3;
const LEAST_SHARE = 0.3;
/** So far from it, of a sound. */
const PIECE_APART = 0.2;

/** A sound more or less costs at least so much. */
const LEAST_SKIP = Math.min(...SKIPS);
