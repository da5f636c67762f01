import type { HeardAs } from '../query';
import { NATS } from './phone-channel';
import { WHOLE_COST } from './phones';

/** What speaks for it that something was said where it was found. */
export interface Evidence {
  /** What it costs to hear the one for the other, and of how many sounds. */
  readonly cost: number;
  readonly phones: number;
  /** How sure the recogniser is of the words, from 0 to 1: their mean. 1 only where a person says so. */
  readonly sure: number;
  /** All words are spelled as was asked, and are what the recogniser holds likeliest. */
  readonly spelled: boolean;
  /** They are words in a row, each of them heard as such. */
  readonly isRow?: boolean;
  /** Another word that sounds the same is what the recogniser holds likeliest. */
  readonly isOther?: boolean;
  /** It was found in the sounds of other words, wherever these begin and end: words in a row, or a name that no recogniser knows. */
  readonly across?: 'row' | 'name';
}

/** By what a logistic regression weighs the evidence. */
interface Fit {
  readonly bias: number;
  readonly sure: number;
  /** Of the odds of being sure, by their logarithm; and of that again where it is sure of another word. */
  readonly sureOdds: number;
  readonly otherOdds: number;
  readonly row: number;
  readonly other: number;
  /** Of the logarithm of how many sounds it has. */
  readonly length: number;
  /** Of what it costs a sound, and of that by the logarithm of how many there are. */
  readonly apart: number;
  readonly apartLength: number;
}

/**
 * Fitted to 71 minutes of synthesised speech of known text, in which a thousand words and phrases and 40 names that no dictionary has
 * were looked for (`./larder bench dialogue` tells how well what it says holds for other speech). What is spelled so, and what sounds
 * exactly so, are weighed by themselves: there it matters how sure the recogniser is, and of what.
 */
const NOTHING: Fit = {
  ...{ bias: 0, sure: 0, sureOdds: 0, otherOdds: 0, row: 0, other: 0, length: 0 },
  ...{ apart: 0, apartLength: 0 },
};
const SPELLED: Fit = { ...NOTHING, bias: -1.111, sureOdds: 0.321, row: 0.48, length: 1.985 };
const SAME: Fit = {
  ...NOTHING,
  ...{ bias: -4.011, sureOdds: 0.286, otherOdds: -0.523, row: -0.919, other: -0.349, length: 1.597 },
};
const ALIKE: Fit = { ...NOTHING, bias: -9.875, sure: 0.201, length: 2.805, apart: 8.396, apartLength: -7.996 };
const ACROSS: Readonly<Record<'row' | 'name', Fit>> = {
  row: { ...NOTHING, bias: -4.368, sure: -2.656, length: 4.529, apart: -11.669, apartLength: -15.448 },
  name: { ...NOTHING, bias: -5.429, sure: -2.728, length: 5.283, apart: -6.215, apartLength: -11.631 },
};
/** Nobody is surer, or less sure. */
const LEAST_SURE = 0.001;

/** How likely it is that something was said, in whole percent. */
export function confidenceOf({ across, cost, isOther, isRow, phones, spelled, sure }: Evidence): number {
  if (spelled && sure === 1) return 100;
  if (phones === 0) return Math.round(sure * 100);
  const fit = across ? ACROSS[across] : cost > 0 ? ALIKE : spelled ? SPELLED : SAME;
  const [apart, length] = [cost / (phones * WHOLE_COST), Math.log(phones)];
  const share = Math.min(1 - LEAST_SURE, Math.max(LEAST_SURE, sure));
  const sureOdds = Math.log(share / (1 - share));
  const odds =
    fit.bias +
    fit.sure * sure +
    fit.sureOdds * sureOdds +
    (isOther ? fit.other + fit.otherOdds * sureOdds : 0) +
    (isRow ? fit.row : 0) +
    fit.length * length +
    fit.apart * apart +
    fit.apartLength * apart * length;
  const percent = Math.round(100 / (1 + Math.exp(-odds)));
  // Who looks for all that sounds so wants to see it, however sure a recogniser, or whoever wrote it, is of the other word.
  return isOther ? Math.max(LEAST_CONFIDENCE, percent) : percent;
}

