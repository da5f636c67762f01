import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { readCtm, wordCtmIssue, type SpokenWord } from '@larder/core/dialogue';
import { byKey, dictionaryLines, type PieceFile, type Recogniser } from './recogniser';
import { run, ToolError } from './run';

/** A second of speech may take it that long, and it may take so long to begin; a program that hangs must not hang the library. */
const [TIMEOUT_PER_SECOND_MS, TIMEOUT_MS] = [60_000, 120_000] as const;
const MEMORY_BYTES = 8 * 1024 ** 3;

/**
 * Another program that writes down what is said: started once for each piece, it prints the words with their times as CTM. Of its
 * arguments `{sound}` is the piece, a WAV file of 16,000 samples a second and one channel, and `{words}` a file with the words of the
 * production as a pronouncing dictionary.
 */
export const programRecogniser = (choice: {
  readonly name: string;
  readonly language: string;
  readonly program: string;
  readonly arguments: readonly string[];
}): Recogniser => ({
  madeBy: choice.name,
  language: choice.language,
  knows: async () => new Set(),
  hear: async (pieces, customWords, folder, signal) => {
    const words = join(folder, 'custom.dict');
    await writeFile(words, `${dictionaryLines(byKey(customWords)).join('\n')}\n`);
    const heard: (readonly SpokenWord[])[] = [];
    for (const piece of pieces) {
      const { endMs, name, startMs } = piece;
      const given = { sound: join(folder, `${name}.wav`), words };
      const args = choice.arguments.map((each) =>
        each.replace(/\{(sound|words)\}/g, (_all, key: 'sound' | 'words') => given[key]),
      );
      const timeoutMs = TIMEOUT_MS + ((endMs - startMs) / 1000) * TIMEOUT_PER_SECOND_MS;
      const printed = await run(choice.program, args, { signal, timeoutMs, memoryBytes: MEMORY_BYTES });
      heard.push(wordsIn(printed.toString('utf8'), piece, choice.program));
    }
    return heard;
  },
});

/** The words of a piece that a recogniser printed; nothing of it is taken where it is no CTM. Throws ToolError. */
export function wordsIn(
  ctm: string,
  { endMs, startMs }: Pick<PieceFile, 'startMs' | 'endMs'>,
  by: string,
): readonly SpokenWord[] {
  const { issues, words } = readCtm(ctm, startMs);
  if (issues[0]) throw new ToolError(by, 'failed', `${by} printed something else than CTM. ${wordCtmIssue(issues[0])}`);
  // What it says is beyond the end of the piece would lie among the words of the next.
  return words.filter((word) => word.startMs < endMs).map((word) => ({ ...word, endMs: Math.min(word.endMs, endMs) }));
}
