import { BUILT_IN, distance, words, type FieldRegistry, type RegisteredField } from '../fields';
import { hasForms } from './forms';
import { isHeardField, readHeard } from './heard';
import { lex, type Token } from './lex';
import { isRadius, readNear, saysHowFar } from './near';
import { readRelative } from './relative';
import {
  type Comparison,
  EVERYTHING,
  type FieldTest,
  type Query,
  type QueryIssue,
  type TextTest,
  type WordsTest,
} from './tree';
import { expectedValue, isNumeric, readSpan } from './values';

export interface ParsedQuery {
  /** What the text asks for. With issues, the parts that made sense; not to be run without telling. */
  readonly tree: Query;
  readonly issues: readonly QueryIssue[];
}

const MAX_DEPTH = 40;

/**
 * Reads the search language. Grammar, `or` binding loosest and terms side by side meaning all of them:
 *
 *     any   = all ("or" all)*
 *     all   = term+                      ("and" may stand between)
 *     term  = ("-" | "not") term | "(" any ")" | field value | word | "quoted"
 *     value = word | "quoted" | "(" any ")"
 *
 * Between a field and its value stands ":", for words that are said in it "=" where one thing said is to be these and no more, or a
 * comparison.
 *
 * Every issue of the text is collected in one run. Never throws.
 */
export function parseQuery(text: string, fields: FieldRegistry = BUILT_IN): ParsedQuery {
  return new Parser(lex(text), fields).run();
}

const STATES = [BUILT_IN.byId('use'), BUILT_IN.byId('twin')] as readonly RegisteredField[];
/** `is:` asks for a file's state, for whether it is used, or for twins: the words of these are different. */
const meantByIs = (field: RegisteredField, { type, text }: Token): RegisteredField =>
  (field.id === 'state' && type === 'word' && STATES.find(({ choices }) => choices?.includes(text.toLowerCase()))) ||
  field;

/** What the values after a field's name are asked of, and how. */
interface Asked {
  readonly field: RegisteredField;
  readonly whole: boolean;
  readonly comparison: Comparison | null;
}

class Parser {
  private readonly issues: QueryIssue[] = [];
  private next = 0;
  private depth = 0;

  constructor(
    private readonly tokens: readonly Token[],
    private readonly fields: FieldRegistry,
  ) {}

  run(): ParsedQuery {
    const parts: Query[] = [];
    while (this.peek()) {
      parts.push(this.any(null));
      const stray = this.peek();
      if (stray) {
        this.issue({ code: 'stray-bracket', at: stray.at, length: 1 });
        this.next += 1;
      }
    }
    return { tree: combine('all', parts), issues: this.issues };
  }

  private peek(): Token | undefined {
    return this.tokens[this.next];
  }

  private issue(issue: QueryIssue): void {
    this.issues.push(issue);
  }

  private isKeyword(word: 'or' | 'and' | 'not'): boolean {
    const token = this.peek();
    return token?.type === 'word' && token.text.toLowerCase() === word;
  }

  private any(field: Asked | null): Query {
    const parts = [this.all(field)];
    while (this.isKeyword('or')) {
      const or = this.tokens[this.next++] as Token;
      const right = this.all(field);
      if (right === EVERYTHING) this.issue({ code: 'missing-term', after: or.text, at: or.at, length: or.length });
      else parts.push(right);
    }
    if (parts.length > 1 && parts[0] === EVERYTHING) {
      const or = this.tokens.find((token) => token.type === 'word' && token.text.toLowerCase() === 'or') as Token;
      this.issue({ code: 'missing-term', after: 'the start', at: or.at, length: or.length });
      parts.shift();
    }
    return combine('any', parts);
  }

  private all(field: Asked | null): Query {
    const parts: Query[] = [];
    for (let token = this.peek(); token && token.type !== 'close' && !this.isKeyword('or'); token = this.peek()) {
      if (this.isKeyword('and')) {
        this.next += 1;
        continue;
      }
      const term = this.term(field);
      if (term) parts.push(term);
    }
    return combine('all', parts);
  }

