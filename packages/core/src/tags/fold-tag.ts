import { fold } from '../fields';

/** Spelled the same but for case, accents and gaps, two tags are one. */
export const foldTag = (name: string): string => fold(name).replace(/\s+/g, ' ').trim();
