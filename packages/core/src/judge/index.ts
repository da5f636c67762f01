/** What is unusual about a clip, before anybody decides whether it comes in. */
export * from './unusual';
