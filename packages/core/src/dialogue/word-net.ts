/**
 * Reads the files of WordNet, the lexical database of Princeton University, as wndb(5WN) describes them, and finds base forms as
 * morphy(7WN) does.
 */

/** Classes of words, as the files are named. */
export const WORD_CLASSES = ['noun', 'verb', 'adj', 'adv'] as const;
export type WordClass = (typeof WORD_CLASSES)[number];

/** The files of one class: `index.noun`, `data.noun` and `noun.exc`. */
export interface WordNetFiles {
  readonly index: Uint8Array;
  readonly data: Uint8Array;
  readonly exceptions: Uint8Array;
}

/** How what one sense means goes with what another does; the signs of wndb(5WN). */
const LINKS = {
  wider: ['@', '@i'],
  narrower: ['~', '~i'],
  part: ['#m', '#s', '#p', '%m', '%s', '%p'],
  akin: ['&', '<', '\\', '=', '^', '+', '*', '>', '$'],
} as const;
export type Link = keyof typeof LINKS;
const LINK_OF = new Map<string, Link>(
  (Object.keys(LINKS) as Link[]).flatMap((link) => LINKS[link].map((sign) => [sign, link] as const)),
);

/** Where a sense stands in the file of its class. */
export interface SenseAt {
  readonly class: WordClass;
  readonly offset: number;
}

/** One meaning, and the words that have it. */
export interface Sense extends SenseAt {
  readonly words: readonly string[];
  /** What it means, without examples. */
  readonly meaning: string;
  readonly links: readonly (SenseAt & { readonly link: Link })[];
}

/** Endings that are taken off, by morphy(7WN). */
const ENDINGS: Readonly<Record<WordClass, readonly (readonly [ending: string, base: string])[]>> = {
  noun: [
    ['s', ''],
    ['ses', 's'],
    ['xes', 'x'],
    ['zes', 'z'],
    ['ches', 'ch'],
    ['shes', 'sh'],
    ['men', 'man'],
    ['ies', 'y'],
  ],
  verb: [
    ['s', ''],
    ['ies', 'y'],
    ['es', 'e'],
    ['es', ''],
    ['ed', 'e'],
    ['ed', ''],
    ['ing', 'e'],
    ['ing', ''],
  ],
  adj: [
    ['er', ''],
    ['est', ''],
    ['er', 'e'],
    ['est', 'e'],
  ],
  adv: [],
};

const CLASS_OF: Readonly<Record<string, WordClass>> = { n: 'noun', v: 'verb', a: 'adj', s: 'adj', r: 'adv' };
const NEWLINE = 10;
/** No line of the published files is nearly so long. */
const LONGEST_LINE = 65_536;
const decoder = new TextDecoder('latin1');

/** The lexical database, looked up where it lies: nothing of it is parsed before it is asked for. */
export class WordNet {
  /** By class, the base forms of what is made otherwise than by endings, and the other way round. */
  private readonly exceptions: Readonly<Record<WordClass, ReadonlyMap<string, readonly string[]>>>;
  private readonly madeOf: Readonly<Record<WordClass, ReadonlyMap<string, readonly string[]>>>;

  constructor(private readonly files: Readonly<Record<WordClass, WordNetFiles>>) {
    const byClass = <T>(of: (each: WordClass) => T) =>
      Object.fromEntries(WORD_CLASSES.map((each) => [each, of(each)])) as Record<WordClass, T>;
    const read = byClass((each) => readExceptions(files[each].exceptions));
    this.exceptions = byClass((each) => gathered(read[each]));
    this.madeOf = byClass((each) => gathered(read[each].map(([made, base]) => [base, made])));
  }

  /** Whether it is a word of the database, or several that go together (`narrow boat`), as it is written. */
  has(text: string): boolean {
    return WORD_CLASSES.some((each) => this.entry(text, each) !== null);
  }

  /** The base forms of a word in a class that the database has, itself first. */
  bases(text: string, of: WordClass): string[] {
    const made = this.exceptions[of].get(text) ?? [];
    const rest = ENDINGS[of].flatMap(([ending, base]) =>
      text.length > ending.length && text.endsWith(ending) ? [text.slice(0, -ending.length) + base] : [],
    );
    return [...new Set([text, ...made, ...rest])].filter((base) => this.entry(base, of) !== null);
  }

  /** Forms of a word that are not made by endings, its base forms among them (`broke`: `break`, `broken`). */
  irregular(text: string): string[] {
    const forms = WORD_CLASSES.flatMap((each) =>
      this.bases(text, each).flatMap((base) => [base, ...(this.madeOf[each].get(base) ?? [])]),
    );
    return [...new Set(forms)].filter((form) => form !== text);
  }