/** What speaks for it that something was said among the phones that were heard, whatever words they make. */
export interface HeardEvidence {
  /** The logarithm of the odds against any other speech, by `NATS`. */
  readonly odds: number;
  /** How sure the recogniser is of the words that it made of them, from 0 to 1. */
  readonly sure: number;
  /** How many words it made of them. */
  readonly words: number;
  /** It begins, and ends, where one of these words does. */
  readonly begins: boolean;
  readonly ends: boolean;
  /** How many words are looked for: one is a name that no recogniser knows. */
  readonly sought: number;
}

/** Fitted to the same speech as the rest. More words than `most` tell no more. */
const HEARD = {
  name: { bias: -8.543, odds: 0.564, unsure: 0.67, begins: 0.997, ends: 1.833, words: 1.104, most: 3, besides: 0 },
  row: { bias: -9.889, odds: 0.555, unsure: 0.737, begins: 1.644, ends: 1.353, words: 0.709, most: 6, besides: -0.487 },
} as const;

/** How likely it is that it was said, in whole percent. */
export function confidenceOfHeard({ begins, ends, odds, sought, sure, words }: HeardEvidence): number {
  const fit = sought > 1 ? HEARD.row : HEARD.name;
  const all =
    fit.bias +
    (fit.odds * odds) / NATS +
    fit.unsure * Math.log(Math.max(LEAST_SURE, 1 - sure)) +
    fit.words * Math.min(words, fit.most) +
    fit.besides * Math.abs(words - sought) +
    (begins ? fit.begins : 0) +
    (ends ? fit.ends : 0);
  return Math.round(100 / (1 + Math.exp(-all)));
}

/** How strict a search of speech is, by `HEARD_AS`. */
export const NOTCHES = [
  { name: 'spelled', label: 'As spelled', floor: null },
  { name: 'sure', label: 'Nearly sure', floor: 75 },
  { name: 'likely', label: 'Likely', floor: 50 },
  { name: 'maybe', label: 'Perhaps', floor: 20 },
  { name: 'sounds', label: 'Sounds like', floor: 3 },
] as const satisfies readonly { readonly name: HeardAs; readonly label: string; readonly floor: number | null }[];

/** What is less likely than this is not looked at. */
export const LEAST_CONFIDENCE = NOTCHES[NOTCHES.length - 1]?.floor ?? 0;

/** So much may be lost at most before it is too unlikely, however sure the recogniser is of the words; by the number of sounds. */
export function mostCost(phones: number, across?: 'row' | 'name'): number {
  const costs = mostCosts[across ?? 'word'];
  let most = costs[phones];
  if (most === undefined) {
    most = 0;
    // Being sure speaks for a word, and against what was found in the sounds of others.
    const sure = across ? 0 : 1;
    const seen = across ? { across } : {};
    while (confidenceOf({ cost: most + 1, phones, spelled: false, sure, ...seen }) >= LEAST_CONFIDENCE) most += 1;
    costs[phones] = most;
  }
  return most;
}
const mostCosts: Record<'word' | 'row' | 'name', number[]> = { word: [], row: [], name: [] };

/** With less that speaks for it, by `NATS`, nothing that was heard is looked at, whatever else does; by how many words are looked for. */
export function leastHeard(sought: number): number {
  let least = leastHeards[sought];
  if (least === undefined) {
    const likeliest = (odds: number): number =>
      Math.max(
        ...Array.from({ length: sought + HEARD.row.most }, (_unused, more) =>
          confidenceOfHeard({ odds, sought, sure: 0, words: 1 + more, begins: true, ends: true }),
        ),
      );
    least = 0;
    while (likeliest(least) >= LEAST_CONFIDENCE) least -= 1;
    while (likeliest(least) < LEAST_CONFIDENCE) least += 1;
    leastHeards[sought] = least;
  }
  return least;
}
const leastHeards: number[] = [];

/** The strictest notch at which something is found; -1 for none. */
export const notchOf = (spelled: boolean, confidence: number): number =>
  spelled ? 0 : NOTCHES.findIndex(({ floor }) => floor !== null && confidence >= floor);
