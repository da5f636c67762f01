/** How well the library is kept. */
export * from './health';
export { mergedValues, type Merged } from './merge';
