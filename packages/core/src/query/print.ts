import { BUILT_IN, type FieldId, type FieldRegistry } from '../fields';
import { printNear } from './near';
import { printRelative } from './relative';
import type { FieldTest, Query, WholeTest, WordsTest } from './tree';
import { printSpan } from './values';

const RESERVED = new Set(['or', 'and', 'not']);

const printText = (test: WordsTest): string => {
  if (test.op === 'part') return `*${test.text.replace(/ /g, '-')}${test.ends ? '' : '*'}`;
  const { text, prefix } = test;
  if (prefix) return `${text.replace(/ /g, '-')}*`;
  return printWords(text);
};

const printWords = (text: string): string => (text.includes(' ') || RESERVED.has(text) ? `"${text}"` : text);

function printField(id: FieldId, test: FieldTest, fields: FieldRegistry): string {
  const name = fields.nameOf(id);
  switch (test.op) {
    case 'text':
    case 'part':
      return `${name}:${printText(test)}`;
    case 'whole':
      return `${name}=${printWords(test.text)}`;
    case 'span':
      return name + printSpan(fields.byId(id) ?? { type: 'number' }, test);
    case 'calendar':
    case 'age':
      return name + printRelative(test);
    case 'near':
      // Of where something was recorded the other name reads better.
      return `${id === 'position' ? 'near' : name}:${printNear(test)}`;
    case 'presence':
      return `${test.present ? 'has' : 'no'}:${name}`;
    default:
      return test satisfies never;
  }
}

/** Several words of which one is to be said in a field: `tag=(dawn or dusk)`; null if that is not what is asked. */
function printList(parts: readonly Query[], fields: FieldRegistry): string | null {
  const [first] = parts;
  if (first?.kind !== 'field' || (first.test.op !== 'text' && first.test.op !== 'whole')) return null;
  const written = parts.map((part) =>
    part.kind === 'field' && part.field === first.field && part.test.op === first.test.op
      ? part.test.op === 'text'
        ? printText(part.test)
        : printWords((part.test as WholeTest).text)
      : null,
  );
  if (written.includes(null)) return null;
  return `${fields.nameOf(first.field)}${first.test.op === 'whole' ? '=' : ':'}(${written.join(' or ')})`;
}

/** Writes a tree in the search language, so that `parseQuery` with the same fields reads the same tree again. */
export function printQuery(tree: Query, fields: FieldRegistry = BUILT_IN): string {
  const bracket = (inner: Query, ...kinds: Query['kind'][]) => {
    const text = printQuery(inner, fields);
    // A list has brackets of its own.
    const loose = kinds.includes(inner.kind) && !(inner.kind === 'any' && printList(inner.of, fields));
    return loose ? `(${text})` : text;
  };
  switch (tree.kind) {
    case 'all':
      return tree.of.map((part) => bracket(part, 'any')).join(' ');
    case 'any':
      return printList(tree.of, fields) ?? tree.of.map((part) => bracket(part)).join(' or ');
    case 'not':
      return `-${bracket(tree.of, 'any', 'all', 'not')}`;
    case 'words':
      return printText(tree.test);
    case 'field':
      return printField(tree.field, tree.test, fields);
    default:
      return tree satisfies never;
  }
}
