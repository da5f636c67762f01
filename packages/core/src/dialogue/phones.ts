/** The sounds of American English as the CMU Pronouncing Dictionary writes them (ARPAbet, without stress). */
export const PHONES = [
  ...[
    'AA',
    'AE',
    'AH',
    'AO',
    'AW',
    'AY',
    'B',
    'CH',
    'D',
    'DH',
    'EH',
    'ER',
    'EY',
    'F',
    'G',
    'HH',
    'IH',
    'IY',
    'JH',
    'K',
  ],
  ...['L', 'M', 'N', 'NG', 'OW', 'OY', 'P', 'R', 'S', 'SH', 'T', 'TH', 'UH', 'UW', 'V', 'W', 'Y', 'Z', 'ZH'],
] as const;
export type Phone = (typeof PHONES)[number];

/** Phones as their places in `PHONES`. */
export type Phones = Uint8Array;

const PLACES = new Map<string, number>(PHONES.map((phone, at) => [phone, at]));

/** Reads phones as a dictionary writes them, `AH0` as `AH`; null if one of them is none. */
export function readPhones(text: string): Phones | null {
  const places = text
    .trim()
    .split(/ +/)
    .map((phone) => PLACES.get(phone.replace(/\d$/, '')));
  return places.every((place) => place !== undefined) ? Uint8Array.from(places) : null;
}

export const phonesText = (phones: Phones): string => Array.from(phones, (phone) => PHONES[phone]).join(' ');

/**
 * What a sound is made of, by the features and values of ALINE (G. Kondrak, “Algorithms for Language Reconstruction”, University of
 * Toronto 2002, tables 4.25 to 4.29; from memory).
 */
interface Features {
  readonly syllabic: 0 | 1;
  /** Where in the mouth: from 1 at the lips to .1 in the throat. */
  readonly place: number;
  /** How narrow: from 1, closed, to 0, open. */
  readonly manner: number;
  readonly voice: 0 | 1;
  readonly nasal: 0 | 1;
  readonly retroflex: 0 | 1;
  readonly lateral: 0 | 1;
  /** Of vowels: how high and how far back the tongue is, whether the lips are round, whether it is long. */
  readonly high: number;
  readonly back: number;
  readonly round: 0 | 1;
  readonly long: 0 | 1;
}

/** How much each weighs, also by ALINE. */
const SALIENCE: Readonly<Record<keyof Features, number>> = {
  ...{ syllabic: 5, place: 40, manner: 50, voice: 10, nasal: 10, retroflex: 10, lateral: 10 },
  ...{ high: 5, back: 5, round: 5, long: 1 },
};
const CONSONANT: readonly (keyof Features)[] = [
  'syllabic',
  'place',
  'manner',
  'voice',
  'nasal',
  'retroflex',
  'lateral',
];
const VOWEL: readonly (keyof Features)[] = ['syllabic', 'nasal', 'retroflex', 'high', 'back', 'round', 'long'];

const NEUTRAL: Features = {
  ...{ syllabic: 0, place: 0, manner: 0, voice: 0, nasal: 0, retroflex: 0, lateral: 0 },
  ...{ high: 0, back: 0, round: 0, long: 0 },
};
const STOP = 1;
const AFFRICATE = 0.9;
const FRICATIVE = 0.8;
const APPROXIMANT = 0.6;
const [LIPS, TEETH_LIPS, TEETH, RIDGE, CURLED, BEHIND_RIDGE, PALATE, VELUM, THROAT] = [
  1, 0.95, 0.9, 0.85, 0.8, 0.75, 0.7, 0.6, 0.1,
];

const consonant = (place: number, manner: number, voice: 0 | 1, more: Partial<Features> = {}): Features => ({
  ...NEUTRAL,
  ...{ place, manner, voice },
  ...more,
});
const vowel = (high: number, back: number, more: Partial<Features> = {}): Features => ({
  ...NEUTRAL,
  ...{ syllabic: 1, place: VELUM, manner: 0.4 * high, voice: 1, high, back },
  ...more,
});

