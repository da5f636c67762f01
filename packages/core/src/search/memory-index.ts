import { BUILT_IN, fold, isNumericType, words, type FieldId, type FieldRegistry, type FieldValue } from '../fields';
import type { FieldTest, Query, SpanTest, TextTest } from '../query';
import { intersect, NONE, subtract, unite, type Ordinals } from './postings';
import { Terms } from './terms';
import type { FacetCounts, SearchAnswer, SearchDocument, SearchIndex, SearchRequest, SortBy, SortOrder } from './types';

/** When more than half of the ordinals are of replaced documents, the index is built anew. */
const COMPACT_ABOVE = 0.5;
const CACHED_ANSWERS = 32;

interface Kept {
  readonly document: SearchDocument;
  /** Folded words of each textual field, each value between spaces: ` low water  dawn `. A phrase is then a substring. */
  readonly text: ReadonlyMap<FieldId, string>;
}

const asTexts = (value: FieldValue | undefined): readonly string[] =>
  value === undefined ? [] : typeof value === 'object' ? value : [String(value)];

/**
 * An index in memory: postings per field and word, documents in order of arrival. A changed document gets a new ordinal and
 * leaves its old one dead, so every posting list stays ascending without being searched.
 */
export class MemoryIndex implements SearchIndex {
  private kept: (Kept | null)[] = [];
  private readonly ordinals = new Map<number, number>();
  private terms = new Map<FieldId, Terms>();
  private live: Ordinals | null = null;
  private readonly ranks = new Map<FieldId, Uint32Array>();
  private readonly answers = new Map<string, Ordinals>();

  constructor(private fields: FieldRegistry = BUILT_IN) {}

  /** Other fields than before. Types are for good, so that nothing has to be read again. */
  setFields(fields: FieldRegistry): void {
    this.fields = fields;
    this.answers.clear();
  }

  get size(): number {
    return this.ordinals.size;
  }

  upsert(documents: readonly SearchDocument[]): void {
    for (const document of documents) {
      this.bury(document.id);
      this.insert(this.keep(document));
    }
    this.changed();
  }

  remove(ids: readonly number[]): void {
    for (const id of ids) this.bury(id);
    this.changed();
  }

  search({ tree, sort, offset, limit }: SearchRequest): SearchAnswer {
    const key = JSON.stringify([tree, sort]);
    let hits = this.answers.get(key);
    if (!hits) {
      hits = this.sorted(this.find(tree), sort);
      this.answers.set(key, hits);
      if (this.answers.size > CACHED_ANSWERS) this.answers.delete(this.answers.keys().next().value as string);
    }
    return {
      total: hits.length,
      ids: Array.from(hits.subarray(offset, offset + limit), (ordinal) => (this.kept[ordinal] as Kept).document.id),
    };
  }

  count(tree: Query): number {
    return this.find(tree).length;
  }

  facet(tree: Query, field: FieldId, limit: number): FacetCounts {
    const counts = new Map<string, number>();
    for (const ordinal of this.find(tree))
      for (const value of asTexts(this.kept[ordinal]?.document.values[field]))
        counts.set(value, (counts.get(value) ?? 0) + 1);
    return [...counts]
      .map(([value, count]) => ({ value, count }))
      .sort((a, b) => b.count - a.count || (a.value < b.value ? -1 : 1))
      .slice(0, limit);
  }

  private insert(kept: Kept): void {
    const ordinal = this.kept.length;
    this.kept.push(kept);
    this.ordinals.set(kept.document.id, ordinal);
    for (const [field, text] of kept.text) {
      const terms = this.termsOf(field);
      for (const word of text.split(' ')) if (word) terms.add(word, ordinal);
    }
  }

  private keep(document: SearchDocument): Kept {
    const text = new Map<FieldId, string>();
    for (const [id, value] of Object.entries(document.values) as [FieldId, FieldValue][]) {
      if (this.isNumeric(id)) continue;
      const folded = asTexts(value)
        .map((part) => words(part).join(' '))
        .filter(Boolean);
      if (folded.length > 0) text.set(id, ` ${folded.join('  ')} `);
    }
    return { document, text };
  }

  private isNumeric(id: FieldId): boolean {
    const field = this.fields.byId(id);
    return field !== undefined && isNumericType(field.type);
  }

  private bury(id: number): void {
    const ordinal = this.ordinals.get(id);
    if (ordinal === undefined) return;
    this.kept[ordinal] = null;
    this.ordinals.delete(id);
  }

  private changed(): void {
    if (this.kept.length > 1024 && this.ordinals.size < this.kept.length * COMPACT_ABOVE) this.compact();
    this.live = null;
    this.ranks.clear();
    this.answers.clear();
  }

  private compact(): void {
    const survivors = this.kept.filter((kept) => kept !== null);
    this.kept = [];
    this.terms = new Map();
    for (const kept of survivors) this.insert(kept);
  }

  private termsOf(field: FieldId): Terms {
    let terms = this.terms.get(field);
    if (!terms) this.terms.set(field, (terms = new Terms()));
    return terms;
  }

