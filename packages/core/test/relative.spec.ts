import fc from 'fast-check';
import { DateTime } from 'luxon';
import { parseQuery, queryAt, spanAt, type AgeTest, type CalendarTest, type CalendarUnit } from '@larder/core/query';
import { LibraryIndex } from '@larder/core/search';

const iso = (text: string): number => Date.parse(text);

describe('what depends on the present', () => {
  // Reference: luxon 3.7, whose weeks begin on Mondays (ISO 8601) and whose months are cut to their last day.
  const moment = fc.integer({ min: iso('1999-01-01T00:00:00Z'), max: iso('2101-01-01T00:00:00Z') });
  const at = (ms: number) => DateTime.fromMillis(ms, { zone: 'utc' });
  const units: readonly CalendarUnit[] = ['day', 'week', 'month', 'year'];

  it.each(units)('the present %s and the one before are those of a reference library', (unit) =>
    fc.assert(
      fc.property(moment, fc.constantFrom(0, 1), (now, back) => {
        const from = at(now)
          .startOf(unit)
          .minus({ [unit]: back });
        const test: CalendarTest = { op: 'calendar', unit, back };
        expect(spanAt(test, now)).toEqual({
          op: 'span',
          from: from.toMillis(),
          to: from.plus({ [unit]: 1 }).toMillis(),
        });
      }),
    ),
  );
  it.each([
    ['min', 'minutes'],
    ['h', 'hours'],
    ['d', 'days'],
    ['w', 'weeks'],
    ['mo', 'months'],
    ['y', 'years'],
  ] as const)('ages in %s are those of a reference library', (unit, named) =>
    fc.assert(
      fc.property(moment, fc.integer({ min: 1, max: 60 }), fc.boolean(), (now, count, younger) => {
        const then = at(now)
          .startOf('minute')
          .minus({ [named]: count })
          .toMillis();
        const test: AgeTest = { op: 'age', unit, count, younger };
        expect(spanAt(test, now)).toEqual({ op: 'span', from: younger ? then : null, to: younger ? null : then });
      }),
    ),
  );
  it('is what it means at a moment, all through a search; the rest stays the same object', () => {
    const { tree } = parseQuery('boat (-added:today or name:x)');
    const now = iso('2026-11-26T15:04:05Z');
    expect(queryAt(tree, now)).toEqual(parseQuery('boat (-added:2026-11-26 or name:x)').tree);
    const still = parseQuery('boat (-added:2026 or name:x)').tree;
    expect(queryAt(still, now)).toBe(still);
  });
  it('is asked anew when the day is another, also of a list that was there already', () => {
    let now = iso('2026-11-26T23:59:30Z');
    const index = new LibraryIndex(undefined, () => now);
    index.upsert([
      { id: 1, values: { name: 'a', added: iso('2026-11-26T10:00:00Z') } },
      { id: 2, values: { name: 'b', added: iso('2026-11-25T10:00:00Z') } },
      { id: 3, values: { name: 'c' } },
    ]);
    const found = (text: string) => {
      const { tree } = parseQuery(text);
      const sort = { field: 'name', descending: false } as const;
      const { ids } = index.search({ tree, sort, offset: 0, limit: 10 });
      expect(index.count(tree)).toBe(ids.length);
      return ids;
    };
    expect([found('added:today'), found('added:yesterday'), found('added<14h'), found('added>14h')]).toEqual([
      [1],
      [2],
      [1],
      [2],
    ]);
    now += 60_000;
    expect([found('added:today'), found('added:yesterday'), found('-added:today')]).toEqual([[], [1], [1, 2, 3]]);
  });
});
