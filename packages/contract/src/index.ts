/** What web and server say to each other: every request, answer, error and event. */
export * from './dialogue';
export * from './errors';
export * from './events';
export * from './field-values';
export * from './ingest';
export * from './model';
export * from './read-body';
export * from './requests';
export * from './restore';
export * from './twins';
export * from './routes';
export * from './tables';
