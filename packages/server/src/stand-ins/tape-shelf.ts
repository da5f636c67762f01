import { createReadStream, createWriteStream } from 'node:fs';
import { readdir, readFile, realpath, writeFile } from 'node:fs/promises';
import { join, sep } from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { setTimeout as wait } from 'node:timers/promises';

/**
 * Stands in for an archive: a shelf is a folder with a folder for each tape, and one drive, in which the last tape stays. Run as
 * `tape-shelf SHELF SECONDS BYTES_PER_SECOND TAPE PATH TO`: putting in another tape takes so many seconds, and files come back so slowly.
 * Prints what it does, a line at a time.
 */
const [shelf = '', seconds = '', pace = '', tape = '', path = '', to = ''] = process.argv.slice(2);
/** The name on the tape that is in the drive. */
const DRIVE = join(shelf, 'in the drive');

const say = (line: string): void => void process.stdout.write(`${line}\n`);
const fail = (line: string): never => {
  process.stderr.write(`${line}\n`);
  process.exit(1);
};

/** As slow as a drive. */
function slowly(bytesPerSecond: number): Transform {
  const began = Date.now();
  let bytes = 0;
  return new Transform({
    transform: (piece: Buffer, _encoding, done) => {
      bytes += piece.length;
      void wait(Math.max(0, began + (bytes / bytesPerSecond) * 1000 - Date.now())).then(() => done(null, piece));
    },
  });
}

const tapes = (await readdir(shelf, { withFileTypes: true })).filter((entry) => entry.isDirectory());
if (!tapes.some(({ name }) => name === tape)) fail(`There is no tape ${tape} on the shelf.`);
const source = await realpath(join(shelf, tape, path)).catch(() => '');
if (!source.startsWith((await realpath(join(shelf, tape))) + sep)) fail(`There is no ${path} on tape ${tape}.`);
const inDrive = await readFile(DRIVE, 'utf8').catch(() => '');
if (inDrive !== tape) {
  say(`Putting tape ${tape} into the drive`);
  await wait(Number(seconds) * 1000);
  await writeFile(DRIVE, tape);
}
say(`Reading from tape ${tape}`);
// Pieces of an eighth of a second, so that one sees it come.
const piece = Math.min(1_048_576, Math.max(256, Math.floor(Number(pace) / 8)));
await pipeline(
  createReadStream(source, { highWaterMark: piece }),
  slowly(Number(pace)),
  createWriteStream(to, { flags: 'wx' }),
);
