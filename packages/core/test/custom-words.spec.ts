import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import {
  customKey,
  MOST_WORD_SOUNDS,
  phonesOfIpa,
  PHONES,
  phonesText,
  soundsOfWay,
  speakable,
  withWords,
  wordsOfModel,
  writtenWords,
} from '../src/dialogue';

/** As Debian's `pocketsphinx-en-us` carries it. */
const MODEL = new Uint8Array(readFileSync('/usr/share/pocketsphinx/model/en-us/en-us.lm.bin'));

describe('words that a production adds', () => {
  it('are known by their letters', () => {
    expect(customKey('Ottermouth')).toBe('ottermouth');
    expect(customKey('  O’Dell! ')).toBe("o'dell");
    expect(['', '?!', 'low water', 'x'.repeat(61)].map(customKey)).toEqual([null, null, null, null]);
    expect(writtenWords('Wren Halloway, of the “Lower Lock”; O’Dell (Écluse)')).toEqual([
      'Wren',
      'Halloway',
      'of',
      'the',
      'Lower',
      'Lock',
      'O’Dell',
      'Écluse',
    ]);
  });

  it('are said in sounds of the dictionary, and in nothing else', () => {
    expect(phonesText(soundsOfWay('aa t er  m aw1 th') ?? new Uint8Array(0))).toBe('AA T ER M AW TH');
    expect(soundsOfWay('AA XX')).toBeNull();
    expect(soundsOfWay('AA '.repeat(MOST_WORD_SOUNDS + 1).trim())).toBeNull();
  });

  it('are spoken with the sounds that they are written in', () => {
    // By espeak-ng itself: what it transcribes of what it is told to speak. At the end of a word it has no IH.
    const last = PHONES.indexOf('P');
    const spoken = (at: number) => {
      const text = speakable(Uint8Array.of(at, last));
      return phonesOfIpa(execFileSync('espeak-ng', ['-q', '--ipa', '-v', 'en-us', text], { encoding: 'utf8' }));
    };
    const heard = PHONES.map((phone, at) => [`${phone} P`, phonesText(spoken(at))]);
    expect(heard.filter(([phone, back]) => phone !== back)).toEqual([]);
    expect(speakable(soundsOfWay('B EH L') ?? new Uint8Array(0))).toBe('[[b|E|l]]');
  });
});

describe('a language model', () => {
  const words = wordsOfModel(MODEL);

  it('tells its words', () => {
    expect(words.size).toBe(72_547);
    for (const word of ['water', '<s>', '</s>', "zyuganov's"]) expect(words.has(word)).toBe(true);
    expect(words.has('ottermouth')).toBe(false);
  });

  it('takes more of them, with all else as it was', () => {
    const more = withWords(MODEL, ['ottermouth', 'halloway'], -9);
    expect([...wordsOfModel(more)]).toEqual([...words, 'ottermouth', 'halloway']);
    // The same again says that what is before and behind the new was not moved against each other.
    const again = withWords(withWords(MODEL, ['ottermouth'], -9), ['halloway'], -9);
    expect(Buffer.compare(more, again)).toBe(0);
    expect(Buffer.compare(withWords(MODEL, [], -9), MODEL)).toBe(0);
  });

  it('that is none, or cut off, or too full is told', () => {
    for (const bad of [new Uint8Array(0), MODEL.slice(0, 10), MODEL.slice(0, 900_000), MODEL.slice(1)])
      expect(() => wordsOfModel(bad)).toThrow('no language model');
    const many = Array.from({ length: 60_000 }, (_unused, at) => `w${at}`);
    expect(() => withWords(MODEL, many, -9)).toThrow('no room');
  });
});
