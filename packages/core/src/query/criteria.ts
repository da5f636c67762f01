import { words, type FieldId, type FieldRegistry, type RegisteredField } from '../fields';
import { isHeardField, printHeard, readHeard } from './heard';
import { printNear, readNear } from './near';
import { hasForms } from './forms';
import { asWhole, combine, isChoice } from './parse';
import { printRelative, readRelative } from './relative';
import { EVERYTHING, type Comparison, type FieldTest, type Query, type SpanTest, type WordsTest } from './tree';
import { isOfWords } from './says';
import { expectedValue, isNumeric, printSpan, readSpan } from './values';

const OF_WORDS = ['says', 'exactly', 'begins', 'ends', 'holds'] as const;
const OF_NUMBERS = ['is', 'less', 'most', 'more', 'least', 'between'] as const;
const OF_DATES = ['in', 'younger', 'older'] as const;
const OF_ALL = ['anything', 'nothing'] as const;
/** What a row asks of its field. */
export type Condition =
  (typeof OF_WORDS | typeof OF_NUMBERS | typeof OF_DATES | typeof OF_ALL)[number] | 'near' | 'heard';

/** One row: a field (null for those that plain words look in), a condition and a value, as people write it; or the contrary of that. */
export interface Criterion {
  readonly kind: 'criterion';
  readonly field: FieldId | null;
  readonly negated: boolean;
  readonly condition: Condition;
  /** Between two: `10s..20s`. */
  readonly value: string;
}

/** Rows and groups of which all, any or none must be so. */
export interface CriteriaGroup {
  readonly kind: 'group';
  readonly of: 'all' | 'any' | 'none';
  readonly parts: readonly (Criterion | CriteriaGroup)[];
}

/** Conditions that can be put to a field, the usual one first. */
export function conditionsFor(field: RegisteredField | null): readonly Condition[] {
  if (!field) return OF_WORDS.filter((condition) => condition !== 'exactly');
  if (isHeardField(field)) return ['heard'];
  if (field.type === 'position') return ['near', ...OF_ALL];
  if (field.type === 'dateMs') return [...OF_NUMBERS, ...OF_DATES, ...OF_ALL];
  if (isNumeric(field)) return [...OF_NUMBERS, ...OF_ALL];
  // One of a list is meant as a whole anyway.
  return field.choices ? ['says', ...OF_ALL] : [...OF_WORDS, ...OF_ALL];
}

export const takesValue = (condition: Condition): boolean => condition !== 'anything' && condition !== 'nothing';

const COMPARISON_OF: Readonly<Partial<Record<Condition, Comparison>>> = {
  less: '<',
  most: '<=',
  more: '>',
  least: '>=',
};

/** What a row asks; null where its value is none for its field, or is still missing. */
function testOf({ field: id, condition, value }: Criterion, fields: FieldRegistry): FieldTest | null {
  const field = id === null ? null : (fields.byId(id) ?? null);
  const text = value.trim();
  if (condition === 'anything' || condition === 'nothing') return { op: 'presence', present: condition === 'anything' };
  if (id !== null && !field) return null;
  switch (condition) {
    case 'near':
      return readNear(text);
    case 'heard':
      return readHeard(text);
    case 'in':
      return readRelative(null, text);
    case 'younger':
    case 'older':
      return readRelative(condition === 'younger' ? '<' : '>', text);
    case 'is':
    case 'less':
    case 'most':
    case 'more':
    case 'least':
    case 'between':
      if (!field || text.includes('..') !== (condition === 'between')) return null;
      return readSpan(field, COMPARISON_OF[condition] ?? null, text);
    default:
      return wordsTest(field, condition, words(text).join(' '), /^".*"$/.test(text));
  }
}

function wordsTest(
  field: RegisteredField | null,
  condition: (typeof OF_WORDS)[number],
  text: string,
  quoted: boolean,
): FieldTest | null {
  if (text === '' || (field && (isNumeric(field) || field.type === 'position'))) return null;
  const test = ((): FieldTest => {
    switch (condition) {
      case 'says':
        // As in the search line: in quotes the very words, without in any of their forms.
        return !quoted && hasForms(text) && !field?.choices
          ? { op: 'forms', text }
          : { op: 'text', text, prefix: false };
      case 'exactly':
        return field ? asWhole(field, { op: 'text', text, prefix: false }) : { op: 'whole', text };
      case 'begins':
        return { op: 'text', text, prefix: true };
      case 'ends':
        return { op: 'part', text, ends: true };
      case 'holds':
        return { op: 'part', text, ends: false };
      default:
        return condition satisfies never;
    }
  })();
  return field?.choices && !isChoice(field.choices, test) ? null : test;
}

