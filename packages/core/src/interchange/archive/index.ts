/** Catalogues of what lies on tapes and disks that no storage is: read as a table. */
export * from './types';
export { ARCHIVE_COLUMNS, readArchive, wordArchiveIssue } from './read';
export { writeArchive } from './write';
