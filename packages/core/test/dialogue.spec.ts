import {
  corrected,
  cuesOf,
  heardWords,
  namedSpeaker,
  packSpoken,
  passagesOf,
  phonesText,
  placeOfMs,
  readLattice,
  readPhones,
  readSegments,
  readSounds,
  saidText,
  spokenHits,
  spokenMoved,
  spokenOfCues,
  spokenWithin,
  unpackSpoken,
  withSounds,
  writeSounds,
  type Spoken,
  type SpokenWord,
} from '../src/dialogue';
import { BUILT_IN } from '../src/fields';
import { havingHits, hitsIn } from '../src/markers';
import { parseQuery, printQuery } from '../src/query';

/** Words of a third of a second each, one after the other; `…` is a second in which nobody speaks. */
function spoken(text: string, speakers: Spoken['speakers'] = []): Spoken {
  let ms = 0;
  const words: SpokenWord[] = [];
  for (const each of text.split(' ')) {
    if (each === '…') ms += 1000;
    else words.push({ text: each, startMs: ms, endMs: (ms += 300), certainty: 0.5 });
  }
  return { words, speakers };
}
const phones = (text: string) => readPhones(text) ?? new Uint8Array(0);
const timesOf = (words: readonly SpokenWord[]) => words.map(({ text, startMs, endMs }) => [text, startMs, endMs]);

describe('passages', () => {
  it('end at pauses, where somebody else speaks, and at sentences that are not too short', () => {
    const all = spoken('the gate … is shut. We have waited here for hours now. Then it opened. Good', [
      { fromMs: 0, name: 'Osk' },
      { fromMs: 5200, name: 'Wren' },
    ]);
    expect(passagesOf(all).map(({ speaker, words }) => [speaker, saidText(words)])).toEqual([
      ['Osk', 'the gate'],
      ['Osk', 'is shut. We have waited here for hours now.'],
      ['Osk', 'Then it opened.'],
      ['Wren', 'Good'],
    ]);
  });

  it('without an end of their own are cut at the longest pauses, into all of the words', () => {
    const { words } = spoken(Array.from({ length: 200 }, (_unused, at) => `w${at}`).join(' '));
    const gapped = words.map((word) => ({ ...word, startMs: word.startMs + (word.startMs >= 30_000 ? 500 : 0) }));
    const passages = passagesOf({ words: gapped, speakers: [] });
    expect(passages.flatMap((passage) => passage.words)).toEqual(gapped);
    expect(passages.every(({ from, to }) => to - from <= 80 && to - from >= 8)).toBe(true);
    expect(passages.map(({ from }) => from)).toContain(100);
    expect(passagesOf({ words: [], speakers: [] })).toEqual([]);
    // Words of captions have no pauses between them at all.
    const even = passagesOf(spoken('word '.repeat(50_000).trim()));
    expect(even.every(({ from, to }) => to - from <= 80 && to - from >= 20)).toBe(true);
  });
});

describe('a correction', () => {
  const before = spoken('at low water you could walk');
  it('keeps the times of words that stay, whatever their case, and shares out the others', () => {
    const { words } = corrected(before, 1, 4, 'Low tide water');
    expect(timesOf(words)).toEqual([
      ['at', 0, 300],
      ['Low', 300, 600],
      // There was no time between the two.
      ['tide', 600, 600],
      ['water', 600, 900],
      ['could', 1200, 1500],
      ['walk', 1500, 1800],
    ]);
    expect(words.slice(1, 4).map(({ certainty }) => certainty)).toEqual([null, null, null]);
    expect(words[0]?.certainty).toBe(0.5);
  });

  it.each([
    ['takes words out', 1, 3, '', 'at you could walk'],
    ['puts words in before the first', 0, 0, 'and so', 'and so at low water you could walk'],
    ['puts words in after the last', 6, 6, 'across', 'at low water you could walk across'],
    ['replaces all', 0, 6, 'nothing', 'nothing'],
    ['takes all out', 0, 6, ' ', ''],
  ])('%s', (_what, from, to, text, after) => {
    const { words } = corrected(before, from, to, text);
    expect(saidText(words)).toBe(after);
    words.forEach((word, at) => {
      expect(word.startMs).toBeLessThanOrEqual(word.endMs);
      expect(word.startMs).toBeGreaterThanOrEqual(words[at - 1]?.endMs ?? 0);
    });
  });

  it('of who speaks leaves those before and after as they were', () => {
    const told = { ...before, speakers: [{ fromMs: 600, name: 'Osk' }] };
    expect(namedSpeaker(told, 3, 5, 'Wren').speakers).toEqual([
      { fromMs: 600, name: 'Osk' },
      { fromMs: 900, name: 'Wren' },
      { fromMs: 1500, name: 'Osk' },
    ]);
    expect(namedSpeaker(told, 0, 6, 'Wren').speakers).toEqual([{ fromMs: 0, name: 'Wren' }]);
    expect(namedSpeaker(told, 2, 6, '').speakers).toEqual([]);
  });
});

