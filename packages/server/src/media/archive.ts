import { readFile, stat } from 'node:fs/promises';
import { array, object, string, type InferType } from 'yup';
import { readArchive, wordArchiveIssue, type ArchivedFile } from '@larder/core/interchange/archive';
import { tableText } from '@larder/core/interchange/table';
import { checked, readJson } from './chosen';
import { run } from './run';

/** A tape robot may have a night's work before it; a program that hangs must not hang the library for ever. */
const TIMEOUT_MS = 24 * 3_600_000;
/** What runs in a machine of its own reserves much more than it uses. */
const MEMORY_BYTES = 64 * 1024 ** 3;
const LONGEST_CATALOGUE = 512 * 1024 ** 2;
const LONGEST_WORD = 200;

const archiveSchema = object({
  /** As people call it. */
  name: string().trim().min(1).max(100).required('“name” is missing: what the archive is called.'),
  /** The file with what it has. */
  catalogue: string()
    .max(4000)
    .matches(/^\//, '“catalogue” is no whole path such as /srv/archive/catalogue.csv.')
    .required('“catalogue” is missing: the file that says what the archive has.'),
  program: string().min(1).max(4000).required('“program” is missing: what fetches a file.'),
  arguments: array(string().max(4000).defined()).max(100).default(['--', '{tape}', '{path}', '{to}']),
}).noUnknown('There is something else in it: ${unknown}.');

/** An archive that files can be fetched from: a catalogue, and a program that fetches one file. */
export type ArchiveChoice = InferType<typeof archiveSchema>;

/** Reads the choice from the text of its file. Throws an error that says what is wrong with it. */
export const readArchiveChoice = (text: string): ArchiveChoice => checked(archiveSchema, readJson(text));

export interface ArchiveCatalogue {
  readonly files: readonly ArchivedFile[];
  /** What cannot be read of it, in words. */
  readonly troubles: readonly string[];
}

/** Tapes, disks or whatever else originals are kept on that no storage is. Nothing is ever written to it. */
export class Archive {
  private read: { readonly mark: string; readonly catalogue: ArchiveCatalogue } | null = null;

  constructor(private readonly choice: ArchiveChoice) {}

  get name(): string {
    return this.choice.name;
  }

  /** What it has, read again when its file is another. Never throws. */
  async catalogue(): Promise<ArchiveCatalogue> {
    const { catalogue: path } = this.choice;
    try {
      const { mtimeMs, size } = await stat(path);
      const mark = `${mtimeMs} ${size}`;
      if (size > LONGEST_CATALOGUE) return trouble(`The catalogue ${path} is longer than any archive’s.`);
      if (this.read?.mark !== mark) this.read = { mark, catalogue: catalogueIn(await readFile(path), path) };
      return this.read.catalogue;
    } catch (error) {
      return trouble(
        `The catalogue ${path} cannot be read: ${(error as NodeJS.ErrnoException).code ?? String(error)}.`,
      );
    }
  }

  /** Has a file fetched to a path at which there is nothing yet. `says` is told what the program prints, line by line. */
  async fetch(
    { facts: { path }, tape }: ArchivedFile,
    to: string,
    { says, signal }: { readonly signal: AbortSignal; says(line: string): void },
  ): Promise<void> {
    const given = { tape, path, to };
    const args = this.choice.arguments.map((each) =>
      each.replace(/\{(tape|path|to)\}/g, (_all, key: keyof typeof given) => given[key]),
    );
    let rest = '';
    const onOutput = (piece: Buffer): void => {
      const lines = (rest + piece.toString('utf8')).split(/[\r\n]+/);
      rest = (lines.pop() ?? '').slice(-LONGEST_WORD);
      const last = lines.findLast((line) => line.trim() !== '');
      if (last) says(last.trim().slice(0, LONGEST_WORD));
    };
    await run(this.choice.program, args, { signal, timeoutMs: TIMEOUT_MS, memoryBytes: MEMORY_BYTES, onOutput });
  }
}

const trouble = (words: string): ArchiveCatalogue => ({ files: [], troubles: [words] });

function catalogueIn(bytes: Buffer, path: string): ArchiveCatalogue {
  const text = tableText(bytes);
  if (text === null) return trouble(`The catalogue ${path} is no text in UTF-8 or UTF-16.`);
  const { files, issues, more } = readArchive(text);
  const troubles = issues.map(wordArchiveIssue);
  return { files, troubles: more > 0 ? [...troubles, `${more} more like these.`] : troubles };
}
