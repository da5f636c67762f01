import { execFile } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { phonesText, type CustomWord, type Phones, type SpokenWord } from '@larder/core/dialogue';
import { POCKETSPHINX, type PieceFile } from '@larder/server';
import { random } from './search-corpus';

const run = promisify(execFile);

/** A sentence that was spoken by a synthesiser, and what was heard of it. */
export interface Sentence {
  readonly text: string;
  readonly voice: string;
  /** Of the sound. */
  readonly ms: number;
  readonly heard: readonly SpokenWord[];
}

export interface Speech {
  readonly sentences: readonly Sentence[];
  /** Names that no dictionary has, each in some of the sentences. */
  readonly names: readonly string[];
}

const DICTIONARY = '/usr/share/pocketsphinx/model/en-us/cmudict-en-us.dict';
const WORDNET = '/usr/share/wordnet';
const VOICES = ['rms', 'slt'];
const SENTENCES = 1300;
const NAMES = 40;
const SENTENCES_A_NAME = 3;
const AT_ONCE = 50;
const WORKERS = 2;
/** Of the WAV files that flite writes: 16,000 samples a second of 16 bits. */
const [WAV_HEAD, BYTES_PER_MS] = [44, 32] as const;

/** Examples of use from WordNet 3.0 (Princeton University), of 6 to 14 words that the dictionary has. */
function examples(known: ReadonlySet<string>): string[] {
  const found = new Set<string>();
  for (const part of ['noun', 'verb', 'adj', 'adv'])
    for (const [, text = ''] of readFileSync(join(WORDNET, `data.${part}`), 'utf8').matchAll(/"([a-zA-Z' ,]+)"/g)) {
      const words = wordsOf(text);
      if (words.length >= 6 && words.length <= 14 && words.every((word) => known.has(word))) found.add(words.join(' '));
    }
  return [...found].sort();
}

