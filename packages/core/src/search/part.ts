import type { FieldId, FieldRegistry } from '../fields';
import type { Query } from '../query';
import { bitsFor, countBits, hasBit, setBit, type Bits } from './bits';
import { countOf, ofBits, without, type DocSet } from './doc-set';
import { Finder } from './finder';
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
  private deadCount: number;
  private counting: Kernel | null | undefined;

  constructor(
    readonly data: SegmentData,
    private readonly fields: () => FieldRegistry,
    dead?: Bits,
  ) {
    this.finder = new Finder(data, fields());
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
    this.buried.push(doc);
    return true;
  }

  /** What is found and lives. */
  find(tree: Query): DocSet {
    const found = this.finder.find(tree);
    return this.deadCount === 0 || countOf(found) === 0 ? found : without(found, ofBits(this.dead));
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
