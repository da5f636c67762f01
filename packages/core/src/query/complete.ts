import { fold, isNumericType, type FieldRegistry, type RegisteredField } from '../fields';
import { lex, type Token } from './lex';
import { parseQuery } from './parse';
import { CALENDAR_WORDS } from './relative';

/** What somebody has begun to write, and what it would stand in place of. */
export interface Begun {
  /** The name of a field; a field's name after `has:` or `no:`; or something said in a field. */
  readonly kind: 'name' | 'presence' | 'value';
  readonly field: RegisteredField | null;
  readonly text: string;
  /** The characters that a proposal takes the place of. */
  readonly from: number;
  readonly to: number;
  /** The search without what is begun, or all where it makes no sense without: what values are counted in. */
  readonly rest: string;
}

/** Something to be written instead of what is begun. */
export interface Proposal {
  readonly insert: string;
  readonly label: string;
  /** How many assets say it; null where that was not counted. */
  readonly count: number | null;
}

const endOf = ({ at, length }: Token): number => at + length;

/** Finds what is being written before a caret; null within or after something that is whole. */
export function begunAt(text: string, caret: number, fields: FieldRegistry): Begun | null {
  const within: (Token | null)[] = [];
  let before: Token | null = null;
  for (const token of lex(text)) {
    // A field's name that what follows belongs to: it touches it, or stands before its bracket.
    const owner: Token | null =
      before?.type === 'field' && endOf(before) === token.at ? before : (within.at(-1) ?? null);
    if (endOf(token) >= caret)
      return token.at < caret && endOf(token) === caret ? begun(text, token, owner, fields) : null;
    if (token.type === 'open') within.push(owner);
    if (token.type === 'close') within.pop();
    before = token;
  }
  return null;
}

function begun(text: string, token: Token, owner: Token | null, fields: FieldRegistry): Begun | null {
  const to = endOf(token);
  if (token.type === 'field') return valueOf(token, { text: '', from: to, to }, text, fields);
  if (token.type === 'quoted' && (!owner || token.closed)) return null;
  if (token.type !== 'word' && token.type !== 'quoted') return null;
  const piece = { text: token.text, from: token.at, to };
  if (owner) return valueOf(owner, piece, text, fields);
  return { kind: 'name', field: null, ...piece, rest: '' };
}

function valueOf(
  owner: Token,
  piece: Pick<Begun, 'text' | 'from' | 'to'>,
  text: string,
  fields: FieldRegistry,
): Begun | null {
  if (/^(has|no)$/i.test(owner.text)) return { kind: 'presence', field: null, ...piece, rest: '' };
  const field = fields.named(owner.text);
  if (!field) return null;
  const ahead = text.slice(0, owner.at).replace(/(^|[\s(])-$/, '$1');
  const rest = [ahead.trimEnd(), text.slice(piece.to).trimStart()].filter(Boolean).join(' ');
  const whole = parseQuery(rest, fields).issues.length === 0;
  return { kind: 'value', field, ...piece, rest: whole ? rest : '' };
}

/** A value as it is written in a search. */
export const writtenValue = (value: string): string =>
  /^[^\s()"*:<>=-][^\s()"*]*$/.test(value) && !/^(or|and|not)$/i.test(value)
    ? value
    : `"${value.replace(/(["\\])/g, '\\$1')}"`;

const anyWordBegins = (text: string, begun: string): boolean => ` ${fold(text)}`.includes(` ${fold(begun)}`);

/** Fields whose names or labels begin so, the shortest name first. */
export function proposedFields({ kind, text }: Begun, fields: FieldRegistry, limit: number): Proposal[] {
  const wanted = fold(text);
  const scored = fields.all
    .filter((field) => !field.retired)
    .flatMap((field) => {
      const names = [fields.nameOf(field.id), ...(field.aliases ?? [])].filter((name) => fields.named(name) === field);
      const name =
        names.find((each) => each.startsWith(wanted)) ?? (anyWordBegins(field.label, text) ? names[0] : undefined);
      return name === undefined ? [] : [{ name, field, near: name.startsWith(wanted) ? 0 : 1 }];
    })
    .sort((a, b) => a.near - b.near || a.name.length - b.name.length || (a.name < b.name ? -1 : 1));
  return scored
    .slice(0, limit)
    .map(({ name, field }) => ({ insert: kind === 'name' ? `${name}:` : name, label: field.label, count: null }));
}

/** What may be said in a field by itself: one of its list, or the words of the calendar; null where only the library knows. */
export function proposedChoices({ field, text }: Begun, limit: number): Proposal[] | null {
  const known = field?.choices ?? (field?.type === 'dateMs' ? CALENDAR_WORDS : null);
  if (known)
    return known
      .filter((value) => anyWordBegins(value.replace(/-/g, ' '), text) || fold(value).startsWith(fold(text)))
      .slice(0, limit)
      .map((value) => ({ insert: writtenValue(value), label: value, count: null }));
  // Of a long text, no two say the same, and each is longer than a search may be.
  const ownWords = field && (isNumericType(field.type) || field.type === 'longText');
  return ownWords ? [] : null;
}

/** Those of the values counted in the library that have a word which begins so. */
export const proposedValues = (
  { text }: Begun,
  counted: readonly { readonly value: string; readonly count: number }[],
  limit: number,
): Proposal[] =>
  counted
    .filter(({ value }) => anyWordBegins(value, text))
    .slice(0, limit)
    .map(({ value, count }) => ({ insert: writtenValue(value), label: value, count }));

/** The search with a proposal taken, and where the caret stands then: after a value somebody goes on with the next word. */
export function taken(text: string, { from, to, kind }: Begun, { insert }: Proposal): { text: string; caret: number } {
  const after = text.slice(to);
  const gap = kind === 'name' || /^[\s)]/.test(after) ? '' : ' ';
  return { text: text.slice(0, from) + insert + gap + after, caret: from + insert.length + gap.length };
}
