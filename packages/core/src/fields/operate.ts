import { array, boolean, lazy, number, object, string, type InferType } from 'yup';
import type { Field } from './built-in';
import { fold } from './fold';
import { keptValue, LINE_LIMIT, type SetValue } from './schema';

/** What can be done to what many assets say in a field, each differently. Saying the same of all is no operation but an edit. */
export const OPERATIONS = ['prefix', 'suffix', 'replace', 'number', 'add', 'remove'] as const;
export type OperationKind = (typeof OPERATIONS)[number];
export const OPERATION_LABELS: Readonly<Record<OperationKind, string>> = {
  prefix: 'Put text before',
  suffix: 'Put text after',
  replace: 'Find and replace',
  number: 'Number them',
  add: 'Add to the list',
  remove: 'Take out of the list',
};

const piece = string().max(1000, 'At most 1,000 characters.');
const listed = array(string().max(LINE_LIMIT).required()).min(1, 'Name at least one.').max(100).required();
const SHAPES = {
  prefix: object({ op: string<'prefix'>().oneOf(['prefix']).required(), text: piece.required('Which text?') }),
  suffix: object({ op: string<'suffix'>().oneOf(['suffix']).required(), text: piece.required('Which text?') }),
  replace: object({
    op: string<'replace'>().oneOf(['replace']).required(),
    find: piece.required('What is to be found?'),
    by: piece.default(''),
    /** Capital and small letters are told apart. */
    exact: boolean().default(false),
  }),
  number: object({
    op: string<'number'>().oneOf(['number']).required(),
    /** `#` stands for the number, several for as many digits. */
    pattern: string()
      .max(LINE_LIMIT)
      .matches(/^[^#]*#{1,9}[^#]*$/, 'The pattern has one run of # where the number goes, such as Take ##.')
      .required('The pattern has one run of # where the number goes, such as Take ##.'),
    from: number().integer('It begins with a whole number.').min(0).max(1e9).default(1),
    step: number().integer('The step is a whole number.').min(-1e6).max(1e6).default(1),
  }),
  add: object({ op: string<'add'>().oneOf(['add']).required(), names: listed }),
  remove: object({ op: string<'remove'>().oneOf(['remove']).required(), names: listed }),
} as const satisfies Record<OperationKind, unknown>;

export type Operation = { [Op in OperationKind]: InferType<(typeof SHAPES)[Op]> }[OperationKind];

export const operationSchema = lazy((value: unknown) => {
  const { op } = (value ?? {}) as { op?: unknown };
  const shape = typeof op === 'string' && Object.hasOwn(SHAPES, op) ? SHAPES[op as OperationKind] : null;
  return (
    shape?.noUnknown().required() ??
    object({ op: string().oneOf(OPERATIONS, 'That is nothing that can be done to a field.').required() }).required()
  );
});

/** What can be done to a field of this type. */
export function operationsOn({ type }: Pick<Field, 'type'>): readonly OperationKind[] {
  switch (type) {
    case 'text':
    case 'longText':
      return ['prefix', 'suffix', 'replace', 'number'];
    case 'names':
      return ['add', 'remove', 'replace'];
    case 'choices':
      return ['add', 'remove'];
    case 'number':
      return ['number'];
    case 'url':
      return ['replace', 'prefix', 'suffix'];
    default:
      return [];
  }
}

const escaped = (text: string): string => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');

const lines = (value: SetValue): readonly string[] =>
  value === null ? [] : typeof value === 'object' ? value : [String(value)];

const unique = (names: readonly string[]): string[] => [...new Map(names.map((name) => [fold(name), name])).values()];

function replaced(value: SetValue, { find, by, exact }: Extract<Operation, { op: 'replace' }>): SetValue {
  const pattern = new RegExp(escaped(find), exact ? 'gu' : 'giu');
  const one = (text: string): string => text.replace(pattern, () => by);
  if (value === null) return null;
  return typeof value === 'object'
    ? unique(
        value
          .map(one)
          .map((name) => name.trim())
          .filter(Boolean),
      )
    : one(String(value));
}

/** A list with names that it has not; in the spelling that was there first. */
function added(value: SetValue, names: readonly string[]): SetValue {
  const had = lines(value);
  const missing = unique(names).filter((name) => !had.some((each) => fold(each) === fold(name)));
  return missing.length === 0 ? value : [...had, ...missing];
}

/** The number in its place, with at least as many digits as the pattern has signs. */
const numbered = (pattern: string, n: number): string =>
  pattern.replace(/#+/, (signs) => `${n < 0 ? '-' : ''}${String(Math.abs(n)).padStart(signs.length, '0')}`);

/**
 * What a field says after an operation, given what it said and which of the assets it is, counted from 0 in the order in which a
 * person sees them. Whether it may say so is the field's schema's to decide.
 */
export function operate(operation: Operation, field: Pick<Field, 'type'>, value: SetValue, index: number): SetValue {
  switch (operation.op) {
    case 'prefix':
      return `${operation.text}${String(value ?? '')}`;
    case 'suffix':
      return `${String(value ?? '')}${operation.text}`;
    case 'replace':
      return keptValue(replaced(value, operation));
    case 'number': {
      const n = operation.from + index * operation.step;
      return field.type === 'number' ? n : numbered(operation.pattern, n);
    }
    case 'add':
      return added(value, operation.names);
    case 'remove': {
      const gone = new Set(operation.names.map(fold));
      return keptValue(lines(value).filter((name) => !gone.has(fold(name))));
    }
    default:
      return operation satisfies never;
  }
}
