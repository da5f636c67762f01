/** The registry of fields: what can be known of an asset, in which unit, and under which names. */
export * from './distance';
export * from './fold';
export * from './built-in';
export * from './operate';
export * from './registry';
export * from './schema';
export * from './shop-field';
export * from './text';
export * from './typed';