describe('captions', () => {
  const cue = (startMs: number, endMs: number, text: string, voice = '') => ({
    ...{ startMs, endMs, text, voice, id: '', classes: [] },
  });
  it('become words that share their time by their letters; those beyond the end are counted', () => {
    const read = spokenOfCues(
      [cue(2000, 3000, 'ab cdef', 'Osk'), cue(0, 1000, 'one\ntwo'), cue(3500, 9000, 'x y'), cue(4000, 5000, 'gone')],
      4000,
    );
    expect(timesOf(read.words)).toEqual([
      ['one', 0, 500],
      ['two', 500, 1000],
      ['ab', 2000, 2333],
      ['cdef', 2333, 3000],
      ['x', 3500, 3750],
      ['y', 3750, 4000],
    ]);
    expect(read.speakers).toEqual([
      { fromMs: 2000, name: 'Osk' },
      { fromMs: 3500, name: '' },
    ]);
    expect(read.outside).toBe(1);
  });

  it('may be one for all of a day', () => {
    const { words } = spokenOfCues([cue(0, 1000, 'a '.repeat(200_000))], 1000);
    expect([words.length, words.at(-1)?.endMs]).toEqual([200_000, 1000]);
  });

  it('are made of passages, no longer than captions are', () => {
    const cues = cuesOf(spoken(`${'many words to be said '.repeat(12).trim()} … the end`));
    expect(cues.every(({ text, startMs, endMs }) => text.length <= 84 && endMs - startMs <= 7000)).toBe(true);
    expect(cues.map(({ text }) => text).join(' ')).toBe(`${'many words to be said '.repeat(12)}the end`);
    expect(cues.at(-1)?.text).toBe('the end');
  });
});

describe('what is kept', () => {
  it('comes back as it was, and another version or anything else is refused', () => {
    const all: Spoken = {
      words: [
        { text: 'lock', startMs: 0, endMs: 10, certainty: 0.25, others: [{ text: 'lot', certainty: 0.125 }] },
        { text: 'lock', startMs: 10, endMs: 20, certainty: null },
        { text: 'log', startMs: 20, endMs: 30, certainty: null, others: [{ text: 'lock', certainty: 1 }] },
        { text: 'lot', startMs: 30, endMs: 40, certainty: null, sounds: writeSounds(phones('L AA T ZH')) },
        {
          ...{ text: 'lid', startMs: 40, endMs: 50, certainty: 0.5, others: [{ text: 'lied', certainty: 0.25 }] },
          sounds: 'D@',
        },
      ],
      speakers: [{ fromMs: 0, name: 'Osk' }],
    };
    expect(unpackSpoken(packSpoken(all))).toEqual(all);
    for (const bad of [
      '{"version":2,"words":[],"speakers":[]}',
      '{}',
      '[]',
      '{"version":1,"words":[1],"speakers":[]}',
      '',
    ])
      expect(() => unpackSpoken(bad)).toThrow();
  });

  it('is moved, and what would be said before the beginning is left out', () => {
    const speakers = [
      { fromMs: 0, name: 'Osk' },
      { fromMs: 600, name: 'Wren' },
    ];
    const all = spoken('a b c d', speakers);
    expect(spokenMoved(all, 0)).toEqual(all);
    expect(spokenMoved(spokenMoved(all, 1000), -1000)).toEqual(all);
    const later = spokenMoved(all, 100);
    expect(timesOf(later.words)[0]).toEqual(['a', 100, 400]);
    expect(later.speakers).toEqual([
      { fromMs: 100, name: 'Osk' },
      { fromMs: 700, name: 'Wren' },
    ]);
    const earlier = spokenMoved(all, -600);
    expect(timesOf(earlier.words)).toEqual([
      ['c', 0, 300],
      ['d', 300, 600],
    ]);
    expect(earlier.speakers).toEqual([{ fromMs: 0, name: 'Wren' }]);
    expect(spokenMoved(all, -100).speakers).toEqual([
      { fromMs: 0, name: 'Osk' },
      { fromMs: 500, name: 'Wren' },
    ]);
  });

  it('of a subclip is what begins within it, from its beginning', () => {
    const part = spokenWithin(
      spoken('a b c d', [
        { fromMs: 0, name: 'Osk' },
        { fromMs: 600, name: 'Wren' },
      ]),
      300,
      1000,
    );
    expect(timesOf(part.words)).toEqual([
      ['b', 0, 300],
      ['c', 300, 600],
      ['d', 600, 700],
    ]);
    expect(part.speakers).toEqual([
      { fromMs: 0, name: 'Osk' },
      { fromMs: 300, name: 'Wren' },
    ]);
  });

  it('lies in frames or in milliseconds', () => {
    expect([0, 39, 40, 1001].map((ms) => placeOfMs(ms, { num: 25, den: 1 }))).toEqual([0, 0, 1, 25]);
    expect(placeOfMs(1001, { num: 30_000, den: 1001 })).toBe(30);
    expect(placeOfMs(1001, null)).toBe(1001);
  });
});