  private term(field: Asked | null): Query | null {
    const token = this.peek() as Token;
    if (token.type === 'minus' || this.isKeyword('not')) {
      this.next += 1;
      const follow = this.peek();
      const of = follow && follow.type !== 'close' && !this.isKeyword('or') ? this.term(field) : null;
      if (!of && (!follow || follow.type === 'close' || this.isKeyword('or')))
        this.issue({ code: 'missing-term', after: token.text, at: token.at, length: token.length });
      return of && { kind: 'not', of };
    }
    this.next += 1;
    switch (token.type) {
      case 'open':
        return this.group(token, field);
      case 'field':
        return this.fieldTerm(token);
      case 'word':
      case 'quoted':
        return field ? this.value(field, token) : this.text(token);
      default:
        return null;
    }
  }

  private group(open: Token, field: Asked | null): Query | null {
    if (this.depth >= MAX_DEPTH) {
      this.issue({ code: 'too-deep', at: open.at, length: 1 });
      this.next = this.tokens.length;
      return null;
    }
    this.depth += 1;
    const inside = this.any(field);
    this.depth -= 1;
    if (this.peek()?.type === 'close') this.next += 1;
    else this.issue({ code: 'unclosed-bracket', at: open.at, length: 1 });
    if (inside === EVERYTHING) this.issue({ code: 'missing-term', after: '(', at: open.at, length: 1 });
    return inside === EVERYTHING ? null : inside;
  }

  private text(token: Token): Query | null {
    const test = this.textTest(token);
    return test && { kind: 'words', test };
  }

  private textTest(token: Token): WordsTest | null {
    if (token.closed === false) this.issue({ code: 'unclosed-quote', at: token.at, length: token.length });
    const prefix = token.type === 'word' && token.text.endsWith('*');
    // A word such as `boat-yard` is several to the index; they are then looked for side by side.
    const text = words(token.text).join(' ');
    if (text === '') return null;
    if (token.type === 'word' && token.text.startsWith('*')) return { op: 'part', text, ends: !prefix };
    const loose = token.type === 'word' && !prefix && hasForms(text);
    return loose ? { op: 'forms', text } : { op: 'text', text, prefix };
  }

  private fieldTerm(token: Token): Query | null {
    const follow = this.peek();
    const touches =
      follow !== undefined &&
      follow.at === token.at + token.length &&
      (follow.type === 'word' ||
        follow.type === 'quoted' ||
        follow.type === 'open' ||
        follow.type === 'minus' ||
        follow.type === 'field');
    if (token.operator === ':' && (token.text.toLowerCase() === 'has' || token.text.toLowerCase() === 'no'))
      return this.presence(token, touches ? follow : undefined);
    const field = this.fields.named(token.text);
    if (!field) {
      this.issue({
        code: 'unknown-field',
        name: token.text,
        nearest: nearestField(token.text, this.fields.names),
        at: token.at,
        length: token.text.length,
      });
      if (touches) this.passOver();
      return null;
    }
    if (!touches) {
      this.issue({ code: 'missing-value', field: token.text, at: token.at, length: token.length });
      return null;
    }
    const comparison = token.operator === ':' || token.operator === '=' ? null : (token.operator as Comparison);
    const asked = { field: meantByIs(field, follow), whole: token.operator === '=', comparison };
    if (follow.type === 'open') {
      this.next += 1;
      return this.group(follow, { ...asked, comparison: null });
    }
    const value =
      follow.type === 'minus' || follow.type === 'field' ? this.glued() : (this.tokens[this.next++] as Token);
    if (comparison && !isNumeric(field)) {
      this.issue({ code: 'not-comparable', field: token.text, at: token.at, length: token.length });
      return null;
    }
    return this.value(asked, value);
  }

  /** A value that the lexer cut up, such as `path:a:b`, put together again up to the next gap. */
  private glued(): Token {
    const first = this.tokens[this.next++] as Token;
    let [text, end] = [first.text + (first.operator ?? ''), first.at + first.length];
    for (
      let token = this.peek();
      token && token.at === end && token.type !== 'close' && token.type !== 'open';
      token = this.peek()
    ) {
      text += token.text + (token.operator ?? '');
      end += token.length;
      this.next += 1;
    }
    return { type: 'word', text, at: first.at, length: end - first.at };
  }

