import { UNGAPPED, words, type FieldId, type FieldRegistry, type FieldValues } from '../fields';
import { stemOf, stemsOf } from './forms';
import { answersTest, isOfWords, wordedText } from './says';
import type { HeardTest, Query, WholeTest, WordsTest } from './tree';

/** Something said in a field that a search found, and where in it the words are that were looked for. */
export interface Matched {
  readonly field: FieldId;
  readonly text: string;
  /** Ascending, each from its first character up to its last, which is outside; none over another. */
  readonly spans: readonly (readonly [from: number, to: number])[];
}

interface Asked {
  /** Null for those that plain words look in. */
  readonly field: FieldId | null;
  readonly test: WordsTest | WholeTest;
}

/** What a search asks of words; what it does not want is left out. */
export function wordsAsked(tree: Query): Asked[] {
  switch (tree.kind) {
    case 'all':
    case 'any':
      return tree.of.flatMap(wordsAsked);
    case 'not':
      return [];
    case 'words':
      return [{ field: null, test: tree.test }];
    case 'field':
      return isOfWords(tree.test) ? [{ field: tree.field, test: tree.test }] : [];
    default:
      return tree satisfies never;
  }
}

/** What a search asks of what is heard; what it does not want is left out. */
export function heardAsked(tree: Query): HeardTest[] {
  switch (tree.kind) {
    case 'all':
    case 'any':
      return tree.of.flatMap(heardAsked);
    case 'not':
    case 'words':
      return [];
    case 'field':
      return tree.test.op === 'heard' ? [tree.test] : [];
    default:
      return tree satisfies never;
  }
}

/** Whether a search looks for words in any of those fields; null stands for those that plain words look in. */
export const asksForWords = (tree: Query, within: (field: FieldId | null) => boolean): boolean =>
  wordsAsked(tree).some(({ field }) => within(field));

/**
 * Why a search found an asset: of each field what is said in it that has the words, in the order in which they are asked for. Other
 * words for tags are not said, and so not in it.
 */
export function matchesIn(tree: Query, values: FieldValues, fields: FieldRegistry): Matched[] {
  const tests = new Map<FieldId, (WordsTest | WholeTest)[]>();
  for (const { field, test } of wordsAsked(tree))
    for (const each of field === null ? fields.plain : [field]) tests.set(each, [...(tests.get(each) ?? []), test]);
  return [...tests].flatMap(([field, wanted]) => {
    const value = values[field];
    const texts = value === undefined || typeof value === 'number' ? [] : typeof value === 'string' ? [value] : value;
    return texts
      .map((text): Matched => ({ field, text, spans: joined(wanted.flatMap((test) => spansOf(text, test))) }))
      .filter(({ spans }) => spans.length > 0);
  });
}

/** A run of letters is folded as one: into one word, or where a sign stands for several letters or is a word itself, several. */
const RUN = /[\p{L}\p{M}\p{N}]+/gu;

interface Word {
  readonly word: string;
  readonly from: number;
  readonly to: number;
}

function wordsOf(text: string): Word[] {
  return [...text.matchAll(RUN)].flatMap(({ 0: run, index }) => {
    if (!UNGAPPED.test(run)) return words(run).map((word) => ({ word, from: index, to: index + run.length }));
    let at = index;
    return [...run].flatMap((sign) => {
      const from = at;
      at += sign.length;
      return words(sign).map((word) => ({ word, from, to: at }));
    });
  });
}

function spansOf(text: string, test: WordsTest | WholeTest): [number, number][] {
  // First as the index does; only then it is worth looking where.
  if (!answersTest(wordedText([text]), test)) return [];
  const all = wordsOf(text);
  const whole = (): [number, number][] => [[all[0]?.from ?? 0, all.at(-1)?.to ?? text.length]];
  if (test.op === 'whole') return whole();
  if (test.op === 'part') {
    const found = all.filter(({ word }) => (test.ends ? word.endsWith(test.text) : word.includes(test.text)));
    // Letters of two words are in none of them.
    return found.length > 0 ? found.map(({ from, to }) => [from, to]) : whole();
  }
  const parts = test.text.split(' ');
  const spans = all.flatMap(({ from }, at): [number, number][] => {
    const last = all[at + parts.length - 1];
    const fits = parts.every((part, n) => {
      const word = all[at + n]?.word;
      if (test.op === 'forms') return word !== undefined && stemsOf(part).includes(stemOf(word));
      return test.prefix && n === parts.length - 1 ? word?.startsWith(part) : word === part;
    });
    return fits && last ? [[from, last.to]] : [];
  });
  return spans.length > 0 ? spans : whole();
}

function joined(spans: readonly (readonly [number, number])[]): [number, number][] {
  const out: [number, number][] = [];
  for (const [from, to] of spans.toSorted((a, b) => a[0] - b[0] || a[1] - b[1])) {
    const last = out.at(-1);
    if (last && from <= last[1]) last[1] = Math.max(last[1], to);
    else out.push([from, to]);
  }
  return out;
}

/** A piece of a text: what was looked for, or what stands around it. */
export interface Piece {
  readonly text: string;
  readonly hit: boolean;
}

/** Letters before the first of what was found: a line beneath a picture is short. */
const LEAD = 12;

/** What was found on one line: from somewhat before the first of it, breaks as gaps. */
export function excerpt({ text, spans }: Matched): Piece[] {
  const first = spans[0]?.[0] ?? 0;
  // Where a word begins, if there is one near; writing without gaps is cut anywhere.
  const far = first - LEAD;
  const gap = far > 0 ? text.slice(far, first).search(/\s/) : -1;
  const begin = far <= 0 ? 0 : gap < 0 ? first : far + gap + 1;
  const pieces: Piece[] = [];
  const push = (part: string, hit: boolean) => {
    const line = part.replace(/\s+/g, ' ');
    if (line !== '') pieces.push({ text: line, hit });
  };
  let at = begin;
  for (const [from, to] of spans) {
    push((at === begin && begin > 0 ? '… ' : '') + text.slice(at, from), false);
    push(text.slice(from, to), true);
    at = to;
  }
  push(text.slice(at), false);
  return pieces;
}
