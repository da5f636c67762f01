import { formatTimecode } from '../../timecode';
import { writeRows } from '../table';
import { ARCHIVE_COLUMNS } from './read';
import type { ArchivedFile } from './types';

const said = (value: number | null): string => (value === null ? '' : String(value));

/** A catalogue as `readArchive` reads it back. */
export const writeArchive = (files: readonly ArchivedFile[]): string =>
  writeRows(
    [
      ARCHIVE_COLUMNS,
      ...files.map(({ facts: { bytes, checksum, counting, durationFrames, path, reel, startFrame }, tape }) => [
        ...[tape, path, String(bytes), checksum ?? '', reel ?? '', counting?.id ?? ''],
        ...[counting && startFrame !== null ? formatTimecode(startFrame, counting) : '', said(durationFrames)],
      ]),
    ],
    ',',
  );
