import { execFile } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import type { SpokenWord } from '@larder/core/dialogue';
import { POCKETSPHINX } from '@larder/server';
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

/** Speech of a seed: said by both voices and listened to; kept in a folder, since that takes most of an hour. */
export async function spoken(seed: number, cache: string): Promise<Speech> {
  const kept = join(cache, `speech-${seed}.json`);
  if (existsSync(kept)) return JSON.parse(readFileSync(kept, 'utf8')) as Speech;
  const known = new Set(
    readFileSync(DICTIONARY, 'utf8')
      .split('\n')
      .map((line) => line.slice(0, line.indexOf(' '))),
  );
  const next = random(seed);
  const names = invented(next, known);
  const all = examples(known);
  const texts = Array.from({ length: SENTENCES }, () => all[Math.floor(next() * all.length)] as string);
  for (const [at, name] of names.entries())
    for (let n = 0; n < SENTENCES_A_NAME; n += 1) {
      const [before, after] = AROUND[(at + n) % AROUND.length] as (typeof AROUND)[number];
      texts.push(`${before} ${name} ${after}`);
    }
  const folder = join(cache, `speech-${seed}`);
  mkdirSync(folder, { recursive: true });
  const sentences: Sentence[] = [];
  for (let start = 0; start < texts.length; start += AT_ONCE) {
    const batch = texts.slice(start, start + AT_ONCE).map((text, at) => ({
      text,
      voice: VOICES[(start + at) % VOICES.length] as string,
      name: `s${start + at}`,
    }));
    const pieces: { readonly name: string; readonly startMs: number; readonly endMs: number }[] = [];
    for (const { text, voice, name } of batch) {
      const file = join(folder, `${name}.wav`);
      await run('flite', ['-voice', voice, '-t', text, '-o', file]);
      pieces.push({ name, startMs: 0, endMs: (readFileSync(file).length - 44) / 32 });
    }
    const heard = await POCKETSPHINX.hear(pieces, [], folder, new AbortController().signal);
    batch.forEach(({ text, voice }, at) =>
      sentences.push({ text, voice, ms: pieces[at]?.endMs ?? 0, heard: heard[at] ?? [] }),
    );
  }
  const speech = { sentences, names };
  writeFileSync(kept, JSON.stringify(speech));
  return speech;
}

/** The share of words that were put in, left out or taken for others; of the sentences without names, which it cannot know. */
export function wordErrors({ names, sentences }: Speech): number {
  let [errors, words] = [0, 0];
  for (const { heard, text } of sentences) {
    if (names.some((name) => text.includes(name))) continue;
    const [said, made] = [wordsOf(text), heard.map((word) => word.text)];
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
  return errors / words;
}
