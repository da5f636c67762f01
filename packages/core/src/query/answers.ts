import { isNumericType, type FieldId, type FieldRegistry, type FieldValue, type FieldValues } from '../fields';
import { readPosition, within } from '../position';
import { spanAt } from './relative';
import { answersTest, askedOf, wordedText } from './says';
import type { FieldTest, Query, WholeTest, WordsTest } from './tree';

/** What one asset says, as the index is told of it. */
export interface Said {
  readonly values: FieldValues;
  /** Other words for what is said in a field. */
  readonly also?: Readonly<Partial<Record<FieldId, readonly string[]>>>;
}

const textsOf = (value: FieldValue | undefined): readonly string[] =>
  value === undefined ? [] : typeof value === 'object' ? value : [String(value)];

/** Whether a single asset answers a search at a moment: as the index would say, without one. Places are no more than their positions. */
export function answersQuery(tree: Query, said: Said, fields: FieldRegistry, nowMs: number): boolean {
  switch (tree.kind) {
    case 'all':
      return tree.of.every((part) => answersQuery(part, said, fields, nowMs));
    case 'any':
      return tree.of.some((part) => answersQuery(part, said, fields, nowMs));
    case 'not':
      return !answersQuery(tree.of, said, fields, nowMs);
    case 'words':
      return fields.plain.some((field) => saysWords(said, field, tree.test, fields));
    case 'field':
      return answersField(tree.field, tree.test, said, fields, nowMs);
    default:
      return tree satisfies never;
  }
}

function answersField(field: FieldId, test: FieldTest, said: Said, fields: FieldRegistry, nowMs: number): boolean {
  const value = said.values[field];
  switch (test.op) {
    case 'forms':
    case 'text':
    case 'part':
    case 'whole':
      return saysWords(said, field, test, fields);
    case 'presence':
      return textsOf(value).some((text) => text !== '') === test.present;
    case 'near': {
      const place = typeof value === 'string' ? readPosition(value) : null;
      return place !== null && within(test, test.metres)(place);
    }
    case 'around':
      // Where a place lies is told by other assets.
      return false;
    case 'heard':
      // How words sound is not known here.
      return false;
    case 'calendar':
    case 'age':
      return answersField(field, spanAt(test, nowMs), said, fields, nowMs);
    case 'span':
      return (
        typeof value === 'number' && (test.from === null || value >= test.from) && (test.to === null || value < test.to)
      );
    default:
      return test satisfies never;
  }
}

function saysWords({ values, also }: Said, id: FieldId, asked: WordsTest | WholeTest, fields: FieldRegistry): boolean {
  const field = fields.byId(id);
  const value = values[id];
  if (value === undefined || (field && (isNumericType(field.type) || field.type === 'position'))) return false;
  return answersTest(wordedText([...textsOf(value), ...(also?.[id] ?? [])]), askedOf(field, asked));
}
