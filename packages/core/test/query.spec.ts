import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { BUILT_IN, FIELDS, spokenWords, type FieldId } from '@larder/core/fields';
import {
  choiceIn,
  combine,
  criteriaOf,
  EVERYTHING,
  hasForms,
  HEARD_AS,
  loadQuery,
  parseQuery,
  printQuery,
  readNear,
  saveQuery,
  treeOfCriteria,
  withChoice,
  wordQueryIssue,
  type Choice,
  type FieldTest,
  type Query,
} from '@larder/core/query';

const cases = (name: string): [string, string][] =>
  readFileSync(join(__dirname, 'cases', name), 'utf8')
    .split('\n')
    .filter((line) => line.includes('=>') && !line.startsWith('#'))
    .map((line) => line.split(/\s*=>\s*/, 2) as [string, string])
    .map(([text, expected]) => [text, expected.replace(/\s*\/\/.*$/, '').trim()]);

function sketchTest(test: FieldTest): string {
  switch (test.op) {
    case 'forms':
      return `:${test.text.replace(/ /g, '-')}`;
    case 'text':
      return `="${test.text}${test.prefix ? '*' : ''}"`;
    case 'part':
      return `~"${test.text}${test.ends ? '$' : ''}"`;
    case 'whole':
      return `=="${test.text}"`;
    case 'presence':
      return test.present ? '+' : '-';
    case 'near':
      return `@${test.latitude},${test.longitude}+${test.metres}`;
    case 'around':
      return `@"${test.place}"+${test.metres}`;
    case 'heard':
      return `?${test.as} ${test.items.join('|')}${test.withinMs === null ? '' : `+${test.withinMs}`}`;
    case 'calendar':
      return `{${test.unit}-${test.back}}`;
    case 'age':
      return `{${test.younger ? '<' : '>'}${test.count} ${test.unit}}`;
    case 'span':
      return `[${test.from ?? ''},${test.to ?? ''})`;
    default:
      return test satisfies never;
  }
}

function sketch(tree: Query): string {
  if (tree === EVERYTHING || (tree.kind === 'all' && tree.of.length === 0)) return 'everything';
  if (tree.kind === 'words') {
    const { test } = tree;
    if (test.op === 'part') return sketchTest(test);
    if (test.op === 'forms') return test.text.replace(/ /g, '-');
    return test.prefix ? `${test.text}*` : `"${test.text}"`;
  }
  if (tree.kind === 'field') return tree.field + sketchTest(tree.test);
  if (tree.kind === 'not') return `(not ${sketch(tree.of)})`;
  return `(${tree.kind} ${tree.of.map(sketch).join(' ')})`;
}

describe('reading the search language', () => {
  it.each(cases('query.txt'))('%s', (text, expected) => {
    const { tree, issues } = parseQuery(text);
    expect(issues).toEqual([]);
    expect(sketch(tree)).toBe(expected);
  });
});

describe('what is wrong, and where', () => {
  it.each(cases('query-issues.txt'))('%s', (text, expected) => {
    const { issues } = parseQuery(text);
    expect(issues.map((issue) => `${issue.code}@${issue.at}+${issue.length}`).join(' ')).toBe(expected);
    for (const issue of issues) expect(wordQueryIssue(issue)).toMatch(/\S.*[.?]$/);
  });
  it('proposes the nearest field', () => expect(parseQuery('tga:dawn').issues[0]).toMatchObject({ nearest: 'tag' }));
  it('stops at brackets nested beyond reason', () => {
    const { issues } = parseQuery(`${'('.repeat(10_000)}boat`);
    expect(issues.some((issue) => issue.code === 'too-deep')).toBe(true);
  });
  it('never throws, whatever bytes come', () =>
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 80 }), (bytes) => {
        const { tree, issues } = parseQuery(Buffer.from(bytes).toString('latin1'));
        expect(parseQuery(printQuery(tree)).issues).toEqual([]);
        for (const issue of issues) expect(wordQueryIssue(issue)).toMatch(/[.?]$/);
      }),
      { numRuns: 10_000 },
    ));
  it('never throws at queries that were cut, doubled and mixed; what is left of them prints and reads as the same', () => {
    const texts = cases('query.txt').map(([text]) => text);
    const mutated = fc
      .tuple(fc.constantFrom(...texts), fc.constantFrom(...texts), fc.nat(30), fc.nat(30), fc.nat(30))
      .map(([one, other, from, length, at]) => one.slice(0, at) + other.slice(from, from + length) + one.slice(at - 3));
    fc.assert(
      fc.property(mutated, (text) => {
        const { tree } = parseQuery(text);
        expect({ text, ...parseQuery(printQuery(tree)) }).toEqual({ text, tree, issues: [] });
      }),
      { numRuns: 10_000 },
    );
  });
  it('never throws, whatever is typed', () => {
    fc.assert(fc.property(fc.string({ maxLength: 60 }), (text) => void printQuery(parseQuery(text).tree)));
    const pieces = fc.constantFrom(
      '(',
      ')',
      '"',
      '-',
      ' ',
      'or',
      'not',
      'tag:',
      'duration>',
      '10s',
      'a',
      '*',
      ':',
      'has:',
      '..',
    );
    fc.assert(
      fc.property(fc.array(pieces, { maxLength: 30 }), (parts) => void printQuery(parseQuery(parts.join('')).tree)),
    );
  });
});

