import { readFileSync } from 'node:fs';
import { DateTime } from 'luxon';
import fc from 'fast-check';
import { fold, words } from '@larder/core/fields';
import { parseQuery, type SpanTest } from '@larder/core/query';

/** The Unicode Character Database as Debian ships it (package unicode-data), each line without its comment. */
const unicode = (file: string): string[] =>
  readFileSync(`/usr/share/unicode/${file}`, 'utf8')
    .split('\n')
    .map((line) => line.replace(/#.*/, '').trim())
    .filter(Boolean);
const character = (codes: string): string =>
  codes
    .trim()
    .split(/\s+/)
    .map((code) => String.fromCodePoint(parseInt(code, 16)))
    .join('');

describe('folding, by CaseFolding.txt of the Unicode standard', () => {
  it('makes one word of what the standard folds to one', () => {
    const mappings = unicode('CaseFolding.txt')
      .map((line) => line.split(';').map((part) => part.trim()))
      // C and F are the full folding; S is the simple one in its place, and T is for Turkish alone.
      .filter(([, status]) => status === 'C' || status === 'F');
    expect(mappings.length).toBeGreaterThan(1400);
    // The iota beneath a Greek letter is a letter of its own to the standard, and an accent here.
    const isIota = (code: string) => character(code).normalize('NFD').includes('\u0345');
    const apart = mappings.filter(
      ([code = '', , folded = '']) => !isIota(code) && fold(character(code)) !== fold(character(folded)),
    );
    expect(apart.map(([code]) => code)).toEqual([]);
  });
});

describe('words, by WordBreakTest.txt of Unicode Standard Annex #29', () => {
  it('none of ours goes beyond a boundary of the standard', () => {
    const lines = unicode('auxiliary/WordBreakTest.txt');
    expect(lines.length).toBeGreaterThan(1800);
    const beyond = lines.filter((line) => {
      // ÷ is a boundary, × is none.
      const parts = line
        .split('÷')
        .map((part) => part.replaceAll('×', ' ').trim())
        .filter(Boolean)
        .map(character);
      return words(parts.join('')).join('|') !== parts.flatMap((part) => words(part)).join('|');
    });
    expect(beyond).toEqual([]);
  });
});

/** What a comparison of numbers asks for. */
function span(text: string): SpanTest {
  const { tree, issues } = parseQuery(text);
  if (issues.length > 0 || tree.kind !== 'field' || tree.test.op !== 'span') throw new Error(text);
  return tree.test;
}

describe('sizes, by IEC 80000-13', () => {
  // Its table of prefixes for binary multiples, and the decimal ones of the SI beside them; from memory.
  it.each([
    ['kB', 1000 ** 1],
    ['MB', 1000 ** 2],
    ['GB', 1000 ** 3],
    ['TB', 1000 ** 4],
    ['KiB', 1024 ** 1],
    ['MiB', 1024 ** 2],
    ['GiB', 1024 ** 3],
    ['TiB', 1024 ** 4],
  ])('1 %s is %d bytes', (unit, bytes) => {
    expect(span(`size<1${unit}`).to).toBe(bytes);
    expect(span(`size>=3${unit.toLowerCase()}`).from).toBe(3 * bytes);
  });
});

describe('dates, by ISO 8601', () => {
  // The calendar dates, complete and of reduced precision, that the standard itself takes as examples; from memory.
  it.each([
    ['1985-04-12', '1985-04-12T00:00:00Z', '1985-04-13T00:00:00Z'],
    ['1985-04', '1985-04-01T00:00:00Z', '1985-05-01T00:00:00Z'],
    ['1985', '1985-01-01T00:00:00Z', '1986-01-01T00:00:00Z'],
  ])('%s is from its first instant up to the next', (text, from, to) =>
    expect(span(`shot:${text}`)).toMatchObject({ from: Date.parse(from), to: Date.parse(to) }),
  );

  it('are those that luxon reads, and no others', () =>
    fc.assert(
      fc.property(fc.integer({ min: 1000, max: 9999 }), fc.nat(14), fc.nat(33), (year, month, day) => {
        const two = (number: number) => String(number).padStart(2, '0');
        const text = `${year}-${two(month)}-${two(day)}`;
        const read = DateTime.fromISO(text, { zone: 'utc' });
        const { tree, issues } = parseQuery(`shot:${text}`);
        expect([text, issues.length === 0]).toEqual([text, read.isValid]);
        if (!read.isValid || tree.kind !== 'field') return;
        expect(tree.test).toMatchObject({ from: read.toMillis(), to: read.plus({ days: 1 }).toMillis() });
      }),
    ));
});
