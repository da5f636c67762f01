import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import {
  customKey,
  heardWords,
  readLattice,
  readSegments,
  withSounds,
  wordsOfModel,
  withWords,
  type CustomWord,
  type SpokenWord,
} from '@larder/core/dialogue';
import { run } from './run';

/** A piece of sound to be listened to: a WAV file of 16,000 samples a second and one channel, in the folder that is worked in. */
export interface PieceFile {
  /** Its name without `.wav`: letters and digits. */
  readonly name: string;
  readonly startMs: number;
  readonly endMs: number;
}

/** A program that writes down what is said. */
export interface Recogniser {
  /** The program, its model and its version, as is kept with what it heard. */
  readonly madeBy: string;
  /** As BCP 47 has it. */
  readonly language: string;
  /** All words that it can hear by itself, as they are known to dictionaries. */
  knows(): Promise<ReadonlySet<string>>;
  /**
   * The words of each piece, with times from the beginning of the whole sound, and where it can tell them with the phones that it heard;
   * it may hear the custom words too. May use the folder as it likes.
   */
  hear(
    pieces: readonly PieceFile[],
    customWords: readonly CustomWord[],
    folder: string,
    signal: AbortSignal,
  ): Promise<readonly (readonly SpokenWord[])[]>;
}

const MODEL = '/usr/share/pocketsphinx/model/en-us';
/** How the words are said that it can hear. */
export const MODEL_DICTIONARY = join(MODEL, 'cmudict-en-us.dict');
const LANGUAGE_MODEL = join(MODEL, 'en-us.lm.bin');
/** How likely phones follow each other, for what is heard without regard to words. */
const PHONE_MODEL = join(MODEL, 'en-us-phone.lm.bin');
/**
 * How likely a custom word is said, as a natural logarithm. By trial on 120 sentences with 40 invented names said by two voices: 53 of the
 * names were heard so, and 44 at 10 to the power of -5; two and one were heard where they were not said.
 */
const CUSTOM_LIKELY = Math.log(10) * -3.5;
/** Of a second of speech it takes less than one; so long it is never at work. */
const TIMEOUT_PER_SECOND_MS = 20_000;
const TIMEOUT_MS = 120_000;
/** It needs some 120 MB. */
const MEMORY_BYTES = 1024 ** 3;
/** WAV files as they are, of clean speech. */
const SOUND = '-cepext .wav -adcin yes -adchdr 44 -remove_noise no'.split(' ');
/** A tenth of real time; a third of the phones are wrong. */
const PHONE_KNOBS = '-allphone_ci yes -lw 1 -beam 1e-20 -pbeam 1e-20'.split(' ');

type HeardLine = NonNullable<ReturnType<typeof readSegments>>;

/** PocketSphinx with the model of American English that Debian has, by its knobs for clean speech. */
export const POCKETSPHINX: Recogniser = {
  madeBy: 'PocketSphinx 5prealpha, en-us',
  language: 'en-US',
  knows: async () => wordsOfModel(await readFile(LANGUAGE_MODEL)),
  hear: async (pieces, customWords, folder, signal) => {
    const at = (name: string) => join(folder, name);
    const custom = byKey(customWords);
    const known =
      custom.size > 0 ? await withCustom(custom, folder) : { model: LANGUAGE_MODEL, dictionary: MODEL_DICTIONARY };
    await writeFile(at('pieces'), pieces.map(({ name }) => `${name}\n`).join(''));
    const seconds = pieces.reduce((sum, { startMs, endMs }) => sum + (endMs - startMs) / 1000, 0);
    const listen = async (heardTo: string, how: readonly string[]): Promise<HeardLine[]> => {
      const sound = ['-hmm', join(MODEL, 'en-us'), '-ctl', at('pieces'), '-cepdir', folder, ...SOUND];
      await run('pocketsphinx_batch', [...sound, ...how, '-hypseg', at(heardTo)], {
        ...{ signal, memoryBytes: MEMORY_BYTES, timeoutMs: TIMEOUT_MS + seconds * TIMEOUT_PER_SECOND_MS },
        // It tells much of what it does, at length.
        errorLine: (line) => (/^(?:ERROR|FATAL|prlimit)/.test(line) ? line : null),
      });
      return (await readFile(at(heardTo), 'utf8')).split('\n').flatMap((line) => readSegments(line) ?? []);
    };
    const words = await listen('heard', [
      ...['-lm', known.model, '-dict', known.dictionary, ...'-lw 5 -fwdflatlw 6.5 -bestpathlw 7.5'.split(' ')],
      ...['-outlatdir', folder, '-outlatfmt', 'htk', '-outlatbeam', '1e-5'],
    ]);
    const phones = await listen('phones', ['-allphone', PHONE_MODEL, ...PHONE_KNOBS]);
    const segmentsOf = (lines: readonly HeardLine[], name: string) =>
      lines.find(({ id }) => id === name)?.segments ?? [];
    return Promise.all(
      pieces.map(async ({ name, startMs }) => {
        const segments = segmentsOf(words, name);
        // Of a piece in which it heard nothing there is no lattice.
        if (segments.length === 0) return [];
        const heard = heardWords(readLattice(await readFile(at(`${name}.lat`), 'utf8')), segments, startMs);
        return withSounds(heard, segmentsOf(phones, name), startMs).map((word) => asWritten(word, custom));
      }),
    );
  },
};

/** Custom words as a dictionary in the form of the CMU Pronouncing Dictionary has them. */
export const dictionaryLines = (custom: ReadonlyMap<string, CustomWord>): string[] =>
  [...custom].flatMap(([key, { says }]) =>
    says.map((way, at) => `${key}${at === 0 ? '' : `(${at + 1})`} ${way.toUpperCase()}`),
  );

export const byKey = (words: readonly CustomWord[]): ReadonlyMap<string, CustomWord> =>
  new Map(
    words
      .flatMap((word) => [[customKey(word.text), word] as const])
      .filter((entry): entry is [string, CustomWord] => entry[0] !== null),
  );

/** A dictionary and a language model that have the custom words too. What the dictionary says of them is left out: a person knows better. */
async function withCustom(
  custom: ReadonlyMap<string, CustomWord>,
  folder: string,
): Promise<{ readonly model: string; readonly dictionary: string }> {
  const [model, dictionary] = [join(folder, 'words.lm.bin'), join(folder, 'words.dict')];
  const [known, lines] = await Promise.all([readFile(LANGUAGE_MODEL), readFile(MODEL_DICTIONARY, 'utf8')]);
  const said = dictionaryLines(custom);
  const others = lines.split('\n').filter((line) => !custom.has(line.slice(0, line.search(/[( ]/))));
  await writeFile(dictionary, [...others.filter(Boolean), ...said, ''].join('\n'));
  const there = wordsOfModel(known);
  const more = [...custom.keys()].filter((key) => !there.has(key));
  await writeFile(model, withWords(known, more, CUSTOM_LIKELY));
  return { model, dictionary };
}

/** Custom words as somebody wrote them: names have capitals. */
function asWritten({ others, text, ...word }: SpokenWord, custom: ReadonlyMap<string, CustomWord>): SpokenWord {
  const written = (heard: string): string => custom.get(heard)?.text ?? heard;
  return {
    ...{ ...word, text: written(text) },
    ...(others ? { others: others.map((other) => ({ ...other, text: written(other.text) })) } : {}),
  };
}
