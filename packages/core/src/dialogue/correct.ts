import { words as foldedWords } from '../fields';
import { wordsWithin } from './cues';
import type { Spoken, SpokenWord } from './transcript';

const folded = (text: string): string => foldedWords(text).join(' ');

/**
 * Puts a text in the place of some words. Words that stay keep their times; what is new between two of them shares the time that
 * was there. A person says so, so that all of it is certain.
 * @param from the first of the words that are replaced, among all; @param to the one after the last
 */
export function corrected({ words, speakers }: Spoken, from: number, to: number, text: string): Spoken {
  const before = words.slice(from, to);
  const said = text.split(/\s+/).filter(Boolean);
  const made: SpokenWord[] = [];
  let [old, next] = [0, 0];
  for (const [oldAt, newAt] of [...kept(before, said), [before.length, said.length] as const]) {
    const [first, last, stays] = [before[old], before[oldAt - 1], before[oldAt]];
    const isReplaced = oldAt > old && first && last;
    const startMs = isReplaced ? first.startMs : ((before[old - 1] ?? words[from - 1])?.endMs ?? stays?.startMs ?? 0);
    const endMs = isReplaced ? last.endMs : ((stays ?? words[to])?.startMs ?? startMs);
    made.push(...wordsWithin(said.slice(next, newAt).join(' '), startMs, Math.max(startMs, endMs)));
    if (stays) made.push({ ...stays, text: said[newAt] as string, certainty: null });
    [old, next] = [oldAt + 1, newAt + 1];
  }
  return {
    words: [...words.slice(0, from), ...made.map(({ others: _others, ...word }) => word), ...words.slice(to)],
    speakers,
  };
}

/** Which words are the same before and after, both ascending: the longest run of them that there is. */
function kept(before: readonly SpokenWord[], said: readonly string[]): (readonly [number, number])[] {
  const [a, b] = [before.map(({ text }) => folded(text)), said.map(folded)];
  const width = b.length + 1;
  const lengths = new Uint16Array((a.length + 1) * width);
  const at = (i: number, j: number) => lengths[i * width + j] as number;
  for (let i = a.length - 1; i >= 0; i -= 1)
    for (let j = b.length - 1; j >= 0; j -= 1)
      lengths[i * width + j] = a[i] === b[j] ? at(i + 1, j + 1) + 1 : Math.max(at(i + 1, j), at(i, j + 1));
  const pairs: (readonly [number, number])[] = [];
  for (let i = 0, j = 0; i < a.length && j < b.length;)
    if (a[i] === b[j]) pairs.push([i++, j++]);
    else if (at(i + 1, j) >= at(i, j + 1)) i += 1;
    else j += 1;
  return pairs;
}

/** Says who speaks in a stretch, and leaves those before and after it as they were. */
export function namedSpeaker({ words, speakers }: Spoken, from: number, to: number, name: string): Spoken {
  const [first, next] = [words[from], words[to]];
  if (!first) return { words, speakers };
  const after = next && [...speakers].reverse().find(({ fromMs }) => fromMs <= next.startMs);
  const others = speakers.filter(({ fromMs }) => fromMs < first.startMs || (next && fromMs >= next.startMs));
  const told = [
    ...others,
    { fromMs: first.startMs, name },
    ...(next && !others.some(({ fromMs }) => fromMs === next.startMs)
      ? [{ fromMs: next.startMs, name: after?.name ?? '' }]
      : []),
  ].sort((a, b) => a.fromMs - b.fromMs);
  return {
    words,
    speakers: told.filter((each, at) => each.name !== (at === 0 ? '' : (told[at - 1] as typeof each).name)),
  };
}
