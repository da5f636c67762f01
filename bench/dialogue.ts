import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  NOTCHES,
  rankedPassages,
  readSpoken,
  SpokenIndex,
  spokenWindow,
  themesOf,
  type Phones,
  type Pronouncer,
} from '@larder/core/dialogue';
import { Pronunciations } from '../packages/server/src/media/pronunciations';
import { IndexSnapshots } from '../packages/server/src/search/snapshot';
import { content, dictionary, spokenFile } from './dialogue-corpus';
import { SpokenFullText } from './dialogue-fulltext';
import { indexOf, judged, KINDS, recallAt, stated, termsOf, termWeightedValue } from './dialogue-quality';
import { recognition } from './dialogue-recognition';
import { learntChannel } from './dialogue-channel';
import { spoken, spokenWithCustom, wordErrors } from './dialogue-speech';
import { median, round, type Figure } from './kit';
import { mostApart, reliabilityChart, tenths, type Tenth } from './reliability';
import { random } from './search-corpus';

type Print = (figure: Figure) => void;

const LOOSEST = NOTCHES.length - 1;
const BATCH = 2000;
const QUESTIONS = 100;
const WINDOW = { sort: 'best', offset: 0, limit: 25 } as const;

const p95 = (values: readonly number[]): number =>
  values.toSorted((a, b) => a - b)[Math.ceil(values.length * 0.95) - 1] as number;

/** Names of sounds of two words each that no dictionary has, and how they are said. */
class Names implements Pronouncer {
  private readonly known = new Map<string, Phones>();

  ways(word: string): readonly Phones[] {
    const name = this.known.get(word);
    return name ? [name] : dictionary.ways(word);
  }

  isHeard(word: string): boolean {
    return !this.known.has(word);
  }

  some(next: () => number): string {
    const [first, second] = [content(next), content(next)];
    const half = (word: string) => [...(dictionary.ways(word)[0] ?? [])].slice(0, 4);
    const name = `${first}x${second}`;
    this.known.set(name, Uint8Array.from([...half(first), ...half(second)]));
    return name;
  }
}

const ASKED = {
  word: (next: () => number) => content(next),
  phrase: (next: () => number) => `"${content(next)} ${content(next)}"`,
  all: (next: () => number) => `${content(next)} ${content(next)}`,
} as const;

/** Milliseconds for a whole answer, with counts of all notches and the first files with their hits. */
function answer(index: SpokenIndex, text: string, notch: number): number {
  const question = { items: readSpoken(text), how: 'all', withinMs: 0 } as const;
  const began = performance.now();
  spokenWindow(index, index.find(question, notch, null, { loosely: notch > 0 }), WINDOW);
  return performance.now() - began;
}

/** Milliseconds for the most telling passages with any of some words. */
function passages(index: SpokenIndex, text: string): number {
  const question = { items: readSpoken(text), how: 'any', withinMs: 0 } as const;
  const began = performance.now();
  rankedPassages(index, index.find(question, 0, null, { loosely: false }), { length: 'thought', limit: 25 });
  return performance.now() - began;
}

/** Milliseconds for what some files are about, set apart from all others. */
function themes(index: SpokenIndex, files: number, next: () => number): number {
  const some = new Set(Array.from({ length: files }, () => 1 + Math.floor(next() * index.size)));
  const began = performance.now();
  themesOf(index, (id) => some.has(id));
  return performance.now() - began;
}

/** Milliseconds for some more files. By itself, so that nothing holds them any longer when memory is measured. */
function putIn(index: SpokenIndex, from: number, files: number): number {
  const batch = Array.from({ length: files }, (_unused, at) => spokenFile(from + at));
  const began = performance.now();
  index.upsert(batch);
  return performance.now() - began;
}

