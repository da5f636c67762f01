import { BUILT_IN, type FieldId, type FieldRegistry, type RegisteredField } from '../fields';
import { hasForms } from './forms';
import { printHeard } from './heard';
import { KEYWORDS } from './lex';
import { printNear } from './near';
import { printRelative } from './relative';
import { isOfWords } from './says';
import type { FieldTest, Query, WordsTest } from './tree';
import { printSpan } from './values';

/** @param field what is asked, if it is one; words of a list have no forms, and need no quotes to tell */
function printText(test: WordsTest, field?: RegisteredField): string {
  if (test.op === 'forms') return test.text.replace(/ /g, '-');
  if (test.op === 'part') return `*${test.text.replace(/ /g, '-')}${test.ends ? '' : '*'}`;
  const { text, prefix } = test;
  if (prefix) return `${text.replace(/ /g, '-')}*`;
  return hasForms(text) && !field?.choices ? `"${text}"` : printWords(text);
}

const printWords = (text: string): string => (text.includes(' ') || KEYWORDS.has(text) ? `"${text}"` : text);

function printField(id: FieldId, test: FieldTest, fields: FieldRegistry): string {
  const name = fields.nameOf(id);
  switch (test.op) {
    case 'forms':
    case 'text':
    case 'part':
      return `${name}:${printText(test, fields.byId(id))}`;
    case 'whole':
      return `${name}=${printWords(test.text)}`;
    case 'span':
      return name + printSpan(fields.byId(id) ?? { type: 'number' }, test);
    case 'calendar':
    case 'age':
      return name + printRelative(test);
    case 'near':
    case 'around': {
      const place = printNear(test);
      // Of where something was recorded the other name reads better.
      return `${id === 'position' ? 'near' : name}:${place.includes(' ') ? `"${place}"` : place}`;
    }
    case 'heard': {
      const heard = printHeard(test);
      return `${name}:${/[ ,|]/.test(heard) || KEYWORDS.has(heard) ? `"${heard}"` : heard}`;
    }
    case 'presence':
      return `${test.present ? 'has' : 'no'}:${name}`;
    default:
      return test satisfies never;
  }
}

/** Several words of which one is to be said in a field: `tag=(dawn or dusk)`; null if that is not what is asked. */
function printList(parts: readonly Query[], fields: FieldRegistry): string | null {
  const [first] = parts;
  if (first?.kind !== 'field' || !isOfWords(first.test)) return null;
  const whole = first.test.op === 'whole';
  const written = parts.map((part) => {
    if (part.kind !== 'field' || part.field !== first.field) return null;
    if (!isOfWords(part.test) || (part.test.op === 'whole') !== whole) return null;
    return part.test.op === 'whole' ? printWords(part.test.text) : printText(part.test, fields.byId(first.field));
  });
  if (written.includes(null)) return null;
  return `${fields.nameOf(first.field)}${whole ? '=' : ':'}(${written.join(' or ')})`;
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
