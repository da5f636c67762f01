/** String-outs: laying out, editing, cut lists and the conform check. */
export * from './conform';
export * from './cut-list';
export * from './edit';
export * from './from-list';
export * from './run-markers';
export * from './string-out';
