import fc from 'fast-check';
import { BUILT_IN, FieldRegistry } from '@larder/core/fields';
import { parseQuery, printQuery } from '@larder/core/query';
import { havingHits, hitsIn, markerSchema, markersHit, markerText, nudged } from '@larder/core/markers';

describe('a marker', () => {
  it('is a place or a stretch, with what was left out filled in', () => {
    expect(markerSchema.validateSync({ start: 5 })).toEqual({
      ...{ kind: 'note', start: 5, end: null, name: '', note: '', colour: 'none' },
    });
    expect(markerSchema.validateSync({ start: 5, end: 6, name: ' She laughs ' })).toMatchObject({
      end: 6,
      name: 'She laughs',
    });
  });
  it.each([
    [{}, 'A marker stands somewhere.'],
    [{ start: -1 }, 'A marker stands at or after the first frame.'],
    [{ start: 1.5 }, 'A marker stands on a whole frame.'],
    [{ start: 5, end: 5 }, 'A range ends after it starts.'],
    [{ start: 5, kind: 'joke' }, 'That is no kind of marker.'],
    [{ start: 5, colour: 'beige' }, 'That is no colour of markers.'],
    [{ start: 'x' }, 'A marker stands on a whole frame.'],
  ])('%j is refused: %s', (marker, words) => expect(() => markerSchema.validateSync(marker)).toThrow(words));

  it('is moved by frames without leaving its clip or changing its length', () =>
    fc.assert(
      fc.property(
        fc.record({
          start: fc.nat(99),
          span: fc.option(fc.integer({ min: 1, max: 50 })),
          by: fc.integer({ min: -200, max: 200 }),
        }),
        ({ start, span, by }) => {
          const length = 200;
          const marker = { start, end: span === null ? null : start + span };
          const moved = nudged(marker, by, length);
          expect(moved.start).toBeGreaterThanOrEqual(0);
          expect(moved.end ?? moved.start + 1).toBeLessThanOrEqual(length);
          expect(moved.end === null ? null : moved.end - moved.start).toBe(span);
          if (start + by >= 0 && start + (span ?? 1) + by <= length) expect(moved.start).toBe(start + by);
        },
      ),
    ));
});

describe('markers that a search hits', () => {
  const markers = [
    { name: 'She laughs', note: '' },
    { name: 'Écluse', note: 'the lower gate closes' },
    { name: '', note: 'laughter off' },
  ];
  const hits = (query: string) => markersHit(parseQuery(query).tree, markers, BUILT_IN).map(markerText);
  it.each([
    ['laughs', ['She laughs']],
    ['laugh*', ['She laughs', 'laughter off']],
    ['*augh*', ['She laughs', 'laughter off']],
    ['marker:*aughs', ['She laughs']],
    ['"lower gate"', ['Écluse the lower gate closes']],
    ['ecluse or nothing', ['Écluse the lower gate closes']],
    ['marker:laughs tag:dawn', ['She laughs']],
    ['-laughs', []],
    ['tag:laughs', []],
    ['', []],
  ])('%s', (query, texts) => expect(hits(query)).toEqual(texts));

  it('are all of them where no words are asked for that markers may say', () => {
    const all = markers.map(markerText);
    const listed = (query: string, fields = BUILT_IN) =>
      hitsIn(parseQuery(query).tree, markers, fields).map(markerText);
    expect(listed('kind:video')).toEqual(all);
    expect(listed('kind:video laughs')).toEqual(['She laughs']);
    // The shop has it that plain words look elsewhere.
    const elsewhere = new FieldRegistry([], [], { marker: false });
    expect(listed('laughs', elsewhere)).toEqual(all);
    expect(listed('marker:laughs', elsewhere)).toEqual(['She laughs']);
  });

  it('are had by what is searched for beside the search', () => {
    const asked = (query: string) => printQuery(havingHits(parseQuery(query).tree, BUILT_IN));
    expect(asked('laughs tag:dawn -noise')).toBe('marker:laughs');
    expect(asked('laughs or "low gate"')).toBe('marker:(laughs or "low gate")');
    expect(asked('kind:video')).toBe('has:marker');
  });
});