describe('what a search found in speech', () => {
  const { words } = spoken('At low water, the locks talk; low Water is best');
  const hits = (query: string) =>
    spokenHits(parseQuery(query).tree, words, BUILT_IN).map(({ from, to, startMs, endMs }) => [
      from,
      to,
      startMs,
      endMs,
    ]);
  it('are words in time, phrases as one, in the forms that were asked for', () => {
    expect(hits('said:"low water"')).toEqual([
      [1, 3, 300, 900],
      [6, 8, 1800, 2400],
    ]);
    expect(hits('said:lock')).toEqual([[4, 5, 1200, 1500]]);
    expect(hits('said:"lock"')).toEqual([]);
    expect(hits('said:best said:at')).toEqual([
      [0, 1, 0, 300],
      [9, 10, 2700, 3000],
    ]);
    expect(hits('water')).toEqual([]);
    expect(hits('kind:video -said:low')).toEqual([]);
  });

  it('and in markers, each only where its words are asked for', () => {
    const markers = [{ name: 'water rises', note: '' }];
    const of = (query: string) => hitsIn(parseQuery(query).tree, markers, BUILT_IN).length;
    expect([of('said:water'), of('water'), of('kind:video'), of('bell')]).toEqual([0, 1, 1, 0]);
    const having = (query: string) => printQuery(havingHits(parseQuery(query).tree, BUILT_IN));
    expect(having('said:water kind:video')).toBe('said:water');
    expect(having('water or said:low')).toBe('marker:water or said:low');
    expect(having('kind:video')).toBe('has:marker');
  });
});

describe('a lattice', () => {
  // Two ways through it: “low” at 0.7 and “lot” at 0.3, and then “water”; filler words have no part in it.
  const lattice = readLattice(
    `VERSION=1.0
N=5 L=5
I=0 t=1.00 W=</s> v=1
I=1 t=0.40 W=water(2) v=1
I=2 t=0.10 W=low v=1
I=3 t=0.12 W=lot v=1
I=4 t=0.00 W=<s> v=1
J=0 S=4 E=2 a=-1 p=0.7
J=1 S=4 E=3 a=-1 p=0.3
J=2 S=2 E=1 a=-1 p=0.7
J=3 S=3 E=1 a=-1 p=3e-1
J=4 S=1 E=0 a=-1 p=1
J=5 S=9 E=0 a=-1 p=1
nonsense`,
  );
  const line = 'p1 S 0 T -1 A -2 L -3 0 -4 0 <s> 10 -5 -6 low 40 -7 -8 water(2) 99 -9 0 </s> 100';

  it('says how sure each word is, and what it may have been instead', () => {
    const { id, segments = [] } = readSegments(line) ?? {};
    expect(id).toBe('p1');
    expect(heardWords(lattice, segments, 5000)).toEqual([
      { text: 'low', startMs: 5100, endMs: 5400, certainty: 0.7, others: [{ text: 'lot', certainty: 0.3 }] },
      { text: 'water', startMs: 5400, endMs: 5990, certainty: 1 },
    ]);
    expect(readSegments('what is this')).toBeNull();
    expect(readSegments('')).toBeNull();
  });

  it('has with each word the phones that were heard while it was said, and nothing for silence and noise', () => {
    const { segments: heard = [] } = readSegments(line) ?? {};
    const words = heardWords(lattice, heard, 5000);
    const sounds =
      'p1 S 0 T -1 A -2 L -3 0 -1 0 HH 8 -1 0 L 20 -1 0 OW 39 -1 0 W 43 -1 0 SIL 60 -1 0 +SPN+ 70 -1 0 ER 90';
    const { segments = [] } = readSegments(sounds) ?? {};
    const told = withSounds(words, segments, 5000).map((word) => phonesText(readSounds(word.sounds ?? '')));
    expect(told).toEqual(['HH L OW', 'W ER']);
    // Most of a phone lies in the one word or the other.
    const { segments: late = [] } = readSegments('p1 S 0 T -1 A -2 L -3 35 -1 0 OW 44 -1 0 W 60') ?? {};
    expect(withSounds(words, late, 5000).map((word) => phonesText(readSounds(word.sounds ?? '')))).toEqual(['OW', 'W']);
    expect(withSounds(words, [], 5000)).toEqual(words);
    expect(withSounds([], segments, 5000)).toEqual([]);
    expect(phonesText(readSounds(`${writeSounds(phones('M ZH AA'))} é`))).toBe('M ZH AA');
  });
});