  private passOver(): void {
    const token = this.tokens[this.next++] as Token;
    if (token.type !== 'open') return;
    for (let depth = 1; depth > 0 && this.peek(); this.next += 1)
      depth += this.peek()?.type === 'open' ? 1 : this.peek()?.type === 'close' ? -1 : 0;
  }

  private presence(token: Token, follow: Token | undefined): Query | null {
    if (!follow) {
      this.issue({ code: 'missing-value', field: token.text, at: token.at, length: token.length });
      return null;
    }
    this.next += 1;
    const field = this.fields.named(follow.text);
    if (!field) {
      this.issue({
        code: 'unknown-field',
        name: follow.text,
        nearest: nearestField(follow.text, this.fields.names),
        at: follow.at,
        length: follow.length,
      });
      return null;
    }
    // What is heard is what is said, however it is looked for.
    const id = isHeardField(field) ? 'said' : field.id;
    return { kind: 'field', field: id, test: { op: 'presence', present: token.text.toLowerCase() === 'has' } };
  }

  /** How far around a place, written behind it with a gap. */
  private radius({ text }: Token): string {
    const follow = this.peek();
    if (follow?.type !== 'word' || !isRadius(follow.text) || saysHowFar(text)) return '';
    this.next += 1;
    return `,${follow.text.slice(1)}`;
  }

  private value({ field, whole, comparison }: Asked, token: Token): Query | null {
    const relative = field.type === 'dateMs' ? readRelative(comparison, token.text) : null;
    const test: FieldTest | null = isNumeric(field)
      ? (relative ?? readSpan(field, comparison, token.text))
      : field.type === 'position'
        ? readNear(token.text + this.radius(token))
        : isHeardField(field)
          ? readHeard(token.text)
          : exactIn(field, this.textTest(token));
    const asked = test && whole ? asWhole(field, test) : test;
    if (!asked || (field.choices && !isChoice(field.choices, asked))) {
      const expected = field.choices?.join(', ') ?? expectedValue(field);
      this.issue({
        code: 'bad-value',
        field: field.id,
        value: token.text,
        expected,
        at: token.at,
        length: token.length,
      });
      return null;
    }
    return { kind: 'field', field: field.id, test: asked };
  }
}

/**
 * One of a list is meant as a whole without being asked to be. What is not on it may have been said before the list lost it, and is
 * found by being asked for as a whole.
 */
export function asWhole({ choices }: RegisteredField, test: FieldTest): FieldTest {
  if (test.op !== 'forms' && (test.op !== 'text' || test.prefix)) return test;
  return choices && isChoice(choices, test) ? test : { op: 'whole', text: test.text };
}

/** Words of a list have no forms: one is meant or another. */
const exactIn = <Test extends FieldTest | null>({ choices }: RegisteredField, test: Test): Test | TextTest =>
  choices && test?.op === 'forms' ? { op: 'text', text: test.text, prefix: false } : test;

/** Whether one of a list could be meant. */
export function isChoice(choices: readonly string[], test: FieldTest): boolean {
  const known = choices.map((choice) => words(choice).join(' '));
  if (test.op === 'part') return known.some((choice) => choice.includes(test.text));
  if (test.op !== 'text') return true;
  return known.some((choice) => (test.prefix ? choice.startsWith(test.text) : choice === test.text));
}

/** One is itself, several are combined; nested combinations of the same kind are one. */
export function combine(kind: 'all' | 'any', parts: readonly Query[]): Query {
  const flat = parts.filter((part) => part !== EVERYTHING).flatMap((part) => (part.kind === kind ? part.of : [part]));
  if (flat.length === 0) return EVERYTHING;
  return flat.length === 1 ? (flat[0] as Query) : { kind, of: flat };
}

function nearestField(name: string, names: readonly string[]): string | null {
  const ranked = names
    .map((candidate) => ({ candidate, steps: distance(name.toLowerCase(), candidate) }))
    .sort((a, b) => a.steps - b.steps);
  const best = ranked[0];
  return best && best.steps <= Math.max(1, Math.floor(name.length / 3)) ? best.candidate : null;
}
