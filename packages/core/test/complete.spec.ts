import fc from 'fast-check';
import { BUILT_IN } from '@larder/core/fields';
import {
  begunAt,
  parseQuery,
  proposedChoices,
  proposedFields,
  proposedValues,
  taken,
  writtenValue,
  type Begun,
  type Query,
} from '@larder/core/query';

/** Where the bar stands is the caret. */
const at = (marked: string): Begun | null => begunAt(marked.replace('|', ''), marked.indexOf('|'), BUILT_IN);
const said = (marked: string) => {
  const begun = at(marked);
  return begun && [begun.kind, begun.field?.id ?? null, begun.text, begun.rest];
};

describe('what is being written', () => {
  it.each([
    ['ta|', ['name', null, 'ta', '']],
    ['boat -ta|', ['name', null, 'ta', '']],
    ['tag:|', ['value', 'tag', '', '']],
    ['boat tag:da| or lock', ['value', 'tag', 'da', 'boat or lock']],
    ['boat -tag:da|', ['value', 'tag', 'da', 'boat']],
    ['tag:"golden h|', ['value', 'tag', 'golden h', '']],
    ['tag:(dawn or du|', ['value', 'tag', 'du', '']],
    ['tag:(dawn or (du|', ['value', 'tag', 'du', '']],
    ['(boat tag:da|', ['value', 'tag', 'da', '']],
    ['has:pl|', ['presence', null, 'pl', '']],
    ['no:|', ['presence', null, '', '']],
    ['fps:2|', ['value', 'rate', '2', '']],
    ['"a phrase|', null],
    ['tag:"golden hour"|', null],
    ['ta|g:dawn', null],
    ['boat |', null],
    ['|boat', null],
    ['(dawn)|', null],
    ['colour:re|', null],
  ] as const)('%s', (marked, wanted) => expect(said(marked)).toEqual(wanted));
  it('is found or not, whatever stands there', () =>
    fc.assert(
      fc.property(fc.string({ maxLength: 40 }), fc.nat(40), (text, caret) => {
        const begun = begunAt(text, Math.min(caret, text.length), BUILT_IN);
        if (begun) expect(begun.from).toBeLessThanOrEqual(begun.to);
      }),
      { numRuns: 2000 },
    ));
});

describe('what is proposed', () => {
  const inserts = (proposals: readonly { insert: string }[] | null) => proposals?.map(({ insert }) => insert);
  const fieldsAt = (marked: string) => inserts(proposedFields(at(marked) as Begun, BUILT_IN, 4));
  it('fields by their names and labels, the nearest first', () => {
    expect(fieldsAt('ta|')?.slice(0, 2)).toEqual(['tag:', 'take:']);
    expect(fieldsAt('has:pla|')).toEqual(['place']);
    expect(fieldsAt('fp|')).toEqual(['fps:']);
    expect(fieldsAt('zzz|')).toEqual([]);
  });
  it('what may be said in a field, where that is known', () => {
    expect(inserts(proposedChoices(at('verdict:c|') as Begun, 5))).toEqual(['circled']);
    expect(inserts(proposedChoices(at('added:week|') as Begun, 5))).toEqual(['this-week', 'last-week']);
    expect(proposedChoices(at('duration:1|') as Begun, 5)).toEqual([]);
    expect(proposedChoices(at('people:a|') as Begun, 5)).toBeNull();
    expect(proposedChoices(at('notes:a|') as Begun, 5)).toEqual([]);
  });
  it('values that are said, with how many say them', () => {
    const counted = [
      { value: 'golden hour', count: 7 },
      { value: 'dawn', count: 3 },
    ];
    expect(proposedValues(at('tag:ho|') as Begun, counted, 5)).toEqual([
      { insert: '"golden hour"', label: 'golden hour', count: 7 },
    ]);
    expect(proposedValues(at('tag:|') as Begun, counted, 5)).toHaveLength(2);
  });
  it('is put in place of what was begun, ready to go on', () => {
    const take = (marked: string, insert: string) =>
      taken(marked.replace('|', ''), at(marked) as Begun, { insert, label: '', count: null });
    expect(take('boat ta|', 'tag:')).toEqual({ text: 'boat tag:', caret: 9 });
    expect(take('tag:go| boat', '"golden hour"')).toEqual({ text: 'tag:"golden hour" boat', caret: 17 });
    expect(take('tag:(a or d|)', 'dawn')).toEqual({ text: 'tag:(a or dawn)', caret: 14 });
    expect(take('tag:da|', 'dawn')).toEqual({ text: 'tag:dawn ', caret: 9 });
  });
  it('any value, as it is written, is read as it was', () =>
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', minLength: 1, maxLength: 20 }), (value) => {
        const { tree, issues } = parseQuery(`tag:${writtenValue(value)}`);
        const quoted = parseQuery(`tag:"${value.replace(/(["\\])/g, '\\$1')}"`);
        // Without quotes its words may be said in other forms, too.
        const exact = (query: Query): Query =>
          query.kind === 'field' && query.test.op === 'forms'
            ? { ...query, test: { op: 'text', text: query.test.text, prefix: false } }
            : query;
        expect({ tree: exact(tree), codes: issues.map(({ code }) => code) }).toEqual({
          tree: quoted.tree,
          codes: quoted.issues.map(({ code }) => code),
        });
      }),
    ));
});
