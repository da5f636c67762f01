import { execFileSync } from 'node:child_process';
import { PHONES, phonesOfIpa, readSounds, type Phones } from '@larder/core/dialogue';
import { COSTS, SKIPS, WHOLE_COST } from '../packages/core/src/dialogue/phones';
import { wordsOf, type Speech } from './dialogue-speech';
import { NATS } from '../packages/core/src/dialogue/phone-channel';

const N = PHONES.length;
/** What stands before the first phone. */
const START = N;
const ROUNDS = 4;
/** What is expected before anything is counted weighs as much as so many phones. */
const PRIOR = 8;
const PRIOR_EXTRA = 10;
const PRIOR_BEFORE = 20;
/** By the costs of what sounds alike: so much of one whole is a third as likely. */
const LIKELY = 0.15 * WHOLE_COST;
/** Anything may be heard for anything. */
const LEAST = 0.002;

interface Spoken {
  readonly said: Phones;
  readonly heard: Phones;
}

/** How often each phone was heard for each, was not heard, and was heard where none was said. */
interface Counts {
  readonly heard: Float64Array;
  readonly missed: Float64Array;
  readonly extra: Float64Array;
}

/** By natural logarithms, the less likely the more. */
interface Costs {
  readonly heard: Float64Array;
  readonly missed: Float64Array;
  readonly extra: Float64Array;
}

const at = (list: Float64Array, place: number): number => list[place] as number;
const add = (list: Float64Array, place: number): void => {
  list[place] = at(list, place) + 1;
};
const sum = (list: Iterable<number>): number => {
  let all = 0;
  for (const each of list) all += each;
  return all;
};

/** How words are said by rule of their letters, as a name is that no dictionary has. */
function saidByRule(words: readonly string[]): ReadonlyMap<string, Phones> {
  const ways = new Map<string, Phones>();
  for (const word of words)
    ways.set(word, phonesOfIpa(execFileSync('espeak-ng', ['-q', '--ipa', '-v', 'en-us', word], { encoding: 'utf8' })));
  return ways;
}

function sentencesOf({ names, sentences }: Speech): Spoken[] {
  const own = sentences.filter(({ text }) => !names.some((name) => text.includes(name)));
  const ways = saidByRule([...new Set(own.flatMap(({ text }) => wordsOf(text)))]);
  return own.map(({ heard, text }) => ({
    said: Uint8Array.from(wordsOf(text).flatMap((word) => [...(ways.get(word) ?? [])])),
    heard: Uint8Array.from(heard.flatMap(({ sounds = '' }) => [...readSounds(sounds)])),
  }));
}

/** The likeliest way to have heard one for the other, added to the counts. */
function count({ heard, said }: Spoken, costs: Costs, counts: Counts): void {
  const width = heard.length + 1;
  const rows = new Float64Array((said.length + 1) * width);
  const instead = (i: number, j: number) => at(costs.heard, (said[i] as number) * N + (heard[j] as number));
  for (let i = 0; i <= said.length; i += 1)
    for (let j = 0; j <= heard.length; j += 1) {
      if (i === 0 && j === 0) continue;
      rows[i * width + j] = Math.min(
        i > 0 && j > 0 ? at(rows, (i - 1) * width + j - 1) + instead(i - 1, j - 1) : Infinity,
        i > 0 ? at(rows, (i - 1) * width + j) + at(costs.missed, said[i - 1] as number) : Infinity,
        j > 0 ? at(rows, i * width + j - 1) + at(costs.extra, heard[j - 1] as number) : Infinity,
      );
    }
  for (let i = said.length, j = heard.length; i > 0 || j > 0;) {
    const here = at(rows, i * width + j);
    if (i > 0 && j > 0 && here === at(rows, (i - 1) * width + j - 1) + instead(i - 1, j - 1)) {
      i -= 1;
      j -= 1;
      add(counts.heard, (said[i] as number) * N + (heard[j] as number));
    } else if (i > 0 && here === at(rows, (i - 1) * width + j) + at(costs.missed, said[i - 1] as number)) {
      i -= 1;
      add(counts.missed, said[i] as number);
    } else {
      j -= 1;
      add(counts.extra, heard[j] as number);
    }
  }
}

