import {
  BUILT_IN,
  isNumericType,
  type FieldId,
  type FieldRegistry,
  type FieldValue,
  type RegisteredField,
} from '@larder/core/fields';
import { boxAround, clustersOf, readPosition, within, type Position } from '@larder/core/position';
import {
  answersTest,
  choiceIn,
  offeredIn,
  queryAt,
  spanAt,
  wordedText,
  type FieldTest,
  type NearTest,
  type Query,
  type SpanTest,
  askedOf,
  type TextTest,
  type WholeTest,
  type WordsTest,
} from '@larder/core/query';
import { GroupColumn } from './group-column';
import { byGroup, DAY_MS, groupsOf, type Group, type GroupKey } from '../../src/search/grouping';
import { intersect, NONE, subtract, unite, type Ordinals } from './postings';
import { valueKey } from '../../src/search/sort-key';
import { Terms } from './terms';
import {
  RELEVANCE,
  type DaysAnswer,
  type Facet,
  type FacetCounts,
  type FacetsRequest,
  type MapAnswer,
  type MapRequest,
  type SearchAnswer,
  type SearchDocument,
  type SearchIndex,
  type SearchRequest,
  type SortBy,
  type SortOrder,
} from '@larder/core/search';

/** When more than half of the ordinals are of replaced documents, the index is built anew. */
const COMPACT_ABOVE = 0.5;
const CACHED_ANSWERS = 32;

interface Kept {
  readonly document: SearchDocument;
  /** Folded words of each textual field, each value between spaces: ` low water  dawn `. A phrase is then a substring. */
  readonly text: ReadonlyMap<FieldId, string>;
  /** Read once: a search for what is near tries every one. */
  readonly position: Position | null;
}

/** A list as it was asked for last, so that scrolling through it does not order it again. */
interface Listed {
  /** Ordinals by their places. */
  readonly places: Ordinals;
  readonly assets: number;
  readonly groups: readonly Group[] | null;
}

