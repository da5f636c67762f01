import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { heardWords, readLattice, readSegments, type SpokenWord } from '@larder/core/dialogue';
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
  /** The words of each piece, with times from the beginning of the whole sound. May use the folder as it likes. */
  hear(pieces: readonly PieceFile[], folder: string, signal: AbortSignal): Promise<readonly (readonly SpokenWord[])[]>;
}

const MODEL = '/usr/share/pocketsphinx/model/en-us';
/** How the words are said that it can hear. */
export const MODEL_DICTIONARY = join(MODEL, 'cmudict-en-us.dict');
/** Of a second of speech it takes less than one; so long it is never at work. */
const TIMEOUT_PER_SECOND_MS = 20_000;
const TIMEOUT_MS = 120_000;
/** It needs some 120 MB. */
const MEMORY_BYTES = 1024 ** 3;

/** PocketSphinx with the model of American English that Debian has, by its knobs for clean speech. */
export const POCKETSPHINX: Recogniser = {
  madeBy: 'PocketSphinx 5prealpha, en-us',
  language: 'en-US',
  hear: async (pieces, folder, signal) => {
    const at = (name: string) => join(folder, name);
    await writeFile(at('pieces'), pieces.map(({ name }) => `${name}\n`).join(''));
    const seconds = pieces.reduce((sum, { startMs, endMs }) => sum + (endMs - startMs) / 1000, 0);
    await run(
      'pocketsphinx_batch',
      [
        ...['-hmm', join(MODEL, 'en-us'), '-lm', join(MODEL, 'en-us.lm.bin')],
        ...['-dict', MODEL_DICTIONARY, '-ctl', at('pieces'), '-cepdir', folder],
        ...'-cepext .wav -adcin yes -adchdr 44 -remove_noise no -lw 5 -fwdflatlw 6.5 -bestpathlw 7.5'.split(' '),
        ...['-outlatdir', folder, '-outlatfmt', 'htk', '-outlatbeam', '1e-5', '-hypseg', at('heard')],
      ],
      {
        ...{ signal, memoryBytes: MEMORY_BYTES, timeoutMs: TIMEOUT_MS + seconds * TIMEOUT_PER_SECOND_MS },
        // It tells much of what it does, at length.
        errorLine: (line) => (/^(?:ERROR|FATAL|prlimit)/.test(line) ? line : null),
      },
    );
    const lines = (await readFile(at('heard'), 'utf8')).split('\n').flatMap((line) => readSegments(line) ?? []);
    return Promise.all(
      pieces.map(async ({ name, startMs }) => {
        const segments = lines.find(({ id }) => id === name)?.segments ?? [];
        // Of a piece in which it heard nothing there is no lattice.
        if (segments.length === 0) return [];
        return heardWords(readLattice(await readFile(at(`${name}.lat`), 'utf8')), segments, startMs);
      }),
    );
  },
};