function costsOf({ extra, heard, missed }: Counts, background: Float64Array): Costs {
  const costs = { heard: new Float64Array(N * N), missed: new Float64Array(N), extra: new Float64Array(N) };
  for (let said = 0; said < N; said += 1) {
    const row = heard.subarray(said * N, (said + 1) * N);
    const alike = Array.from(row, (_count, other) => Math.exp(-(COSTS[said * N + other] as number) / LIKELY) + LEAST);
    const skipped = Math.exp(-(SKIPS[said] as number) / LIKELY);
    const [all, prior] = [sum(row) + at(missed, said) + PRIOR, sum(alike) + skipped];
    row.forEach((times, other) => {
      costs.heard[said * N + other] = -Math.log((times + (PRIOR * (alike[other] as number)) / prior) / all);
    });
    costs.missed[said] = -Math.log((at(missed, said) + (PRIOR * skipped) / prior) / all);
  }
  const [extras, others] = [sum(extra), sum(heard) + sum(missed)];
  const share = (extras + 1) / (extras + others);
  extra.forEach((times, phone) => {
    const likely = (times + PRIOR_EXTRA * at(background, phone)) / (extras + PRIOR_EXTRA);
    costs.extra[phone] = -Math.log(share * likely);
  });
  return costs;
}

/** How likely each phone is heard, and after which. */
function backgroundOf(sentences: readonly Spoken[]): {
  readonly alone: Float64Array;
  readonly after: Float64Array;
} {
  const [alone, pairs, befores] = [new Float64Array(N).fill(1), new Float64Array((N + 1) * N), new Float64Array(N + 1)];
  for (const { heard } of sentences)
    heard.forEach((phone, place) => {
      const before = place > 0 ? (heard[place - 1] as number) : START;
      add(alone, phone);
      add(pairs, before * N + phone);
      add(befores, before);
    });
  const all = sum(alone);
  const shares = alone.map((times) => times / all);
  const after = pairs.map(
    (times, pair) => (times + PRIOR_BEFORE * at(shares, pair % N)) / (at(befores, Math.floor(pair / N)) + PRIOR_BEFORE),
  );
  return { alone: shares, after };
}

/** How phones are heard in speech of known text: the table that core has of it, to be printed. */
export function learntChannel(speech: Speech): string {
  const sentences = sentencesOf(speech);
  const { after, alone } = backgroundOf(sentences);
  const byCost = (costs: Uint8Array) => Float64Array.from(costs, (cost) => (4 * cost) / WHOLE_COST);
  let costs: Costs = { heard: byCost(COSTS), missed: byCost(SKIPS), extra: byCost(SKIPS) };
  for (let round = 0; round < ROUNDS; round += 1) {
    const counts = { heard: new Float64Array(N * N), missed: new Float64Array(N), extra: new Float64Array(N) };
    for (const sentence of sentences) count(sentence, costs, counts);
    costs = costsOf(counts, alone);
  }
  const rows = (list: Float64Array): string =>
    Array.from(
      { length: list.length / N },
      (_unused, row) => `  '${hexOf(list.subarray(row * N, (row + 1) * N))}',\n`,
    ).join('');
  const named = (name: string, list: Float64Array) => `export const ${name} = [\n${rows(list)}].join('');\n`;
  return [
    named('HEARD', costs.heard),
    named('MISSED', costs.missed),
    named('EXTRA', costs.extra),
    named(
      'ALONE',
      alone.map((share) => -Math.log(share)),
    ),
    named(
      'AFTER',
      after.map((share) => -Math.log(share)),
    ),
  ].join('\n');
}

const hexOf = (nats: Float64Array): string =>
  Array.from(nats, (each) =>
    Math.min(255, Math.round(each * NATS))
      .toString(16)
      .padStart(2, '0'),
  ).join('');