  /** What a word may mean in any of its base forms; in each class the commonest first, and first the class that is met most. */
  senses(text: string): Sense[] {
    const entries = WORD_CLASSES.flatMap((each) =>
      this.bases(text, each).flatMap((base) => this.entry(base, each) ?? []),
    );
    const seen = new Set<string>();
    return entries
      .sort((a, b) => b.met - a.met)
      .flatMap(({ senses }) => senses)
      .filter((at) => {
        const key = `${at.class} ${at.offset}`;
        return !seen.has(key) && seen.add(key);
      })
      .flatMap((at) => this.sense(at) ?? []);
  }

  /** Null where no line of the file begins there. */
  sense({ class: of, offset }: SenseAt): Sense | null {
    const { data } = this.files[of];
    if (offset >= data.length || (offset > 0 && data[offset - 1] !== NEWLINE)) return null;
    return readSense(lineAt(data, offset), { class: of, offset });
  }

  /** The line of a word in an index, found by halving: the files are sorted by their bytes. */
  private entry(text: string, of: WordClass): { readonly met: number; readonly senses: readonly SenseAt[] } | null {
    const lemma = text.replaceAll(' ', '_');
    const { index } = this.files[of];
    let [from, to] = [0, index.length];
    while (from < to) {
      const line = startOf(index, (from + to) >> 1);
      const found = lineAt(index, line);
      const at = found.slice(0, Math.max(0, found.indexOf(' ')));
      if (at === lemma && at !== '') return readEntry(found, of);
      if (at < lemma) from = line + found.length + 1;
      else to = line;
    }
    return null;
  }
}

/** Where the line begins that a byte is in. */
function startOf(file: Uint8Array, at: number): number {
  let start = at;
  while (start > 0 && file[start - 1] !== NEWLINE) start -= 1;
  return start;
}

function lineAt(file: Uint8Array, start: number): string {
  const end = file.subarray(0, start + LONGEST_LINE).indexOf(NEWLINE, start);
  return decoder.decode(file.subarray(start, end < 0 ? start + LONGEST_LINE : end));
}

/** `lemma pos synset_cnt p_cnt [ptr_symbol...] sense_cnt tagsense_cnt synset_offset [synset_offset...]` */
function readEntry(line: string, of: WordClass): { readonly met: number; readonly senses: readonly SenseAt[] } {
  const [, , , links, ...rest] = line.trim().split(' ');
  const [, met, ...offsets] = rest.slice(Number(links));
  return { met: Number(met), senses: offsets.map((offset) => ({ class: of, offset: Number(offset) })) };
}

/** `offset lex_filenum ss_type w_cnt word lex_id [word lex_id...] p_cnt [ptr...] [frames...] | gloss`, the first count in hexadecimal. */
function readSense(line: string, at: SenseAt): Sense | null {
  const end = line.indexOf(' | ');
  const [, , , wordCount = '', ...parts] = line.slice(0, end < 0 ? line.length : end).split(' ');
  const count = parseInt(wordCount, 16);
  const linkCount = Number(parts[count * 2]);
  if (Number(line.slice(0, line.indexOf(' '))) !== at.offset) return null;
  if (!Number.isInteger(count) || !Number.isInteger(linkCount)) return null;
  const links: (SenseAt & { link: Link })[] = [];
  for (let n = 0; n < linkCount; n += 1) {
    const [sign = '', offset = '', pos = ''] = parts.slice(count * 2 + 1 + n * 4);
    const [link, to] = [LINK_OF.get(sign), CLASS_OF[pos]];
    if (link && to) links.push({ link, class: to, offset: Number(offset) });
  }
  const words = Array.from({ length: count }, (_unused, n) => wordOf(parts[n * 2] ?? ''));
  return { ...at, words, links, meaning: end < 0 ? '' : meaningOf(line.slice(end + 3)) };
}

/** An adjective may say where it stands: `alive(p)`. */
const wordOf = (text: string): string => text.replace(/\([a-z]+\)$/, '').replaceAll('_', ' ');

/** Examples follow the meaning, between quotes. */
const meaningOf = (gloss: string): string => gloss.split(/; ?"/)[0]?.trim() ?? '';

/** `inflected base [base...]`, a line each. */
const readExceptions = (file: Uint8Array): (readonly [made: string, base: string])[] =>
  decoder
    .decode(file)
    .split('\n')
    .flatMap((line) => {
      const [made = '', ...bases] = line.trim().split(' ').map(wordOf);
      return bases.map((base) => [made, base] as const);
    });

function gathered(pairs: readonly (readonly [key: string, value: string])[]): Map<string, string[]> {
  const all = new Map<string, string[]>();
  for (const [key, value] of pairs) {
    const known = all.get(key);
    if (known) known.push(value);
    else all.set(key, [value]);
  }
  return all;
}
