import type { Group } from '@larder/core/search';

/** A stretch of places of the list beneath one heading. */
export interface Stretch {
  readonly group: Group;
  readonly first: number;
}

/** Where each group of a list begins. */
export const stretchesOf = (groups: readonly Group[]): Stretch[] => {
  let first = 0;
  return groups.map((group) => {
    const stretch = { group, first };
    first += group.count;
    return stretch;
  });
};

/** The last of things in ascending order of where they begin that begins at a place or before it; -1 before all of them. */
function lastAt<T>(things: readonly T[], begins: (thing: T) => number, place: number): number {
  let [low, high] = [0, things.length];
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (begins(things[middle] as T) <= place) low = middle + 1;
    else high = middle;
  }
  return low - 1;
}

export const stretchAt = (stretches: readonly Stretch[], place: number): Stretch | undefined =>
  stretches[lastAt(stretches, ({ first }) => first, place)];

/** A row of the contact sheet: headings of groups, then places of the list. */
export interface SheetRow {
  /** Numbers of groups. */
  readonly headings: readonly number[];
  readonly from: number;
  readonly count: number;
}

/** A list laid out in rows, with a way from its places to its rows and back. */
export class Rows {
  private constructor(
    readonly all: readonly SheetRow[],
    private readonly columns: number,
  ) {}

  static plain(total: number, columns: number): Rows {
    return new Rows(run(0, total, columns), columns);
  }

  /** Each group begins a row with its heading, as the label of a drawer; folded ones are their headings side by side. */
  static grouped(stretches: readonly Stretch[], columns: number, isFolded: (group: Group) => boolean): Rows {
    const rows: SheetRow[] = [];
    let folded: number[] = [];
    const close = (from: number): void => {
      if (folded.length > 0) rows.push({ headings: folded, from, count: 0 });
      folded = [];
    };
    stretches.forEach(({ group, first }, index) => {
      if (isFolded(group)) {
        folded.push(index);
        if (folded.length === columns) close(first + group.count);
        return;
      }
      close(first);
      const beside = Math.min(group.count, columns - 1);
      rows.push({ headings: [index], from: first, count: beside });
      rows.push(...run(first + beside, first + group.count, columns));
    });
    const last = stretches.at(-1);
    close(last ? last.first + last.group.count : 0);
    return new Rows(rows, columns);
  }

  /** The row that a place is in; -1 for one that is folded away. */
  rowOf(place: number): number {
    let row = lastAt(this.all, ({ from }) => from, place);
    // Rows of headings alone begin where the next place does.
    while (row >= 0 && this.all[row]?.count === 0) row -= 1;
    const found = this.all[row];
    return found && place < found.from + found.count ? row : -1;
  }

  /** The place on either side of another that is not folded away; itself if there is none. */
  beside(place: number, by: 1 | -1): number {
    const row = this.rowOf(place);
    const here = this.all[row];
    if (here && place + by >= here.from && place + by < here.from + here.count) return place + by;
    const next = this.filled(row, by, place);
    return next ? (by > 0 ? next.from : next.from + next.count - 1) : place;
  }

  /** The place above or below another, in its column as far as there is one; itself if there is none. */
  across(place: number, by: 1 | -1): number {
    const row = this.rowOf(place);
    const here = this.all[row];
    const next = this.filled(row, by, place);
    if (!next) return place;
    const column = here ? here.headings.length + place - here.from : 0;
    return next.from + Math.min(next.count - 1, Math.max(0, column - next.headings.length));
  }

  /** The places in rows from one up to another. */
  placesIn(start: number, end: number): { readonly start: number; readonly end: number } {
    const rows = this.all.slice(start, Math.max(end, start + 1));
    const [first, last] = [rows[0], rows.at(-1)];
    return first && last ? { start: first.from, end: last.from + last.count } : { start: 0, end: 0 };
  }

  /** The next row with places in it. From a place that is folded away it is looked for from where that would be. */
  private filled(row: number, by: 1 | -1, place: number): SheetRow | undefined {
    const from = row >= 0 ? row + by : lastAt(this.all, (each) => each.from, place) + (by > 0 ? 1 : 0);
    for (let at = from; at >= 0 && at < this.all.length; at += by)
      if ((this.all[at]?.count ?? 0) > 0) return this.all[at];
    return undefined;
  }
}

/** Places from one up to another, as many in a row as there are columns. */
function run(start: number, end: number, columns: number): SheetRow[] {
  const rows: SheetRow[] = [];
  for (let from = start; from < end; from += columns)
    rows.push({ headings: [], from, count: Math.min(columns, end - from) });
  return rows;
}
