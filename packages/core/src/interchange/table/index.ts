/** Tables as text: files with a heading, both ways, and what a spreadsheet puts on the clipboard. */
export * from './types';
export { MOST_COLUMNS, readBlock, readTable, tableText, wordTableIssue } from './read';
export { writeBlock, writeRows } from './write';
export { keyHeading, proposeUses, TAGS_HEADING, useIssue, wordUseIssue, type UseIssue } from './mapping';
