import type { FieldType } from '../fields';
import { addUp, type GroupColumn } from './add-up';
import { GroupLists, listsOf, type ListsData } from './group-lists';
import type { Kernel } from './kernel';
import { sameGroup, type GroupKey } from './grouping';
import { FEW_DOCS, sharedNarrow, sharedNumbers, type Column } from './segment';

/** Of more groups than this none is counted by itself. */
const MOST_LISTED = 20_000;

/** How what one column says is gathered into groups, in the order of their keys, as it is kept. */
export interface GroupedData {
  readonly count: number;
  /** The first value of each group, which it is called by; null where each value is a group. */
  readonly firsts: Uint32Array | null;
  /** Null where it is the column itself. */
  readonly column: GroupColumn | null;
  /** Null where there are too few documents or too many groups for it. */
  readonly lists: ListsData | null;
}

export function groupedDataOf(column: Column, type: FieldType | undefined, documents: number): GroupedData {
  const grouped = gathered(column, type);
  const listed = documents > FEW_DOCS && grouped.count <= MOST_LISTED;
  return { ...grouped, lists: listed ? listsOf(grouped.column ?? column, grouped.count, documents) : null };
}

function gathered(column: Column, type: FieldType | undefined): Omit<GroupedData, 'lists'> {
  if (column.kind === 'numbers') {
    const { values } = column;
    const isLikeLast = (at: number) =>
      type !== undefined && sameGroup({ type }, values[at - 1] as number, values[at] as number);
    return regrouped(column, values.length, isLikeLast);
  }
  const { groups } = column;
  if (groups) return regrouped(column, groups.length, (at) => groups[at] === groups[at - 1]);
  return { count: column.textStarts.length - 1, firsts: null, column: null };
}

/** A column of groups made of a column of values, so that counting is one step for each document. */
function regrouped(
  column: GroupColumn,
  values: number,
  isLikeLast: (at: number) => boolean,
): Omit<GroupedData, 'lists'> {
  const of = new Uint32Array(values);
  const firsts = new Uint32Array(values);
  let count = 0;
  for (let at = 0; at < values; at += 1) {
    if (at === 0 || !isLikeLast(at)) firsts[count++] = at;
    of[at] = count;
  }
  if (count === values) return { count, firsts: null, column: null };
  const kept = sharedNumbers(count);
  kept.set(firsts.subarray(0, count));
  if (column.starts) {
    const items = sharedNarrow(column.items.length, count - 1);
    column.items.forEach((item, at) => (items[at] = (of[item] as number) - 1));
    return { count, firsts: kept, column: { numbers: null, starts: column.starts, items } };
  }
  const numbers = sharedNarrow(column.numbers.length, count);
  column.numbers.forEach((number, doc) => (numbers[doc] = number === 0 ? 0 : (of[number - 1] as number)));
  return { count, firsts: kept, column: { numbers, starts: null, items: null } };
}

/** Groups of a column in use. */
export class Grouped {
  readonly count: number;
  readonly firsts: Uint32Array | null;
  readonly column: GroupColumn;
  readonly lists: GroupLists | null;
  /** Keys that were read, by their groups: the same few are shown again and again. */
  readonly keys = new Map<number, GroupKey>();

  private all: Uint32Array | null;
  private names: ReadonlyMap<string, number> | null | undefined;

  constructor(column: Column | undefined, data: GroupedData | null, documents: number, kernel: Kernel | null) {
    this.count = data?.count ?? 0;
    this.firsts = data?.firsts ?? null;
    this.column = data?.column ?? column ?? { numbers: new Uint8Array(documents), starts: null, items: null };
    this.all = data?.lists?.totals ?? null;
    this.lists = data?.lists ? new GroupLists(data.lists, documents, kernel) : null;
  }

  /** How many documents are in each group, those that are gone among them; at 0 those that say nothing. */
  get totals(): Uint32Array {
    if (!this.all) addUp(this.column, null, (this.all = new Uint32Array(this.count + 1)));
    return this.all;
  }

  /** Groups by what they are called, made once. */
  byText(make: () => ReadonlyMap<string, number> | null): ReadonlyMap<string, number> | null {
    if (this.names === undefined) this.names = make();
    return this.names;
  }
}
