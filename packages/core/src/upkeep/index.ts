/** How well the library is kept. */
export * from './health';
