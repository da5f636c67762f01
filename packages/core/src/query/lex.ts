/** One piece of a query's text. `at` is where it begins and `length` how many characters it covers, quotes included. */
export interface Token {
  readonly type: 'word' | 'quoted' | 'open' | 'close' | 'minus' | 'field';
  readonly text: string;
  readonly at: number;
  readonly length: number;
  /** With `field`: what stands between the name and the value. */
  readonly operator?: ':' | '=' | '<' | '<=' | '>' | '>=';
  /** With `quoted`: the closing quote was found. */
  readonly closed?: boolean;
}

/** Words that join others; as words to look for they stand in quotes. */
export const KEYWORDS: ReadonlySet<string> = new Set(['or', 'and', 'not']);

const FIELD = /([A-Za-z][A-Za-z_]*)(:|>=|<=|<|>|=)/y;
const WORD = /[^\s()"]+/y;
// A colon, like a letter, may stand inside a word: 10:04:00:00 is one.
const QUOTED = /"((?:[^"\\]|\\.)*)("?)/y;

/** Cuts a query's text into tokens. Anything is accepted; what makes no sense together is the parser's to say. */
export function lex(text: string): Token[] {
  const tokens: Token[] = [];
  let at = 0;
  const take = (pattern: RegExp): RegExpExecArray | null => {
    pattern.lastIndex = at;
    return pattern.exec(text);
  };
  while (at < text.length) {
    const char = text[at] as string;
    if (/\s/.test(char)) {
      at += 1;
      continue;
    }
    if (char === '(' || char === ')') tokens.push({ type: char === '(' ? 'open' : 'close', text: char, at, length: 1 });
    else if (char === '-' && /[^\s)-]/.test(text[at + 1] ?? ' '))
      tokens.push({ type: 'minus', text: char, at, length: 1 });
    else if (char === '"') {
      const match = take(QUOTED) as RegExpExecArray;
      tokens.push({
        type: 'quoted',
        text: (match[1] ?? '').replace(/\\(.)/g, '$1'),
        at,
        length: match[0].length,
        closed: match[2] === '"',
      });
    } else {
      const field = take(FIELD);
      const match = field ?? take(WORD);
      // Anything that is no gap, bracket or quote begins a word.
      if (!match) throw new Error(`nothing can be read at ${at} of a query`);
      const operator = field?.[2] as Token['operator'];
      tokens.push(
        field && operator
          ? { type: 'field', text: field[1] as string, at, length: match[0].length, operator }
          : { type: 'word', text: match[0], at, length: match[0].length },
      );
    }
    at += tokens[tokens.length - 1]?.length ?? 1;
  }
  return tokens;
}