async function speed(files: number, print: Print): Promise<void> {
  const tail = files === LARGE ? '' : `.${files}`;
  const figure = (name: string, value: number, unit: string, peer: string | null = null, ratio: number | null = null) =>
    print({
      name: `dialogue.${name}${tail}`,
      value: round(value),
      unit,
      peer,
      ratio: ratio === null ? null : round(ratio),
    });
  globalThis.gc?.();
  const before = process.memoryUsage();
  const names = new Names();
  const index = new SpokenIndex(names);
  let building = 0;
  for (let id = 1; id <= files; id += BATCH) building += putIn(index, id, Math.min(BATCH, files + 1 - id));
  globalThis.gc?.();
  const after = process.memoryUsage();
  const bytes = after.heapUsed + after.arrayBuffers - before.heapUsed - before.arrayBuffers;
  figure('build', building / 1000, 's');
  figure('memory', bytes / 1e6, 'MB');
  const next = random(17);
  const peer = await SpokenFullText.filled(files);
  try {
    for (const [kind, ask] of Object.entries(ASKED)) {
      const texts = Array.from({ length: QUESTIONS }, () => ask(next));
      const exact = texts.map((text) => answer(index, text, 0));
      const theirs: number[] = [];
      for (const text of texts)
        theirs.push(
          await peer.answer(
            text.startsWith('"')
              ? text
              : text
                  .split(' ')
                  .map((word) => `+${word}`)
                  .join(' '),
          ),
        );
      const told = `MariaDB FULLTEXT, ${round(p95(theirs))} ms`;
      figure(`exact.${kind}.p95`, p95(exact), 'ms', told, p95(exact) / p95(theirs));
      figure(
        `vsFulltext.${kind}`,
        median(theirs) / median(exact),
        'x',
        `MariaDB FULLTEXT, median ${round(median(theirs))} ms`,
      );
      figure(`soundsLike.${kind}.p95`, p95(texts.map((text) => answer(index, text, LOOSEST))), 'ms');
    }
  } finally {
    await peer.stop();
  }
  const unheard = Array.from({ length: QUESTIONS }, () => names.some(next));
  figure('name.p95', p95(unheard.map((name) => answer(index, name, LOOSEST))), 'ms');
  // As somebody types a word letter by letter; none of it is kept from before.
  const typed = Array.from({ length: 20 }, () => content(next)).flatMap((word) =>
    Array.from(word, (_letter, at) => word.slice(0, at + 1)),
  );
  figure('typing.p95', p95(typed.map((text) => answer(index, text, LOOSEST))), 'ms');
  const pairs = Array.from({ length: QUESTIONS }, () => ASKED.all(next));
  figure('passages.p95', p95(pairs.map((text) => passages(index, text))), 'ms');
  for (const some of [5, 100, 200])
    figure(`themes.of${some}`, median(Array.from({ length: 5 }, () => themes(index, some, next))), 'ms');
  const fresh = performance.now();
  index.upsert([spokenFile(files + 1)]);
  answer(index, content(next), LOOSEST);
  figure('fresh', performance.now() - fresh, 'ms');
  const folder = mkdtempSync(join(tmpdir(), 'larder-bench-kept-'));
  try {
    const state = { revision: 1, mark: null, documents: '' };
    await new IndexSnapshots(folder).save({ parts: [], spoken: index.keep(), state });
    const began = performance.now();
    const kept = await new IndexSnapshots(folder).load();
    if (!kept || SpokenIndex.restored(kept.spoken, names).size !== index.size) throw new Error('not what was kept');
    figure('load', (performance.now() - began) / 1000, 's');
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

const LARGE = 30_000;
/** What confidence was fitted to, and what it is held against. */
const SEEDS = { fitted: 1, heldOut: 2 } as const;
const SEED_WORDS: Readonly<Record<keyof typeof SEEDS, string>> = { fitted: 'fitted to', heldOut: 'held out' };

/** Speech is made and listened to once, which takes some 40 minutes each, and kept beside other temporary files. */
async function quality(print: Print): Promise<void> {
  const cache = speechFolder();
  for (const [set, seed] of Object.entries(SEEDS)) {
    const figure = (name: string, value: number, unit: string) =>
      print({ name: `dialogue.${name}.${set}`, value: round(value), unit, peer: null, ratio: null });
    const { found, pronunciations, speech, terms } = await heardOf(seed, cache);
    const seconds = speech.sentences.reduce((sum, { ms }) => sum + ms / 1000, 0);
    const unnamed = wordErrors(
      speech.sentences.filter(({ text }) => !speech.names.some((name) => text.includes(name))),
    );
    figure('wer', unnamed.errors / unnamed.words, 'share, without names and custom words');
    const custom = await spokenWithCustom(speech, seed, cache, (name) => pronunciations.ways(name));
    const [named, others] = [wordErrors(custom.named), wordErrors(custom.others)];
    // As many of those without names as there are, by what was heard of a sample of them.
    const part = others.words / unnamed.words;
    const errors = named.errors + others.errors / part;
    figure('wer.custom', errors / (named.words + unnamed.words), 'share, the names being custom words');
    for (const kind of KINDS)
      for (const alarms of [1, 5])
        figure(
          `recall.${kind}`,
          recallAt(found, terms, kind, seconds / 3600, alarms),
          `share, ${alarms} false alarm an hour`,
        );
    for (const kind of [null, ...KINDS]) {
      const apart = tenths(stated(found.filter(({ term }) => kind === null || term.kind === kind)));
      const name = kind === null ? 'calibration' : `calibration.${kind}`;
      if (apart.length > 0) figure(name, mostApart(apart), 'most of a tenth');
      for (const { count, right, stated: chance } of apart)
        figure(`${name}.tenth`, right, `right of ${count} stated as ${round(chance)}`);
    }
    for (const [at, { name }] of NOTCHES.entries())
      figure(`twv.${name}`, termWeightedValue(found, terms, at, seconds), 'of 1');
  }
}

/** All that is found of what is looked for in the speech of a seed. */
async function heardOf(seed: number, cache: string) {
  const speech = await spoken(seed, cache);
  const pronunciations = await Pronunciations.read();
  await pronunciations.learn(speech.names);
  const terms = termsOf(speech, seed, pronunciations);
  return { speech, pronunciations, terms, found: judged(indexOf(speech, pronunciations), terms) };
}

/** Prints how far confidence can be relied on, drawn. */
async function reliability(): Promise<void> {
  const sets = new Map<string, readonly Tenth[]>();
  for (const [set, seed] of Object.entries(SEEDS))
    sets.set(SEED_WORDS[set as keyof typeof SEEDS], tenths(stated((await heardOf(seed, speechFolder())).found)));
  process.stdout.write(`${reliabilityChart(sets)}\n`);
}

/** How phones are heard, learnt from the speech that confidence is fitted to, as core has it. */
async function channel(): Promise<void> {
  process.stdout.write(learntChannel(await spoken(SEEDS.fitted, speechFolder())));
}

function speechFolder(): string {
  const folder = join(tmpdir(), 'larder-speech');
  mkdirSync(folder, { recursive: true });
  return folder;
}

/** What is said, at three sizes, and how well it is found. */
export const dialogue = {
  small: (print: Print) => speed(1000, print),
  middle: (print: Print) => speed(10_000, print),
  large: (print: Print) => speed(LARGE, print),
  recognition,
  quality,
};
/** What core keeps as tables, to be printed. */
export const tables = { channel, reliability };