/** What is wrong with a row's value, in words; null while nothing is, or nothing was written yet. */
export function criterionIssue(row: Criterion, fields: FieldRegistry): string | null {
  if (!takesValue(row.condition) || row.value.trim() === '' || testOf(row, fields)) return null;
  const field = row.field === null ? null : fields.byId(row.field);
  if (row.condition === 'in') return 'Write today, yesterday, this-week, last-week or the like.';
  if (row.condition === 'younger' || row.condition === 'older') return 'Write an age such as 1h, 3d, 2w or 6mo.';
  return `Write ${field?.choices?.join(', ') ?? (field ? expectedValue(field) : 'a word')}.`;
}

/** The search that rows ask for. Rows without a value that can be read ask for nothing. */
export function treeOfCriteria(group: CriteriaGroup, fields: FieldRegistry): Query {
  const parts = group.parts
    .map((part) => (part.kind === 'group' ? treeOfCriteria(part, fields) : treeOfRow(part, fields)))
    .filter((part) => part !== EVERYTHING);
  if (parts.length === 0) return EVERYTHING;
  return group.of === 'none' ? { kind: 'not', of: combine('any', parts) } : combine(group.of, parts);
}

function treeOfRow(row: Criterion, fields: FieldRegistry): Query {
  const test = testOf(row, fields);
  if (!test) return EVERYTHING;
  if (row.field === null && (!isOfWords(test) || test.op === 'whole')) return EVERYTHING;
  const asked: Query =
    row.field === null ? { kind: 'words', test: test as WordsTest } : { kind: 'field', field: row.field, test };
  return row.negated ? { kind: 'not', of: asked } : asked;
}

/** A search as rows, so that `treeOfCriteria` gives the same search again. */
export function criteriaOf(tree: Query, fields: FieldRegistry): CriteriaGroup {
  const part = partOf(tree, fields);
  return part.kind === 'group' ? part : { kind: 'group', of: 'all', parts: [part] };
}

function partOf(tree: Query, fields: FieldRegistry): Criterion | CriteriaGroup {
  switch (tree.kind) {
    case 'all':
    case 'any':
      return { kind: 'group', of: tree.kind, parts: tree.of.map((part) => partOf(part, fields)) };
    case 'not': {
      const { of } = tree;
      if (of.kind === 'words' || of.kind === 'field') return { ...rowOf(of, fields), negated: true };
      const parts = of.kind === 'any' ? of.of : [of];
      return { kind: 'group', of: 'none', parts: parts.map((part) => partOf(part, fields)) };
    }
    default:
      return rowOf(tree, fields);
  }
}

function rowOf(tree: Extract<Query, { kind: 'words' | 'field' }>, fields: FieldRegistry): Criterion {
  const field = tree.kind === 'field' ? tree.field : null;
  return {
    kind: 'criterion',
    field,
    negated: false,
    ...conditionOf(tree.test, field ? fields.byId(field) : undefined),
  };
}

function conditionOf(test: FieldTest, field: RegisteredField | undefined): Pick<Criterion, 'condition' | 'value'> {
  switch (test.op) {
    case 'forms':
      return { condition: 'says', value: test.text };
    case 'text': {
      const asListed = field?.choices?.find((choice) => words(choice).join(' ') === test.text);
      if (test.prefix) return { condition: 'begins', value: test.text };
      const exact = !field?.choices && hasForms(test.text);
      return { condition: 'says', value: asListed ?? (exact ? `"${test.text}"` : test.text) };
    }
    case 'whole':
      return { condition: 'exactly', value: test.text };
    case 'part':
      return { condition: test.ends ? 'ends' : 'holds', value: test.text };
    case 'presence':
      return { condition: test.present ? 'anything' : 'nothing', value: '' };
    case 'near':
    case 'around':
      return { condition: 'near', value: printNear(test) };
    case 'heard':
      return { condition: 'heard', value: printHeard(test) };
    case 'calendar':
      return { condition: 'in', value: printRelative(test).slice(1) };
    case 'age':
      return { condition: test.younger ? 'younger' : 'older', value: printRelative(test).slice(1) };
    case 'span':
      return ofSpan(test, field);
    default:
      return test satisfies never;
  }
}

function ofSpan(test: SpanTest, field: RegisteredField | undefined): Pick<Criterion, 'condition' | 'value'> {
  const [, operator = ':', value = ''] = /^(:|>=|<=|>|<)(.*)$/.exec(printSpan(field ?? { type: 'number' }, test)) ?? [];
  const compared = (Object.keys(COMPARISON_OF) as Condition[]).find((each) => COMPARISON_OF[each] === operator);
  return { condition: compared ?? (value.includes('..') ? 'between' : 'is'), value };
}
