import type { SpeakerFrom, Spoken, SpokenWord } from './transcript';

/** What is said into one channel, and whose it is. */
export interface SpokenChannel {
  readonly name: string;
  readonly words: readonly SpokenWord[];
}

/** What is said into several channels at once as one transcript: word after word by their times, each by whoever has the channel. */
export function wovenChannels(channels: readonly SpokenChannel[]): Spoken {
  const all = channels
    .flatMap(({ name, words }) => words.map((word) => ({ name, word })))
    .sort((a, b) => a.word.startMs - b.word.startMs);
  const words: SpokenWord[] = [];
  const speakers: SpeakerFrom[] = [];
  let from = -1;
  for (const { name, word } of all) {
    // Who speaks is told by the moment: no two begin at the same.
    const isOther = speakers.at(-1)?.name !== name;
    const startMs = isOther && word.startMs <= from ? from + 1 : Math.max(word.startMs, from);
    from = startMs;
    words.push(startMs === word.startMs ? word : { ...word, startMs, endMs: Math.max(word.endMs, startMs + 1) });
    if (isOther) speakers.push({ fromMs: startMs, name });
  }
  return { words, speakers };
}