describe('writing it again', () => {
  const term = fc.stringMatching(/^[a-z0-9]{1,6}$/).filter((word) => !['or', 'and', 'not'].includes(word));
  const text = fc.record({
    op: fc.constant('text' as const),
    text: fc.oneof(
      term,
      fc.tuple(term, term).map((pair) => pair.join(' ')),
    ),
    prefix: fc.boolean(),
  });
  const forms = fc
    .oneof(
      term,
      fc.tuple(term, term).map((pair) => pair.join(' ')),
    )
    .filter(hasForms)
    .map((words) => ({ op: 'forms' as const, text: words }));
  // Signs that are words of their own are written without gaps.
  const signs = fc.array(fc.constantFrom('夜', '明', 'け', 'a1'), { minLength: 1, maxLength: 4 }).map((all) => ({
    ...{ op: 'text' as const, prefix: false },
    text: all.join(' '),
  }));
  const part = fc.record({ op: fc.constant('part' as const), text: term, ends: fc.boolean() });
  const relative = fc.oneof(
    fc.record({
      op: fc.constant('calendar' as const),
      unit: fc.constantFrom('day' as const, 'week' as const, 'month' as const, 'year' as const),
      back: fc.constantFrom(0, 1),
    }),
    fc.record({
      op: fc.constant('age' as const),
      younger: fc.boolean(),
      count: fc.integer({ min: 1, max: 9999 }),
      unit: fc.constantFrom('min' as const, 'h' as const, 'd' as const, 'w' as const, 'mo' as const, 'y' as const),
    }),
  );
  // What could be degrees is no name.
  const town = fc
    .tuple(fc.constantFrom('o', 'ecluse ', 'low '), term)
    .map(([first, rest]) => first + rest)
    .filter((name) => readNear(name)?.op === 'around');
  const spoken = fc
    .tuple(
      fc.array(fc.constantFrom('low', 'water', "don't", 'or', 'écluse'), { minLength: 1, maxLength: 3 }),
      fc.boolean(),
    )
    .map(([said, begun]) => spokenWords(said.join(' ')).join(' ') + (begun ? '*' : ''));
  const whole = text.map((test) => ({ op: 'whole' as const, text: test.text }));
  const bound = { number: 1, bytes: 1, durationMs: 1, dateMs: 86_400_000, timecodeLabel: 1 } as const;
  const ids = (...types: string[]) => FIELDS.filter((field) => types.includes(field.type)).map((field) => field.id);
  const span = (step: number) =>
    fc
      .tuple(fc.option(fc.integer({ min: 1, max: 20_000 })), fc.integer({ min: 1, max: 9000 }), fc.boolean())
      .map(([from, size, open]) => ({
        op: 'span' as const,
        from: from === null ? null : from * step,
        to: open && from !== null ? null : ((from ?? 0) + size) * step,
      }));
  const leaf: fc.Arbitrary<Query> = fc.oneof(
    fc.oneof(forms, text, part, signs).map((test) => ({ kind: 'words' as const, test })),
    fc
      .tuple(fc.constantFrom(...ids('dateMs')), relative)
      .map(([field, test]) => ({ kind: 'field' as const, field, test })),
    fc
      .tuple(fc.constantFrom(...ids('text', 'tags')), fc.oneof(forms, text, part, signs, whole))
      .map(([field, test]) => ({ kind: 'field' as const, field, test })),
    ...(Object.entries(bound) as [string, number][]).map(([type, step]) =>
      fc
        .tuple(fc.constantFrom(...ids(type)), span(step))
        .map(([field, test]) => ({ kind: 'field' as const, field, test })),
    ),
    fc
      .tuple(
        fc.integer({ min: -90_000_000, max: 90_000_000 }),
        fc.integer({ min: -180_000_000, max: 180_000_000 }),
        fc.integer({ min: 1, max: 20_000_000 }),
      )
      .map(([latitude, longitude, metres]) => ({
        ...{ kind: 'field' as const, field: 'position' as const },
        test: { op: 'near' as const, latitude: latitude / 1e6, longitude: longitude / 1e6, metres },
      })),
    fc.tuple(town, fc.integer({ min: 1, max: 20_000_000 })).map(([place, metres]) => ({
      ...{ kind: 'field' as const, field: 'position' as const },
      test: { op: 'around' as const, place, metres },
    })),
    fc
      .record({
        op: fc.constant('heard' as const),
        items: fc.array(spoken, { minLength: 1, maxLength: 3 }),
        withinMs: fc.integer({ min: 1, max: 3_600_000 }),
        as: fc.constantFrom(...HEARD_AS),
      })
      .map((test) => ({
        ...{ kind: 'field' as const, field: 'heard' as const },
        test: { ...test, withinMs: test.items.length > 1 ? test.withinMs : null },
      })),
    fc
      .tuple(fc.constantFrom(...ids('text', 'dateMs')), fc.boolean())
      .map(([field, present]) => ({ kind: 'field' as const, field, test: { op: 'presence' as const, present } })),
  );
  const { tree } = fc.letrec<{ tree: Query }>((tie) => ({
    tree: fc.oneof(
      { depthSize: 'small', withCrossShrink: true },
      leaf,
      fc.array(tie('tree'), { minLength: 2, maxLength: 4 }).map((of) => combine('all', of)),
      fc.array(tie('tree'), { minLength: 2, maxLength: 4 }).map((of) => combine('any', of)),
      tie('tree').map((of) => ({ kind: 'not' as const, of })),
    ),
  }));

  it('any tree, printed, reads as the same tree', () => {
    fc.assert(
      fc.property(tree, (query) => {
        const printed = printQuery(query);
        expect({ printed, ...parseQuery(printed) }).toEqual({ printed, tree: query, issues: [] });
      }),
      { numRuns: 1000 },
    );
  });
  it('any tree, saved, loads as the same tree, and other versions are refused', () => {
    fc.assert(
      fc.property(tree, (query) => expect(loadQuery(JSON.parse(JSON.stringify(saveQuery(query))))).toEqual(query)),
    );
    expect(() => loadQuery({ version: 99, tree: EVERYTHING })).toThrow('version 99');
    expect(() => loadQuery({ version: 1, tree: { kind: 'odd' } })).toThrow('no known kind');
  });

  const FIELD = fc.constantFrom<FieldId>('tag', 'people');
  const choice = fc
    .record({
      chosen: fc.uniqueArray(whole, { maxLength: 4, selector: ({ text: each }) => each }),
      refused: fc.uniqueArray(whole, { maxLength: 3, selector: ({ text: each }) => each }),
      each: fc.boolean(),
    })
    .map(({ each, ...of }): Choice => ({ ...of, mode: each && of.chosen.length > 1 ? 'all' : 'any' }));
  const parts = (query: Query) =>
    (query.kind === 'all' ? query.of : [query]).map((part) => printQuery(part)).toSorted();

  it('any tree, as rows, is the same tree again', () => {
    fc.assert(
      fc.property(tree, (query) => expect(treeOfCriteria(criteriaOf(query, BUILT_IN), BUILT_IN)).toEqual(query)),
      { numRuns: 1000 },
    );
  });
  it('what a search asks of a field, asked of it again, is the same search', () => {
    fc.assert(
      fc.property(tree, FIELD, (query, field) => {
        const again = withChoice(query, field, choiceIn(query, field));
        expect(parts(again)).toEqual(parts(query));
      }),
      { numRuns: 1000 },
    );
  });
  it('what is chosen of a field is what the search asks of it, and all else stays', () => {
    fc.assert(
      fc.property(tree, FIELD, choice, (query, field, wanted) => {
        const cleared = withChoice(query, field, { mode: 'any', chosen: [], refused: [] });
        // A choice that stood beside others is a condition of its own, and would be taken for the choice without them.
        fc.pre(choiceIn(cleared, field).chosen.length === 0);
        const narrowed = withChoice(cleared, field, wanted);
        expect(choiceIn(narrowed, field)).toEqual(wanted);
        expect(parts(withChoice(narrowed, field, { mode: 'any', chosen: [], refused: [] }))).toEqual(parts(cleared));
        expect(parseQuery(printQuery(narrowed))).toEqual({ tree: narrowed, issues: [] });
      }),
      { numRuns: 1000 },
    );
  });
  it.each([
    ['boat tag=dawn place=lock', 'any', ['dawn'], []],
    ['tag=dawn or tag=dusk', 'any', ['dawn', 'dusk'], []],
    ['tag=(dawn or dusk) boat', 'any', ['dawn', 'dusk'], []],
    ['tag=dawn boat tag=dusk', 'all', ['dawn', 'dusk'], []],
    ['-tag=dusk boat', 'any', [], ['dusk']],
    ['boat or tag=dawn', 'any', [], []],
    ['has:tag tag:daw* tag:*aw* boat', 'any', [], []],
    ['-(boat tag=dawn)', 'any', [], []],
  ] as const)('of tags %s asks %s of %j, and none of %j', (text, mode, chosen, refused) => {
    const wholes = (texts: readonly string[]) => texts.map((each) => ({ op: 'whole', text: each }));
    const { tree: query } = parseQuery(text);
    expect(choiceIn(query, 'tag')).toEqual({ mode, chosen: wholes(chosen), refused: wholes(refused) });
  });
});