/** Diphthongs by the vowel that they begin as, but for how high they end. */
const FEATURES: Readonly<Record<Phone, Features>> = {
  AA: vowel(0, 0, { long: 1 }),
  AE: vowel(0, 1),
  AH: vowel(0.5, 0.5),
  AO: vowel(0.25, 0, { round: 1, long: 1 }),
  AW: vowel(0.25, 0.5, { round: 1, long: 1 }),
  AY: vowel(0.25, 0.75, { long: 1 }),
  B: consonant(LIPS, STOP, 1),
  CH: consonant(BEHIND_RIDGE, AFFRICATE, 0),
  D: consonant(RIDGE, STOP, 1),
  DH: consonant(TEETH, FRICATIVE, 1),
  EH: vowel(0.5, 1),
  ER: vowel(0.5, 0.5, { retroflex: 1, long: 1 }),
  EY: vowel(0.75, 1, { long: 1 }),
  F: consonant(TEETH_LIPS, FRICATIVE, 0),
  G: consonant(VELUM, STOP, 1),
  HH: consonant(THROAT, FRICATIVE, 0),
  IH: vowel(0.85, 0.9),
  IY: vowel(1, 1, { long: 1 }),
  JH: consonant(BEHIND_RIDGE, AFFRICATE, 1),
  K: consonant(VELUM, STOP, 0),
  L: consonant(RIDGE, APPROXIMANT, 1, { lateral: 1 }),
  M: consonant(LIPS, STOP, 1, { nasal: 1 }),
  N: consonant(RIDGE, STOP, 1, { nasal: 1 }),
  NG: consonant(VELUM, STOP, 1, { nasal: 1 }),
  OW: vowel(0.5, 0, { round: 1, long: 1 }),
  OY: vowel(0.6, 0.25, { round: 1, long: 1 }),
  P: consonant(LIPS, STOP, 0),
  R: consonant(CURLED, APPROXIMANT, 1, { retroflex: 1 }),
  S: consonant(RIDGE, FRICATIVE, 0),
  SH: consonant(BEHIND_RIDGE, FRICATIVE, 0),
  T: consonant(RIDGE, STOP, 0),
  TH: consonant(TEETH, FRICATIVE, 0),
  UH: vowel(0.85, 0.1, { round: 1 }),
  UW: vowel(1, 0, { round: 1, long: 1 }),
  V: consonant(TEETH_LIPS, FRICATIVE, 1),
  W: consonant(VELUM, APPROXIMANT, 1, { round: 1 }),
  Y: consonant(PALATE, APPROXIMANT, 1),
  Z: consonant(RIDGE, FRICATIVE, 1),
  ZH: consonant(BEHIND_RIDGE, FRICATIVE, 1),
};

/** Costs are whole numbers, so that they are added up exactly: so much is one sound in the place of one that has nothing of it. */
export const WHOLE_COST = 100;
/** So large a difference of features makes another sound of a consonant, or of a vowel, whose features weigh little; by judgement. */
const OTHER_CONSONANT = 40;
const OTHER_VOWEL = 18;

function costBetween(a: Phone, b: Phone): number {
  const [x, y] = [FEATURES[a], FEATURES[b]];
  const both = x.syllabic === 1 && y.syllabic === 1;
  const apart = (both ? VOWEL : CONSONANT).reduce((sum, name) => sum + Math.abs(x[name] - y[name]) * SALIENCE[name], 0);
  return Math.min(WHOLE_COST, Math.round((apart / (both ? OTHER_VOWEL : OTHER_CONSONANT)) * WHOLE_COST));
}

/** What it costs to hear one sound for another: row by row, `PHONES.length` each. */
export const COSTS: Uint8Array = Uint8Array.from(PHONES.flatMap((a) => PHONES.map((b) => costBetween(a, b))));

/** What it costs to hear a sound that is not there, or not to hear it: least of those that are often swallowed; by judgement. */
const SWALLOWED: Readonly<Partial<Record<Phone, number>>> = { AH: 40, IH: 50, HH: 40, ER: 60, D: 55, T: 55, Y: 50 };
const isVowel = (phone: Phone): boolean => FEATURES[phone].syllabic === 1;
export const SKIPS: Uint8Array = Uint8Array.from(PHONES, (phone) => SWALLOWED[phone] ?? (isVowel(phone) ? 70 : 75));
