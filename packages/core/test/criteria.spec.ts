import { BUILT_IN, type FieldId } from '@larder/core/fields';
import {
  conditionsFor,
  criteriaOf,
  criterionIssue,
  EVERYTHING,
  parseQuery,
  printQuery,
  treeOfCriteria,
  type Condition,
  type CriteriaGroup,
  type Criterion,
} from '@larder/core/query';

const row = (field: FieldId | null, condition: Condition, value = '', negated = false): Criterion => ({
  ...{ kind: 'criterion', field, condition, value, negated },
});
const group = (of: CriteriaGroup['of'], ...parts: CriteriaGroup['parts']): CriteriaGroup => ({
  kind: 'group',
  of,
  parts,
});
const textOf = (of: CriteriaGroup) => printQuery(treeOfCriteria(of, BUILT_IN));

describe('a search as rows', () => {
  it.each<[string, CriteriaGroup]>([
    ['boat', group('all', row(null, 'says', 'boat'))],
    [
      'boat* -*oat *boat',
      group('all', row(null, 'begins', 'boat'), row(null, 'ends', 'oat', true), row(null, 'ends', 'boat')),
    ],
    [
      'tag:"low water" tag="low water"',
      group('all', row('tag', 'says', '"low water"'), row('tag', 'exactly', 'low water')),
    ],
    ['framing:close-up', group('all', row('framing', 'says', 'close-up'))],
    [
      'duration>10s or duration:10s..20s',
      group('any', row('duration', 'more', '10s'), row('duration', 'between', '10s..20s')),
    ],
    ['size<2GB take=3', group('all', row('size', 'less', '2000000000'), row('take', 'exactly', '3'))],
    ['shot:last-week added<3d', group('all', row('shot', 'in', 'last-week'), row('added', 'younger', '3d'))],
    ['has:place no:tag', group('all', row('place', 'anything'), row('tag', 'nothing'))],
    ['near:"low quay,20km"', group('all', row('position', 'near', 'low quay,20km'))],
    ['near:50.412,-3.518,2km', group('all', row('position', 'near', '50.412,-3.518,2km'))],
    ['-(dawn or dusk)', group('none', row(null, 'says', 'dawn'), row(null, 'says', 'dusk'))],
    ['-(dawn dusk)', group('none', group('all', row(null, 'says', 'dawn'), row(null, 'says', 'dusk')))],
    [
      'lock (dawn or -dusk)',
      group('all', row(null, 'says', 'lock'), group('any', row(null, 'says', 'dawn'), row(null, 'says', 'dusk', true))),
    ],
  ])('%s', (text, rows) => {
    const { tree } = parseQuery(text);
    expect(criteriaOf(tree, BUILT_IN)).toEqual(rows);
    expect(treeOfCriteria(rows, BUILT_IN)).toEqual(tree);
  });

  it('everything is no row, and no rows are everything', () => {
    expect(criteriaOf(EVERYTHING, BUILT_IN)).toEqual(group('all'));
    for (const how of ['all', 'any', 'none'] as const)
      expect(treeOfCriteria(group(how, group(how)), BUILT_IN)).toBe(EVERYTHING);
  });

  it('what is still being filled in asks for nothing, and is not complained of', () => {
    const begun = [
      row(null, 'says'),
      row('duration', 'more'),
      row('verdict', 'says', '  '),
      row('shot', 'between', ''),
    ];
    expect(textOf(group('all', row(null, 'says', 'boat'), ...begun))).toBe('boat');
    expect(begun.map((each) => criterionIssue(each, BUILT_IN))).toEqual([null, null, null, null]);
  });

  it.each<[Criterion, string]>([
    [row('duration', 'more', 'long'), 'a duration such as 10s'],
    [row('duration', 'is', '10s..20s'), 'a duration such as 10s'],
    [row('duration', 'says', 'ten'), 'a duration'],
    [row('shot', 'between', '2026-05'), 'a date such as'],
    [row('shot', 'in', 'constructor'), 'today, yesterday'],
    [row('added', 'younger', 'young'), 'an age such as'],
    [row('verdict', 'says', 'splendid'), 'circled, hold, ng'],
    [row('position', 'near', '91,0'), 'a place and how far'],
    [row(null, 'says', '—!'), 'a word'],
  ])('a value that cannot be read asks for nothing, and is told of: %j', (each, words) => {
    expect(criterionIssue(each, BUILT_IN)).toContain(words);
    expect(textOf(group('all', row(null, 'says', 'boat'), each))).toBe('boat');
  });

  it('every field has conditions, and none of words is put to numbers', () => {
    expect(conditionsFor(null)).not.toContain('anything');
    for (const field of BUILT_IN.all) {
      const conditions = conditionsFor(field);
      // What is heard is what is said, and asked for there.
      if (field.id === 'heard') {
        expect(conditions).toEqual(['heard']);
        continue;
      }
      expect(conditions.slice(-2)).toEqual(['anything', 'nothing']);
      expect(conditions.includes('says')).toBe(
        !['durationMs', 'bytes', 'dateMs', 'number', 'timecodeLabel', 'position'].includes(field.type),
      );
    }
  });
});
