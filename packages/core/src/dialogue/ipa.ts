import { PHONES, type Phone, type Phones } from './phones';

/** Signs of the International Phonetic Alphabet, as American English has them, and the phones that they stand for. */
const SIGNS: Readonly<Record<string, readonly Phone[]>> = {
  ...{ tʃ: ['CH'], dʒ: ['JH'], aɪ: ['AY'], aʊ: ['AW'], ɔɪ: ['OY'], oʊ: ['OW'], eɪ: ['EY'] },
  ...{ ɜː: ['ER'], ɑː: ['AA'], ɔː: ['AO'], oː: ['AO'], iː: ['IY'], uː: ['UW'], ɚ: ['ER'], ɝ: ['ER'] },
  ...{ æ: ['AE'], ɛ: ['EH'], ɪ: ['IH'], ᵻ: ['IH'], i: ['IY'], ʊ: ['UH'], u: ['UW'], ʌ: ['AH'], ə: ['AH'], ɐ: ['AH'] },
  ...{ ɑ: ['AA'], ɒ: ['AA'], ɔ: ['AO'], o: ['OW'], e: ['EH'], a: ['AA'], ɜ: ['ER'], y: ['UW'] },
  ...{ p: ['P'], b: ['B'], t: ['T'], d: ['D'], k: ['K'], ɡ: ['G'], g: ['G'], f: ['F'], v: ['V'], θ: ['TH'], ð: ['DH'] },
  ...{
    s: ['S'],
    z: ['Z'],
    ʃ: ['SH'],
    ʒ: ['ZH'],
    h: ['HH'],
    m: ['M'],
    n: ['N'],
    ŋ: ['NG'],
    l: ['L'],
    ɹ: ['R'],
    r: ['R'],
  },
  ...{
    w: ['W'],
    j: ['Y'],
    ɾ: ['T'],
    ʔ: ['T'],
    x: ['K'],
    ɬ: ['L'],
    ç: ['HH'],
    'n\u0329': ['AH', 'N'],
    'l\u0329': ['AH', 'L'],
  },
};
const LONGEST = 2;

/** The phones of a transcription in the International Phonetic Alphabet; stress and signs that are not known are passed over. */
export function phonesOfIpa(ipa: string): Phones {
  const phones: number[] = [];
  for (let at = 0; at < ipa.length;) {
    let length = LONGEST;
    while (length > 1 && !Object.hasOwn(SIGNS, ipa.slice(at, at + length))) length -= 1;
    const sign = ipa.slice(at, at + length);
    if (Object.hasOwn(SIGNS, sign))
      for (const phone of SIGNS[sign] as readonly Phone[]) phones.push(PHONES.indexOf(phone));
    at += length;
  }
  return Uint8Array.from(phones);
}
