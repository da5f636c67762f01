import { WHOLE_COST } from './phones';

/** What speaks for it that something was said where it was found. */
export interface Evidence {
  /** What it costs to hear the one for the other, and of how many sounds. */
  readonly cost: number;
  readonly phones: number;
  /** How sure the recogniser is of the words, from 0 to 1: their mean. */
  readonly sure: number;
}

/**
 * How likely it is that something was said, in whole percent. A logistic regression over what it costs a sound, how sure the
 * recogniser is and how long what is looked for is; fitted to, and held against, speech of known text (`./larder bench dialogue`).
 */
export function confidenceOf({ cost, phones, sure }: Evidence): number {
  if (phones === 0) return Math.round(sure * 100);
  const apart = cost / (phones * WHOLE_COST);
  const odds = FIT.bias + FIT.sure * sure + FIT.apart * apart + FIT.length * Math.log(phones);
  return Math.round(100 / (1 + Math.exp(-odds)));
}

const FIT = { bias: -4, sure: 5, apart: -14, length: 1.2 } as const;

/** How strict a search of speech is: from words as they are spelled to what sounds like them. Each finds what the one before does. */
export const NOTCHES = [
  { name: 'spelled', label: 'As spelled', floor: null },
  { name: 'sure', label: 'Nearly sure', floor: 75 },
  { name: 'likely', label: 'Likely', floor: 50 },
  { name: 'maybe', label: 'Perhaps', floor: 25 },
  { name: 'sounds', label: 'Sounds like', floor: 10 },
] as const satisfies readonly { readonly name: string; readonly label: string; readonly floor: number | null }[];
export type Notch = (typeof NOTCHES)[number]['name'];

/** What is less likely than this is not looked at. */
export const LEAST_CONFIDENCE = 10;

/** The strictest notch at which something is found. */
export const notchOf = (spelled: boolean, confidence: number): number =>
  spelled ? 0 : NOTCHES.findIndex(({ floor }) => floor !== null && confidence >= floor);
