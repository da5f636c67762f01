import fc from 'fast-check';
import type { Group } from '@larder/core/search';
import { Rows, stretchAt, stretchesOf } from './arrangement';

const groups = fc.array(fc.tuple(fc.integer({ min: 1, max: 9 }), fc.boolean()), { maxLength: 12 });
const groupOf = (label: number, count: number): Group => ({ label: String(label), count, test: null });

describe('a list laid out in rows of a contact sheet', () => {
  it('has every place that is not folded away once, in order, and finds its row', () =>
    fc.assert(
      fc.property(groups, fc.integer({ min: 1, max: 6 }), (asked, columns) => {
        const stretches = stretchesOf(asked.map(([count], index) => groupOf(index, count)));
        const rows = Rows.grouped(stretches, columns, ({ label }) => asked[Number(label)]?.[1] ?? false);
        const seen = stretches.flatMap(({ group, first }, index) =>
          asked[index]?.[1] ? [] : Array.from({ length: group.count }, (_unused, n) => first + n),
        );
        const placed = rows.all.flatMap(({ from, count }) => Array.from({ length: count }, (_unused, n) => from + n));
        expect(placed).toEqual(seen);
        // Every heading stands once, in order, and a row has no more than there are columns.
        expect(rows.all.flatMap(({ headings }) => headings)).toEqual(stretches.map((_unused, index) => index));
        for (const { headings, count } of rows.all) expect(headings.length + count).toBeLessThanOrEqual(columns);
        const total = asked.reduce((sum, [count]) => sum + count, 0);
        for (let place = 0; place < total; place += 1) {
          const row = rows.all[rows.rowOf(place)];
          if (seen.includes(place)) expect(place - (row?.from ?? NaN)).toBeLessThan(row?.count ?? 0);
          else expect(row).toBeUndefined();
          const stretch = stretchAt(stretches, place);
          expect(place - (stretch?.first ?? NaN)).toBeLessThan(stretch?.group.count ?? 0);
        }
      }),
    ));
  it('is walked through from its first place to its last and back, over what is folded away', () =>
    fc.assert(
      fc.property(groups, fc.integer({ min: 1, max: 6 }), (asked, columns) => {
        const stretches = stretchesOf(asked.map(([count], index) => groupOf(index, count)));
        const rows = Rows.grouped(stretches, columns, ({ label }) => asked[Number(label)]?.[1] ?? false);
        const seen = rows.all.flatMap(({ from, count }) => Array.from({ length: count }, (_unused, n) => from + n));
        seen.forEach((place, index) => {
          expect(rows.beside(place, 1)).toBe(seen[index + 1] ?? place);
          expect(rows.beside(place, -1)).toBe(seen[index - 1] ?? place);
          const [up, down] = [rows.across(place, -1), rows.across(place, 1)];
          if (up !== place) expect(rows.rowOf(up)).toBeLessThan(rows.rowOf(place));
          if (down !== place) expect(rows.rowOf(down)).toBeGreaterThan(rows.rowOf(place));
        });
      }),
    ));
  it('keeps the column on the way down, beside the heading too', () => {
    // A heading and 2 places, 3 places, 1 place; then a heading and 2 places.
    const rows = Rows.grouped(stretchesOf([groupOf(0, 6), groupOf(1, 2)]), 3, () => false);
    expect(rows.across(1, 1)).toBe(4);
    expect(rows.across(4, 1)).toBe(5);
    expect(rows.across(5, 1)).toBe(6);
    expect(rows.across(2, -1)).toBe(0);
    expect(rows.placesIn(0, 2)).toEqual({ start: 0, end: 5 });
  });
  it('without groups is as it was', () => {
    const rows = Rows.plain(7, 3);
    expect(rows.all).toHaveLength(3);
    expect([rows.rowOf(6), rows.rowOf(7), rows.across(5, 1), rows.across(6, -1)]).toEqual([2, -1, 6, 3]);
    expect(rows.placesIn(1, 3)).toEqual({ start: 3, end: 7 });
    expect(Rows.plain(0, 3).placesIn(0, 1)).toEqual({ start: 0, end: 0 });
  });
});