export const wordsOf = (text: string): string[] => text.toLowerCase().match(/[a-z']+/g) ?? [];

const BEGINNINGS = 'bram cor dun fen har ket lor mar nor os pen rud sal tor wren tam vel gar hol quin'.split(' ');
const MIDDLES = 'a el i o er an in'.split(' ');
const ENDS = 'mouth combe wick stow thorpe mere worth gate holm dine rick sby lock vane'.split(' ');
const AROUND = [
  ['the boat came up to', 'before it was dark'],
  ['we talked about', 'for most of the evening'],
  ['nobody in', 'remembers the old bridge'],
  ['my father worked with', 'until the yard was closed'],
  ['you can see', 'from the top of the hill'],
] as const;

function invented(next: () => number, known: ReadonlySet<string>): string[] {
  const pick = (list: readonly string[]) => list[Math.floor(next() * list.length)] as string;
  const names = new Set<string>();
  while (names.size < NAMES) {
    const name = pick(BEGINNINGS) + pick(MIDDLES) + pick(ENDS);
    if (!known.has(name)) names.add(name);
  }
  return [...names];
}

/** Speech of a seed: said by both voices and listened to; kept in a folder, each batch by itself, since that takes most of an hour. */
export async function spoken(seed: number, cache: string): Promise<Speech> {
  const known = new Set(
    readFileSync(DICTIONARY, 'utf8')
      .split('\n')
      .map((line) => line.slice(0, line.indexOf(' '))),
  );
  const next = random(seed);
  const names = invented(next, known);
  const some = examples(known);
  const texts = Array.from({ length: SENTENCES }, () => some[Math.floor(next() * some.length)] as string);
  for (const [at, name] of names.entries())
    for (let n = 0; n < SENTENCES_A_NAME; n += 1) {
      const [before, after] = AROUND[(at + n) % AROUND.length] as (typeof AROUND)[number];
      texts.push(`${before} ${name} ${after}`);
    }
  const batches = batchesOf(texts);
  const heard = await all(batches.map((batch, at) => () => batchOf(batch, [], join(cache, `speech-${seed}`, `${at}`))));
  return { sentences: heard.flat(), names };
}

/** Of the sentences without names every so-manieth is listened to again with custom words: that takes as long as the first time. */
const SAMPLED = 4;

/** What is heard with the names as custom words: of all sentences with names, and a sample of the others. */
export async function spokenWithCustom(
  { names, sentences }: Speech,
  seed: number,
  cache: string,
  says: (name: string) => readonly Phones[],
): Promise<{ readonly named: Sentence[]; readonly others: Sentence[] }> {
  const custom = names.map((text, at): CustomWord => ({ id: at + 1, text, says: says(text).map(phonesText) }));
  const isNamed = ({ text }: Sentence) => names.some((name) => text.includes(name));
  const some = [
    ...sentences.filter(isNamed),
    ...sentences.filter((each) => !isNamed(each)).filter((_each, at) => at % SAMPLED === 0),
  ];
  const batches = batchesOf(some.map(({ text }) => text));
  const folder = (at: number) => join(cache, `custom-${seed}`, `${at}`);
  const heard = (await all(batches.map((batch, at) => () => batchOf(batch, custom, folder(at))))).flat();
  return { named: heard.filter(isNamed), others: heard.filter((each) => !isNamed(each)) };
}

const batchesOf = (texts: readonly string[]): (readonly string[])[] =>
  Array.from({ length: Math.ceil(texts.length / AT_ONCE) }, (_unused, at) =>
    texts.slice(at * AT_ONCE, (at + 1) * AT_ONCE),
  );

/** Does all of some things, as many at once as there are cores. */
async function all<T>(things: readonly (() => Promise<T>)[]): Promise<T[]> {
  const done: T[] = [];
  const left = [...things.entries()];
  const doNext = async (): Promise<void> => {
    for (let next = left.pop(); next; next = left.pop()) done[next[0]] = await next[1]();
  };
  await Promise.all(Array.from({ length: WORKERS }, doNext));
  return done;
}

/** Some sentences, the voices in turn, made and kept in a folder. */
async function batchOf(texts: readonly string[], custom: readonly CustomWord[], folder: string): Promise<Sentence[]> {
  const kept = join(folder, 'heard.json');
  if (existsSync(kept)) return JSON.parse(readFileSync(kept, 'utf8')) as Sentence[];
  mkdirSync(folder, { recursive: true });
  const voiceAt = (at: number): string => VOICES[at % VOICES.length] as string;
  const pieces: PieceFile[] = [];
  for (const [at, text] of texts.entries()) {
    const file = join(folder, `s${at}.wav`);
    await run('flite', ['-voice', voiceAt(at), '-t', text, '-o', file]);
    pieces.push({ name: `s${at}`, startMs: 0, endMs: (readFileSync(file).length - WAV_HEAD) / BYTES_PER_MS });
  }
  const heard = await POCKETSPHINX.hear(pieces, custom, folder, new AbortController().signal);
  const sentences = texts.map((text, at) => ({
    ...{ text, voice: voiceAt(at), ms: pieces[at]?.endMs ?? 0, heard: heard[at] ?? [] },
  }));
  writeFileSync(kept, JSON.stringify(sentences));
  return sentences;
}

/** What is said alike and written in two ways is no error, as by the mapping files of NIST’s evaluations; from memory. */
const WRITTEN_OUT: ReadonlyMap<string, string> = new Map([
  ['mr', 'mister'],
  ['mrs', 'missus'],
  ['dr', 'doctor'],
]);
const writtenOut = (words: readonly string[]): string[] => words.map((word) => WRITTEN_OUT.get(word) ?? word);

/** How many words were put in, left out or taken for others, of how many that were said. */
export function wordErrors(sentences: readonly Sentence[]): { readonly errors: number; readonly words: number } {
  let [errors, words] = [0, 0];
  for (const { heard, text } of sentences) {
    const said = writtenOut(wordsOf(text));
    const made = writtenOut(heard.map((word) => word.text));
    let above = Array.from({ length: made.length + 1 }, (_unused, at) => at);
    said.forEach((word, at) => {
      const row = [at + 1];
      made.forEach((other, n) =>
        row.push(
          Math.min(
            (above[n] as number) + (word === other ? 0 : 1),
            (above[n + 1] as number) + 1,
            (row[n] as number) + 1,
          ),
        ),
      );
      above = row;
    });
    errors += above.at(-1) as number;
    words += said.length;
  }
  return { errors, words };
}