/** Names of places that a spot on the map is called by. */
const PLACES_NAMED = 3;

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
  private readonly columns = new Map<FieldId, GroupColumn>();
  private readonly ranks = new Map<FieldId, Uint32Array>();
  private readonly answers = new Map<string, Listed>();

  /** @param now the clock by which `today` is meant, in milliseconds since 1970 */
  constructor(
    private fields: FieldRegistry = BUILT_IN,
    private readonly now: () => number = Date.now,
  ) {}

  /** Other fields than before. Types are for good, so that nothing has to be read again. */
  setFields(fields: FieldRegistry): void {
    this.fields = fields;
    this.columns.clear();
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

  search({ tree: asked, sort, by, order, offset, limit }: SearchRequest): SearchAnswer {
    // As it is meant now: what was listed yesterday as of today is another list.
    const tree = queryAt(asked, this.now());
    const key = JSON.stringify([tree, sort, by, order]);
    let listed = this.answers.get(key);
    if (!listed) {
      const hits = this.sorted(this.find(tree), sort, order);
      listed = by === undefined ? { places: hits, assets: hits.length, groups: null } : this.grouped(hits, by);
      this.answers.set(key, listed);
      if (this.answers.size > CACHED_ANSWERS) this.answers.delete(this.answers.keys().next().value as string);
    }
    const { places, assets, groups } = listed;
    return {
      total: places.length,
      assets,
      groups,
      ids: Array.from(places.subarray(offset, offset + limit), (ordinal) => this.documentAt(ordinal).id),
    };
  }

  count(tree: Query): number {
    return this.find(tree).length;
  }

  documents(): SearchDocument[] {
    return this.kept.flatMap((kept) => (kept ? [kept.document] : []));
  }

  counts(trees: readonly Query[]): number[] {
    return trees.map((tree) => this.count(tree));
  }

  facet(tree: Query, field: FieldId, limit: number): FacetCounts {
    const key = (value: string) =>
      this.isNumeric(field) ? Number(value) : valueKey(value, this.fields.byId(field)?.type);
    const before = (a: string, b: string) => key(a) < key(b) || (key(a) === key(b) && a < b);
    const counts = new Map<string, number>();
    for (const ordinal of this.find(tree))
      for (const value of asTexts(this.kept[ordinal]?.document.values[field]))
        counts.set(value, (counts.get(value) ?? 0) + 1);
    return [...counts]
      .map(([value, count]) => ({ value, count }))
      .sort((a, b) => b.count - a.count || (before(a.value, b.value) ? -1 : 1))
      .slice(0, limit);
  }

  facets({ tree: asked, fields, limit }: FacetsRequest): Facet[] {
    const tree = queryAt(asked, this.now());
    const found = new Map<string, Ordinals>();
    return fields.flatMap((id) => {
      const field = this.fields.byId(id);
      if (!field) return [];
      const offered = offeredIn(tree, id);
      const key = JSON.stringify(offered);
      const hits = found.get(key) ?? this.find(offered);
      found.set(key, hits);
      const column = this.columnOf(field);
      const { chosen, refused } = choiceIn(tree, id);
      return [{ field: id, ...column.offered(column.count(hits), limit, [...chosen, ...refused]) }];
    });
  }

  private columnOf(field: RegisteredField): GroupColumn {
    let column = this.columns.get(field.id);
    if (!column) this.columns.set(field.id, (column = new GroupColumn(field)));
    column.extend(this.kept.length, (ordinal) => this.kept[ordinal]?.document.values[field.id]);
    return column;
  }

  map({ tree, box, columns }: MapRequest): MapAnswer {
    const hits = this.find(tree);
    const positions = Array.from(hits, (ordinal) => this.kept[ordinal]?.position ?? null);
    const around = boxAround(positions);
    const shown = box ?? around;
    const clusters = shown ? clustersOf(positions, shown, columns) : [];
    const at = (index: number): SearchDocument => this.documentAt(hits[index] as number);
    return {
      clusters: clusters.map(({ of, ...cluster }) => ({
        ...cluster,
        id: at(of[0] as number).id,
        places: mostSaid(of.map((index) => at(index).values.place)),
      })),
      around,
      placed: positions.filter(Boolean).length,
      total: hits.length,
    };
  }

  days(tree: Query, field: FieldId): DaysAnswer {
    const counts = new Map<number, number>();
    const hits = this.find(tree);
    let dated = 0;
    for (const ordinal of hits) {
      const value = this.documentAt(ordinal).values[field];
      if (typeof value !== 'number') continue;
      dated += 1;
      const day = Math.floor(value / DAY_MS) * DAY_MS;
      counts.set(day, (counts.get(day) ?? 0) + 1);
    }
    const days = [...counts].map(([dayMs, count]) => ({ dayMs, count })).sort((a, b) => a.dayMs - b.dayMs);
    return { days, dated, total: hits.length };
  }

  private documentAt(ordinal: number): SearchDocument {
    return (this.kept[ordinal] as Kept).document;
  }

  /** Cuts a sorted list into groups. */
  private grouped(hits: Ordinals, by: FieldId): Listed {
    const field = this.fields.byId(by);
    const groups = new Map<string, { readonly key: GroupKey; readonly of: number[] }>();
    for (const ordinal of hits)
      for (const key of field ? groupsOf(field, this.documentAt(ordinal).values[by]) : []) {
        const name = `${key.rank} ${key.key}`;
        const there = groups.get(name);
        if (there) there.of.push(ordinal);
        else groups.set(name, { key, of: [ordinal] });
      }
    const inOrder = [...groups.values()].sort((a, b) => byGroup(a.key, b.key));
    return {
      places: Uint32Array.from(inOrder.flatMap(({ of }) => of)),
      assets: hits.length,
      groups: inOrder.map(({ key: { label, test }, of }) => ({ label, count: of.length, test })),
    };
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
      if (!this.isWorded(id)) continue;
      const said = wordedText([...asTexts(value), ...(document.also?.[id] ?? [])]);
      if (said !== '') text.set(id, said);
    }
    return { document, text, position: positionIn(document, 'position') };
  }

  /** What is said in the field is looked for by words. */
  private isWorded(id: FieldId): boolean {
    return !this.isNumeric(id) && this.fields.byId(id)?.type !== 'position';
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
    this.columns.clear();
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
          this.fields.plain.map((field) => this.matchField(field, tree.test)),
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
      case 'forms':
      case 'text':
      case 'part':
      case 'whole':
        return this.matchWords(field, test);
      case 'calendar':
      case 'age':
        return this.matchSpan(field, spanAt(test, this.now()));
      case 'span':
        return this.matchSpan(field, test);
      case 'around':
        throw new Error('where places lie has tests of its own');
      case 'heard':
        throw new Error('what was heard has tests of its own');
      case 'near':
        return this.matchNear(field, test);
      case 'presence':
        return this.filter(
          this.everything(),
          ({ document }) => asTexts(document.values[field]).some((text) => text !== '') === test.present,
        );
      default:
        return test satisfies never;
    }
  }

  private matchWords(field: FieldId, asked: WordsTest | WholeTest): Ordinals {
    const test = askedOf(this.fields.byId(field), asked);
    const candidates = test.op === 'part' || test.op === 'forms' ? this.everything() : this.having(field, test);
    // Its postings answer a word by themselves.
    if (test.op === 'text' && !test.text.includes(' ')) return candidates;
    return this.filter(candidates, (kept) => answersTest(kept.text.get(field) ?? '', test));
  }

  /** Those that have all of the words somewhere in the field. */
  private having(field: FieldId, test: TextTest | WholeTest): Ordinals {
    const terms = this.terms.get(field);
    if (!terms) return NONE;
    const parts = test.text.split(' ');
    const begun = test.op === 'text' && test.prefix ? parts.length - 1 : -1;
    return parts
      .map((part, at) => (at === begun ? terms.startingWith(part, this.kept.length) : (terms.exact(part) ?? NONE)))
      .sort((a, b) => a.length - b.length)
      .reduce(intersect);
  }

  private matchSpan(field: FieldId, { from, to }: SpanTest): Ordinals {
    return this.filter(this.everything(), ({ document }) => {
      const value = document.values[field];
      return typeof value === 'number' && (from === null || value >= from) && (to === null || value < to);
    });
  }

  private matchNear(field: FieldId, { metres, ...centre }: NearTest): Ordinals {
    const near = within(centre, metres);
    return this.filter(this.everything(), (kept) => {
      const position = field === 'position' ? kept.position : positionIn(kept.document, field);
      return position !== null && near(position);
    });
  }

  private filter(from: Ordinals, passes: (kept: Kept) => boolean): Ordinals {
    return from.filter((ordinal) => {
      const kept = this.kept[ordinal];
      return kept != null && passes(kept);
    });
  }

  private sorted(hits: Ordinals, { then = [], ...first }: SortOrder, order: readonly number[] = []): Ordinals {
    const idOf = (ordinal: number) => this.documentAt(ordinal).id;
    const byHand = new Map(order.map((id, place) => [id, place]));
    const keys = [
      ...(order.length > 0 ? [(ordinal: number) => byHand.get(idOf(ordinal)) ?? order.length] : []),
      ...[first, ...then].map((by) => this.keyBy(by)),
    ];
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
    // How well something fits has an oracle of its own.
    if (field === RELEVANCE) return () => 0;
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
      keyed.push({
        ordinal,
        key: numeric
          ? Number(value)
          : asTexts(value)
              .map((text) => valueKey(text, this.fields.byId(field)?.type))
              .join('\u0000'),
      });
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

function positionIn({ values }: SearchDocument, field: FieldId): Position | null {
  const value = values[field];
  return typeof value === 'string' ? readPosition(value) : null;
}

/** The texts that are said most, the most frequent first. */
function mostSaid(texts: readonly (FieldValue | undefined)[]): string[] {
  const counts = new Map<string, number>();
  for (const text of texts) if (typeof text === 'string') counts.set(text, (counts.get(text) ?? 0) + 1);
  return [...counts]
    .sort((a, b) => b[1] - a[1])
    .slice(0, PLACES_NAMED)
    .map(([text]) => text);
}
