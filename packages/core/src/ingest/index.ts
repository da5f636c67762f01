/** How things come in: the settings of an ingest, names by a pattern, and twins of what the library has. */
export * from './naming';
export * from './placing';
export * from './settings';
export * from './twins';
