/** What a name can be made of, in the order in which the ingest sheet offers them. */
export const NAME_PARTS = {
  name: 'the file’s own name, without its ending',
  folder: 'the folder it lies in',
  reel: 'its reel',
  scene: 'its scene',
  take: 'its take',
  date: 'the day it was shot on',
  timecode: 'its start timecode',
  rate: 'its frame rate',
  n: 'a number that counts up; {n:4} with four digits',
} as const;
export type NamePart = keyof typeof NAME_PARTS;

/** What a pattern can say of one item; null where it is not known. The number counts up from 1. */
export type NameValues = Readonly<Record<Exclude<NamePart, 'n'>, string | null> & { n: number }>;

export type NamingIssue =
  | { readonly code: 'unknown-part'; readonly at: number; readonly part: string }
  | { readonly code: 'unclosed'; readonly at: number }
  | { readonly code: 'slash'; readonly at: number }
  | { readonly code: 'empty' };

type Piece = { readonly text: string } | { readonly part: NamePart; readonly digits: number };

export interface NamingPattern {
  readonly pieces: readonly Piece[];
}

const LONGEST_NAME = 200;
const MOST_DIGITS = 9;
const isPart = (text: string): text is NamePart => text in NAME_PARTS;

/** Reads a pattern such as `{reel}_{scene}_{n:3}`. Collects everything that is wrong with it. */
export function readNaming(text: string): { readonly pattern: NamingPattern; readonly issues: readonly NamingIssue[] } {
  const pieces: Piece[] = [];
  const issues: NamingIssue[] = [];
  for (let at = 0; at < text.length;) {
    if (text[at] !== '{') {
      const end = text.indexOf('{', at) < 0 ? text.length : text.indexOf('{', at);
      const slash = text.slice(at, end).search(/[/\\]/);
      if (slash >= 0) issues.push({ code: 'slash', at: at + slash });
      pieces.push({ text: text.slice(at, end) });
      at = end;
      continue;
    }
    const end = text.indexOf('}', at);
    if (end < 0) {
      issues.push({ code: 'unclosed', at });
      break;
    }
    const [, part = '', digits = '0'] = /^([a-z]*)(?::(\d))?$/.exec(text.slice(at + 1, end)) ?? [];
    if (isPart(part)) pieces.push({ part, digits: Math.min(MOST_DIGITS, Number(digits)) });
    else issues.push({ code: 'unknown-part', at, part: text.slice(at + 1, end) });
    at = end + 1;
  }
  if (text.trim() === '') issues.push({ code: 'empty' });
  return { pattern: { pieces }, issues };
}

/** Characters that some file system or other refuses in a name become a dash. */
const safe = (text: string): string => text.replace(/[\p{Cc}/\\:*?"<>|]+/gu, '-');

/** The name that a pattern gives an item, without its ending; what is not known is left out with the separator before it. */
export function nameBy({ pieces }: NamingPattern, values: NameValues): string {
  const made = pieces
    .map((piece) => {
      if ('text' in piece) return piece.text;
      if (piece.part === 'n') return String(values.n).padStart(piece.digits, '0');
      return values[piece.part] ?? '';
    })
    .join('');
  const name = safe(made)
    .replace(/([ _.-])[ _.-]*\1/g, '$1')
    .replace(/^[ _.-]+|[ _.-]+$/g, '')
    .slice(0, LONGEST_NAME);
  return name || (values.name ? safe(values.name) : 'unnamed');
}

export function wordNamingIssue(issue: NamingIssue): string {
  switch (issue.code) {
    case 'unknown-part':
      return `{${issue.part}} is nothing that can be put into a name. There are: ${Object.keys(NAME_PARTS)
        .map((part) => `{${part}}`)
        .join(' ')}`;
    case 'unclosed':
      return `The brace at ${issue.at + 1} is not closed.`;
    case 'slash':
      return `A name has no slash in it; the one at ${issue.at + 1} would make a folder.`;
    case 'empty':
      return 'The name would be empty.';
    default:
      return issue satisfies never;
  }
}
