import type { FieldId, FieldRegistry } from '../fields';
import type { Query } from '../query';
import { bitsFor, countBits, hasBit, listBits, setBit, type Bits } from './bits';
import { countOf, ofBits, without, type DocSet } from './doc-set';
import { Finder, type Hears } from './finder';
import { Kernel } from './kernel';
import { FEW_DOCS, type Numbers, type SegmentData } from './segment';
import { gallop } from './doc-set';
import { valueKey } from './sort-key';

/** A segment in use: with which of its documents are gone, and what was worked out about it. */
export class Part {
  readonly finder: Finder;
  readonly dead: Bits;
  /** Those that have died since the part came into use, in the order in which they did. */
  readonly buried: number[] = [];
  /** Words that the living have in the fields that were asked for. */
  private readonly worded = new Map<FieldId, number>();
  private deadCount: number;
  private counting: Kernel | null | undefined;

  constructor(
    readonly data: SegmentData,
    private readonly fields: () => FieldRegistry,
    hears: Hears,
    dead?: Bits,
  ) {
    this.finder = new Finder(data, fields(), hears);
    this.dead = dead ?? bitsFor(data.ids.length);
    this.deadCount = dead ? countBits(dead) : 0;
  }

  /** Counts what was found of it; null where it is so small that nothing is gained. */
  get kernel(): Kernel | null {
    if (this.counting === undefined)
      this.counting = this.data.ids.length > FEW_DOCS ? Kernel.of(this.data.ids.length) : null;
    return this.counting;
  }

  get live(): number {
    return this.data.ids.length - this.deadCount;
  }

  /** The number of a living document; -1 if it is not here. */
  docOf(id: number): number {
    const at = gallop(this.data.ids, id, 0);
    return this.data.ids[at] === id && !hasBit(this.dead, at) ? at : -1;
  }

  bury(id: number): boolean {
    const doc = this.docOf(id);
    if (doc < 0) return false;
    setBit(this.dead, doc);
    this.deadCount += 1;
    for (const [field, total] of this.worded) this.worded.set(field, total - this.lengthIn(field, doc));
    this.buried.push(doc);
    return true;
  }

  /** What is found and lives; `key` is the search as text. */
  find(tree: Query, key: string): DocSet {
    const found = this.finder.find(tree, key);
    return this.deadCount === 0 || countOf(found) === 0 ? found : without(found, ofBits(this.dead));
  }

  /** How many of the living say any of some entries; `key` tells these from others. */
  saying(entries: readonly number[], key: string): number {
    if (entries.length === 0) return 0;
    const said = this.finder.sayingAny(entries, key);
    return countOf(this.deadCount === 0 ? said : without(said, ofBits(this.dead)));
  }

  /** How many words the living have in a field. */
  wordsIn(field: FieldId): number {
    let total = this.worded.get(field);
    if (total === undefined) {
      total = 0;
      const lengths = this.data.lengths[this.data.worded.indexOf(field)] ?? [];
      for (let doc = 0; doc < lengths.length; doc += 1) total += lengths[doc] as number;
      for (const doc of listBits(this.dead)) total -= lengths[doc] ?? 0;
      this.worded.set(field, total);
    }
    return total;
  }

  private lengthIn(field: FieldId, doc: number): number {
    return this.data.lengths[this.data.worded.indexOf(field)]?.[doc] ?? 0;
  }

  /** By how much each document says of it. */
  ranks(field: FieldId): Numbers | null {
    return this.finder.ordering(field)?.ranks ?? null;
  }

  /** What a document says in a field as something to compare with what is said elsewhere; it must say something. */
  keyAt(field: FieldId, doc: number): number | string {
    const column = this.finder.column(field);
    if (column?.kind === 'numbers') return column.values[(column.numbers[doc] as number) - 1] as number;
    if (!column) throw new Error(`nothing is said in ${field}`);
    const texts = this.finder.textsOf(field);
    const type = this.fields().byId(field)?.type;
    if (column.numbers) return valueKey(texts.at((column.numbers[doc] as number) - 1), type);
    const items = column.items.subarray(column.starts[doc], column.starts[doc + 1]);
    return Array.from(items, (item) => valueKey(texts.at(item), type)).join('\u0000');
  }
}
