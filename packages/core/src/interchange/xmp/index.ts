/** XMP packets (ISO 16684-1): finding them in any file, and reading what they say as names and values. */
export * from './read';
