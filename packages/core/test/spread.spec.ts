import fc from 'fast-check';
import { BUILT_IN, type FieldId, type RegisteredField } from '@larder/core/fields';
import { combine, parseQuery } from '@larder/core/query';
import { LibraryIndex, spreadOf } from '@larder/core/search';

const field = (id: FieldId) => BUILT_IN.byId(id) as RegisteredField;
const days = (...texts: string[]) => texts.map((text) => ({ value: Date.parse(`${text}T12:00:00Z`), count: 1 }));
const shown = (id: FieldId, said: readonly { value: number; count: number }[]) => {
  const { unit, bars } = spreadOf(field(id), said);
  return { unit, bars: bars.map(({ from, to, count }) => [from, to, count]) };
};
const dates = (said: readonly { value: number; count: number }[]) => {
  const { unit, bars } = spreadOf(field('shot'), said);
  const day = (ms: number) => new Date(ms).toISOString().slice(0, 10);
  return [unit, ...bars.map(({ from, to, count }) => `${day(from)}/${day(to)}: ${count}`)];
};

describe('how dates are spread', () => {
  it('is in the finest parts of the calendar that are not too many', () => {
    expect(dates(days('2026-05-03', '2026-05-05', '2026-05-05'))).toEqual([
      'day',
      '2026-05-03/2026-05-04: 1',
      '2026-05-04/2026-05-05: 0',
      '2026-05-05/2026-05-06: 2',
    ]);
    // ISO 8601: a week begins on its Monday; 2026-01-01 lies in the week of 29 December 2025.
    const weeks = dates(days('2026-01-01', '2026-11-27'));
    expect([weeks[0], weeks[1], weeks.at(-1), weeks.length]).toEqual([
      'week',
      '2025-12-29/2026-01-05: 1',
      '2026-11-23/2026-11-30: 1',
      49,
    ]);
    const months = dates(days('2023-02-28', '2026-11-27'));
    expect([months[0], months[1], months.length]).toEqual(['month', '2023-02-01/2023-03-01: 1', 47]);
    const years = dates(days('1987-06-01', '2026-11-27'));
    expect([years[0], years[1], years.length]).toEqual(['year', '1987-01-01/1988-01-01: 1', 41]);
    const centuries = spreadOf(field('shot'), days('1700-06-01', '2026-11-27'));
    expect([centuries.unit, centuries.bars.length <= 60]).toEqual(['year', true]);
    expect(dates([])).toEqual([null]);
  });
});

describe('how numbers are spread', () => {
  it('is in steps that people count in', () => {
    const once = (value: number) => ({ value, count: 1 });
    expect(shown('duration', [once(700), once(4000), once(4999)])).toEqual({
      unit: null,
      bars: [
        [0, 1000, 1],
        [1000, 2000, 0],
        [2000, 5000, 2],
      ],
    });
    expect(shown('size', [once(0), once(3e6)]).bars.at(-1)).toEqual([2e6, 5e6, 1]);
    expect(shown('rating', [once(1), once(5)]).bars).toHaveLength(5);
    expect(shown('width', [{ value: 1920, count: 7 }]).bars).toEqual([[1920, 1921, 7]]);
    const [wide] = shown('width', [once(96), once(8192)]).bars;
    expect(wide).toEqual([0, 500, 1]);
  });

  it('counts each once, side by side, from the first to the last', () =>
    fc.assert(
      fc.property(
        fc.constantFrom<FieldId>('duration', 'size', 'shot', 'rating', 'start', 'width', 'added'),
        fc.array(fc.record({ value: fc.integer({ min: 0, max: 86_399_000 }), count: fc.integer({ min: 1, max: 9 }) }), {
          maxLength: 40,
        }),
        fc.constantFrom(1, 1000, 40_000),
        (id, said, times) => {
          const scaled = said.map(({ value, count }) => ({ value: id === 'start' ? value : value * times, count }));
          const { bars } = spreadOf(field(id), scaled);
          expect(bars.length).toBeLessThanOrEqual(61);
          bars.forEach((bar, at) => {
            const inside = scaled.filter(({ value }) => value >= bar.from && value < bar.to);
            expect(bar.count).toBe(inside.reduce((sum, { count }) => sum + count, 0));
            expect(bar.from).toBeLessThan(bar.to);
            if (at > 0) expect(bar.from).toBe(bars[at - 1]?.to);
          });
          const total = (all: readonly { count: number }[]) => all.reduce((sum, { count }) => sum + count, 0);
          expect(total(bars)).toBe(total(scaled));
          if (bars.length > 0) expect([bars[0]?.count, bars.at(-1)?.count]).not.toContain(0);
        },
      ),
    ));
});

describe('how what was found is spread', () => {
  it('is what a search for each bar finds, within what was chosen of the field', () => {
    const index = new LibraryIndex();
    index.upsert(
      Array.from({ length: 300 }, (_unused, at) => ({
        id: at + 1,
        values: { name: `clip ${at % 7}`, duration: (at * at * 37) % 500_000, rating: (at % 5) + 1 },
      })),
    );
    index.remove([5, 17]);
    const { tree } = parseQuery('clip-3 duration:10s..1m or clip-4');
    for (const text of ['3', '3 duration:10s..1m', '-4 rating>2', 'nothing']) {
      const asked = parseQuery(text).tree;
      for (const { field: id, spread } of index.facets({
        tree: asked,
        fields: ['duration', 'rating', 'name'],
        limit: 3,
        spread: true,
      })) {
        expect([id, spread === undefined]).toEqual([id, id === 'name']);
        for (const { from, to, count } of spread?.bars ?? []) {
          const part = { kind: 'field', field: id, test: { op: 'span', from, to } } as const;
          expect(count).toBe(index.count(combine('all', [asked, part])));
        }
      }
    }
    expect(index.facets({ tree, fields: ['duration'], limit: 3 })[0]?.spread).toBeUndefined();
  });
});
