import { combine } from './parse';
import type { FieldTest, Query } from './tree';
import type { FieldId } from '../fields';

/** What a search asks of one field as things to choose from: the same tree, seen from that field. */
export interface Choice {
  /** One of the chosen is enough, or each must be there. */
  readonly mode: 'any' | 'all';
  readonly chosen: readonly FieldTest[];
  /** What must not be there. */
  readonly refused: readonly FieldTest[];
}

/** What could be one of several things to choose from; what is begun, near or recent is a condition of its own, as is that anything is said. */
const isChoosable = (test: FieldTest): boolean =>
  test.op === 'whole' ||
  test.op === 'span' ||
  test.op === 'forms' ||
  (test.op === 'text' && !test.prefix) ||
  (test.op === 'presence' && !test.present);

const asksOf = (part: Query, field: FieldId): FieldTest[] =>
  part.kind === 'field' && part.field === field && isChoosable(part.test) ? [part.test] : [];

/** What a search asks for all of. */
export const partsOf = (tree: Query): readonly Query[] => (tree.kind === 'all' ? tree.of : [tree]);

/** The tests of a part that asks for nothing but one of several things said in the field; null for any other. */
const anyOf = (part: Query, field: FieldId): FieldTest[] | null => {
  if (part.kind !== 'any' || part.of.length === 0) return null;
  const tests = part.of.flatMap((each) => asksOf(each, field));
  return tests.length === part.of.length ? tests : null;
};

interface Seen extends Choice {
  /** Where in the search's parts these stand. */
  readonly at: readonly number[];
}

function seen(parts: readonly Query[], field: FieldId): Seen {
  const found = parts.map((part, at) => ({ at, part }));
  const single = found.flatMap(({ at, part }) => asksOf(part, field).map((test) => ({ at, test })));
  const refused = found.flatMap(({ at, part }) =>
    part.kind === 'not' ? asksOf(part.of, field).map((test) => ({ at, test })) : [],
  );
  const several = found.flatMap(({ at, part }) => {
    const tests = anyOf(part, field);
    return tests ? [{ at, tests }] : [];
  });
  const [only] = several;
  // A choice within a choice is neither of the two; then the several stand as a condition of their own.
  const oneOf = single.length === 0 && several.length === 1 && only ? only : null;
  return {
    mode: oneOf || single.length < 2 ? 'any' : 'all',
    chosen: oneOf ? oneOf.tests : single.map(({ test }) => test),
    refused: refused.map(({ test }) => test),
    at: [...(oneOf ? [oneOf.at] : single.map(({ at }) => at)), ...refused.map(({ at }) => at)],
  };
}

/** What a search asks of a field. */
export function choiceIn(tree: Query, field: FieldId): Choice {
  const { mode, chosen, refused } = seen(partsOf(tree), field);
  return { mode, chosen, refused };
}

/** The search with that asked of the field instead, where it was asked before or at the end. */
export function withChoice(tree: Query, field: FieldId, { mode, chosen, refused }: Choice): Query {
  const parts = partsOf(tree);
  const { at } = seen(parts, field);
  const first = at.length > 0 ? Math.min(...at) : parts.length;
  const asks = (test: FieldTest): Query => ({ kind: 'field', field, test });
  const own = [
    ...(mode === 'any' ? [combine('any', chosen.map(asks))] : chosen.map(asks)),
    ...refused.map((test): Query => ({ kind: 'not', of: asks(test) })),
  ];
  return combine('all', [
    ...parts.slice(0, first),
    ...own,
    ...parts.slice(first).filter((_unused, index) => !at.includes(first + index)),
  ]);
}

/** The search in which what a field offers is counted: where one of several is enough, without the ones that are chosen. */
export function offeredIn(tree: Query, field: FieldId): Query {
  const choice = choiceIn(tree, field);
  return choice.mode === 'any' ? withChoice(tree, field, { ...choice, chosen: [] }) : tree;
}

/** Whether two tests ask the same. */
export const sameTest = (a: FieldTest, b: FieldTest): boolean =>
  Object.keys(a).length === Object.keys(b).length &&
  Object.entries(a).every(([key, value]) => (b as unknown as Record<string, unknown>)[key] === value);
