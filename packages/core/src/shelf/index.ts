/** What lies on a storage as a person thinks of it, and beside what the catalogue says of it. */
export * from './compare';
export * from './items';
export { isInner } from './paths';
