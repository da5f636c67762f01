/** Tables as text: what a spreadsheet puts on the clipboard. */
export { readBlock } from './read';
export { writeBlock } from './write';
