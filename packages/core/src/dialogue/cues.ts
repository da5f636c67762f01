import type { Cue } from '../interchange/timed-text';
import { passagesOf } from './passages';
import { saidText, type SpeakerFrom, type Spoken, type SpokenWord } from './transcript';

/** Lines of captions as they are commonly made: two of 42 letters, for seven seconds at most; common practice, no source. */
const LETTERS = 84;
const LONGEST_MS = 7000;

/**
 * Words of captions with times of their own: those of a cue share its time by how many letters they have, which is all that captions
 * tell. What lies beyond the end of the sound is left out and counted.
 * @param lengthMs how long the sound is
 */
export function spokenOfCues(cues: readonly Cue[], lengthMs: number): Spoken & { readonly outside: number } {
  const words: SpokenWord[] = [];
  const speakers: SpeakerFrom[] = [];
  let outside = 0;
  for (const cue of cues.toSorted((a, b) => a.startMs - b.startMs)) {
    if (cue.startMs >= lengthMs) {
      outside += 1;
      continue;
    }
    const said = wordsWithin(cue.text, cue.startMs, Math.min(cue.endMs, lengthMs));
    if (said.length === 0) continue;
    // Not handed on as arguments: a single cue may be all of an hour.
    for (const word of said) words.push(word);
    if ((speakers.at(-1)?.name ?? '') !== cue.voice) speakers.push({ fromMs: cue.startMs, name: cue.voice });
  }
  return { words: words.sort((a, b) => a.startMs - b.startMs), speakers, outside };
}

/** The words of a text, which share a stretch of time by their letters. */
export function wordsWithin(text: string, startMs: number, endMs: number): SpokenWord[] {
  const said = text.split(/\s+/).filter(Boolean);
  const letters = said.reduce((sum, word) => sum + word.length, 0);
  let before = 0;
  const at = (count: number) => Math.round(startMs + ((endMs - startMs) * count) / letters);
  return said.map((word) => {
    const from = at(before);
    before += word.length;
    return { text: word, startMs: from, endMs: at(before), certainty: null };
  });
}

/** Words as captions, each of one passage and no longer than captions are. */
export function cuesOf(spoken: Spoken): Cue[] {
  return passagesOf(spoken).flatMap(({ speaker, words }) =>
    linesOf(words).map((line): Cue => ({
      startMs: (line[0] as SpokenWord).startMs,
      endMs: Math.max((line.at(-1) as SpokenWord).endMs, (line[0] as SpokenWord).startMs + 1),
      id: '',
      text: saidText(line),
      voice: speaker,
      classes: [],
    })),
  );
}

function linesOf(words: readonly SpokenWord[]): SpokenWord[][] {
  const lines: SpokenWord[][] = [];
  let letters = 0;
  for (const word of words) {
    const line = lines.at(-1);
    const [first] = line ?? [];
    const fits = first && letters + 1 + word.text.length <= LETTERS && word.endMs - first.startMs <= LONGEST_MS;
    if (line && fits) {
      line.push(word);
      letters += 1 + word.text.length;
    } else {
      lines.push([word]);
      letters = word.text.length;
    }
  }
  return lines;
}
