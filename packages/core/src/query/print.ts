import { fieldById, type FieldId } from '../fields';
import type { FieldTest, Query, TextTest } from './tree';
import { printSpan } from './values';

const RESERVED = new Set(['or', 'and', 'not']);

const printText = ({ text, prefix }: TextTest): string => {
  if (prefix) return `${text.replace(/ /g, '-')}*`;
  return text.includes(' ') || RESERVED.has(text) ? `"${text}"` : text;
};

function printField(field: FieldId, test: FieldTest): string {
  switch (test.op) {
    case 'text':
      return `${field}:${printText(test)}`;
    case 'span':
      return field + printSpan(fieldById(field), test);
    case 'presence':
      return `${test.present ? 'has' : 'no'}:${field}`;
    default:
      return test satisfies never;
  }
}

/** Writes a tree in the search language, so that `parseQuery` reads the same tree again. */
export function printQuery(tree: Query): string {
  const bracket = (inner: Query, ...kinds: Query['kind'][]) =>
    kinds.includes(inner.kind) ? `(${printQuery(inner)})` : printQuery(inner);
  switch (tree.kind) {
    case 'all':
      return tree.of.map((part) => bracket(part, 'any')).join(' ');
    case 'any':
      return tree.of.map((part) => bracket(part)).join(' or ');
    case 'not':
      return `-${bracket(tree.of, 'any', 'all', 'not')}`;
    case 'words':
      return printText(tree.test);
    case 'field':
      return printField(tree.field, tree.test);
    default:
      return tree satisfies never;
  }
}