  private everything(): Ordinals {
    return (this.live ??= Uint32Array.from(this.ordinals.values()).sort());
  }

  /** The live ordinals that answer a query, ascending. */
  private find(tree: Query): Ordinals {
    return intersect(this.match(tree), this.everything());
  }

  private match(tree: Query): Ordinals {
    switch (tree.kind) {
      case 'all': {
        // The rarest first, so that what follows works on little.
        const [first, ...rest] = tree.of.map((part) => this.match(part)).sort((a, b) => a.length - b.length);
        return first ? rest.reduce(intersect, first) : this.everything();
      }
      case 'any':
        return unite(
          tree.of.map((part) => this.match(part)),
          this.kept.length,
        );
      case 'not':
        return subtract(this.everything(), this.match(tree.of), this.kept.length);
      case 'words':
        return unite(
          this.fields.plain.map((field) => this.matchText(field, tree.test)),
          this.kept.length,
        );
      case 'field':
        return this.matchField(tree.field, tree.test);
      default:
        return tree satisfies never;
    }
  }

  private matchField(field: FieldId, test: FieldTest): Ordinals {
    switch (test.op) {
      case 'text':
        return this.matchText(field, test);
      case 'span':
        return this.matchSpan(field, test);
      case 'presence':
        return this.filter(
          this.everything(),
          ({ document, text }) =>
            (this.isNumeric(field) ? document.values[field] !== undefined : text.has(field)) === test.present,
        );
      default:
        return test satisfies never;
    }
  }

  private matchText(field: FieldId, { text, prefix }: TextTest): Ordinals {
    const terms = this.terms.get(field);
    const parts = text.split(' ');
    if (!terms) return NONE;
    const sets = parts.map((part, index) =>
      prefix && index === parts.length - 1 ? terms.startingWith(part, this.kept.length) : (terms.exact(part) ?? NONE),
    );
    const candidates = sets.sort((a, b) => a.length - b.length).reduce(intersect);
    // One of a list is meant as a whole: `medium` is not `medium wide`.
    if (this.fields.byId(field)?.choices && !prefix)
      return this.filter(candidates, (kept) => ` ${kept.text.get(field) ?? ''} `.includes(`  ${text}  `));
    if (parts.length === 1) return candidates;
    const wanted = prefix ? ` ${text}` : ` ${text} `;
    return this.filter(candidates, (kept) => kept.text.get(field)?.includes(wanted) ?? false);
  }

  private matchSpan(field: FieldId, { from, to }: SpanTest): Ordinals {
    return this.filter(this.everything(), ({ document }) => {
      const value = document.values[field];
      return typeof value === 'number' && (from === null || value >= from) && (to === null || value < to);
    });
  }

  private filter(from: Ordinals, passes: (kept: Kept) => boolean): Ordinals {
    return from.filter((ordinal) => {
      const kept = this.kept[ordinal];
      return kept != null && passes(kept);
    });
  }

  private sorted(hits: Ordinals, { then = [], ...first }: SortOrder): Ordinals {
    const idOf = (ordinal: number) => (this.kept[ordinal] as Kept).document.id;
    const keys = [first, ...then].map((by) => this.keyBy(by));
    return hits.slice().sort((a, b) => {
      for (const key of keys) {
        const apart = key(a) - key(b);
        if (apart !== 0) return apart;
      }
      return idOf(a) - idOf(b);
    });
  }

  /** Assets that say nothing in the field come last in either direction. */
  private keyBy({ field, descending }: SortBy): (ordinal: number) => number {
    const rank = this.ranksOf(field);
    const absent = rank.length;
    return (ordinal) => {
      const place = rank[ordinal] as number;
      return descending && place !== absent ? -place : place;
    };
  }

  /** For each ordinal the place of its value among all values of the field; equal values share a place, absent ones have the last. */
  private ranksOf(field: FieldId): Uint32Array {
    const known = this.ranks.get(field);
    if (known) return known;
    const numeric = this.isNumeric(field);
    const keyed: { ordinal: number; key: string | number }[] = [];
    const ranks = new Uint32Array(this.kept.length).fill(this.kept.length);
    for (const ordinal of this.everything()) {
      const value = (this.kept[ordinal] as Kept).document.values[field];
      if (value === undefined || value === '' || (typeof value === 'object' && value.length === 0)) continue;
      keyed.push({ ordinal, key: numeric ? Number(value) : sortKey(asTexts(value).join(' ')) });
    }
    keyed.sort((a, b) => (a.key < b.key ? -1 : a.key > b.key ? 1 : 0));
    keyed.forEach(({ ordinal, key }, index) => {
      const before = keyed[index - 1];
      ranks[ordinal] = before && before.key === key ? (ranks[before.ordinal] as number) : index;
    });
    this.ranks.set(field, ranks);
    return ranks;
  }
}

/** Folded, with runs of digits padded so that `A2` comes before `A10`. */
export const sortKey = (text: string): string => fold(text).replace(/\d+/g, (digits) => digits.padStart(12, '0'));
