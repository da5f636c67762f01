import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import wabt from 'wabt';
import {
  confidenceOfHeard,
  type HeardEvidence,
  PHONES,
  readPhones,
  SpokenIndex,
  type SpokenQuestion,
  type SpokenWord,
  writeSounds,
} from '../src/dialogue';
import { likeliestStretch, LONGEST_STRETCH, NATS, soughtPhones } from '../src/dialogue/phone-channel';
import { AFTER, ALONE, EXTRA, HEARD, MISSED } from '../src/dialogue/phone-channel-table';
import { COSTS } from '../src/dialogue/phones';
import { CHUNK, phoneScan, plainScan } from '../src/dialogue/phone-scan';
import { PHONE_SCAN_CODE } from '../src/dialogue/phone-scan-code';
import { PhoneSearch } from '../src/dialogue/phone-search';
import { stretcher } from '../src/dialogue/phone-stretch';
import { PHONE_STRETCH_CODE } from '../src/dialogue/phone-stretch-code';
import { numbers } from './numbers';

const N = PHONES.length;
const phones = (text: string) => readPhones(text) ?? new Uint8Array(0);
const table = (hex: string) => [...hex.matchAll(/../g)].map(([pair]) => parseInt(pair, 16));
const [heard, missed, extra, after, alone] = [HEARD, MISSED, EXTRA, AFTER, ALONE].map(table) as [
  number[],
  number[],
  number[],
  number[],
  number[],
];
const likely = (nats: number) => Math.exp(-nats / NATS);
const sum = (list: readonly number[]) => list.reduce((all, each) => all + each, 0);

/** What speaks for it that all of what is looked for was said in all of some phones, by the whole table of both. */
function oddsOf(sought: Uint8Array, some: readonly number[], before: number): number {
  // Nothing is heard beside what is looked for before it begins.
  const rows = [[0, ...some.map(() => -Infinity)]];
  const seldom = (j: number) => after[(j > 0 ? (some[j - 1] as number) : before) * N + (some[j] as number)] as number;
  sought.forEach((phone, i) => {
    const above = rows[i] as number[];
    const row = [(above[0] as number) - (missed[phone] as number)];
    some.forEach((other, j) =>
      row.push(
        Math.max(
          (above[j] as number) + seldom(j) - (heard[phone * N + other] as number),
          (above[j + 1] as number) - (missed[phone] as number),
          (row[j] as number) + seldom(j) - (extra[other] as number),
        ),
      ),
    );
    rows.push(row);
  });
  return rows.at(-1)?.at(-1) as number;
}

describe('how phones are heard', () => {
  it('is told of all that may be heard for each, and of each that may follow another: together as good as certain', () => {
    for (let phone = 0; phone < N; phone += 1) {
      const all = sum(heard.slice(phone * N, (phone + 1) * N).map(likely)) + likely(missed[phone] as number);
      expect(Math.abs(all - 1)).toBeLessThan(0.05);
    }
    for (let before = 0; before <= N; before += 1)
      expect(Math.abs(sum(after.slice(before * N, (before + 1) * N).map(likely)) - 1)).toBeLessThan(0.05);
    expect(Math.abs(sum(alone.map(likely)) - 1)).toBeLessThan(0.05);
    expect(sum(extra.map(likely))).toBeLessThan(0.5);
  });

  it('is most often as it was said, and else mostly as what sounds like it', () => {
    const likeliest = PHONES.map((_phone, said) =>
      PHONES.map((_other, other) => other).sort(
        (a, b) => (heard[said * N + a] as number) - (heard[said * N + b] as number),
      ),
    );
    expect(likeliest.filter(([first], said) => first === said).length).toBeGreaterThan(N * 0.8);
    const apart = (said: number, other: number) => COSTS[said * N + other] as number;
    const mean = (list: readonly number[]) => sum(list) / list.length;
    const mistaken = mean(likeliest.map(([, second = 0], said) => apart(said, second)));
    expect(mistaken).toBeLessThan(mean([...COSTS]) * 0.7);
  });
});

describe('the likeliest stretch', () => {
  it('is that of all stretches for which most speaks', () => {
    const next = numbers(11);
    for (let times = 0; times < 60; times += 1) {
      const sought = Uint8Array.from({ length: 1 + next(7) }, () => next(N));
      const some = Array.from({ length: next(12) }, () =>
        next(2) === 0 ? next(N) : (sought[next(sought.length)] ?? 0),
      );
      const before = next(2) === 0 ? N : next(N);
      const sounds = Uint8Array.from([before % N, ...some]);
      const { from, odds, to } = likeliestStretch(sought, sounds, 1, sounds.length, before === N);
      let best = -Infinity;
      for (let first = 0; first <= some.length; first += 1)
        for (let end = first; end <= some.length; end += 1)
          best = Math.max(
            best,
            oddsOf(sought, some.slice(first, end), first > 0 ? (some[first - 1] as number) : before),
          );
      expect([times, odds]).toEqual([times, best]);
      const stretch = some.slice(from - 1, to - 1);
      expect([times, oddsOf(sought, stretch, from > 1 ? (some[from - 2] as number) : before)]).toEqual([times, best]);
    }
  });
});

async function translated(file: string): Promise<string> {
  const { parseWat } = await wabt();
  const text = readFileSync(join(__dirname, '../src/dialogue', file), 'utf8');
  const { buffer } = parseWat(file, text, { simd: true }).toBinary({});
  return Buffer.from(buffer).toString('base64');
}

describe('the likeliest stretch by vectors', () => {
  it('ships as what its text says', async () => {
    expect(await translated('phone-stretch.wat')).toBe(PHONE_STRETCH_CODE);
    expect(stretcher()).not.toBe(likeliestStretch);
  });

  it('is the same as one by one', () => {
    const next = numbers(43);
    for (let times = 0; times < 400; times += 1) {
      const sought = Uint8Array.from({ length: 1 + next(times % 10 === 0 ? 60 : 12) }, () => next(N));
      const length = next(times % 20 === 0 ? 2 * LONGEST_STRETCH : 40);
      const sounds = Uint8Array.from({ length: length + 1 }, () =>
        next(3) === 0 ? next(N) : (sought[next(sought.length)] as number),
      );
      const begins = next(2) === 0;
      expect([times, stretcher()(sought, sounds, 1, sounds.length, begins)]).toEqual([
        times,
        likeliestStretch(sought, sounds, 1, sounds.length, begins),
      ]);
    }
  });
});

describe('the scan of phones', () => {
  it('ships as what its text says', async () => {
    expect(await translated('phone-scan.wat')).toBe(PHONE_SCAN_CODE);
    expect(phoneScan()).not.toBe(plainScan);
  });

  it('tells the same places with vectors as one by one', () => {
    const next = numbers(31);
    let places = 0;
    for (const length of [0, 1, 2, 15, 16, 17, 31, 500, CHUNK - 1, CHUNK])
      for (const sought of [1, 2, 5, 8, 13, 24]) {
        const phones = Uint8Array.from({ length: sought }, () => next(N));
        // Much of what is heard is of the name, in pieces.
        const sounds = Uint8Array.from({ length }, (_unused, at) =>
          next(3) === 0 ? next(N) : (phones[at % sought] as number),
        );
        for (const nats of [0.5, 3, 12]) {
          const ends = plainScan.ends(soughtPhones(phones), sounds, nats);
          places += ends.length;
          expect([length, sought, nats, [...phoneScan().ends(soughtPhones(phones), sounds, nats)]]).toEqual([
            ...[length, sought, nats],
            [...ends],
          ]);
        }
      }
    expect(places).toBeGreaterThan(1000);
  });

  it('passes over nothing for which enough speaks', () => {
    const next = numbers(37);
    let passed = 0;
    for (let times = 0; times < 200; times += 1) {
      const phones = Uint8Array.from({ length: 5 + next(5) }, () => next(N));
      // Misheard by at most one more between two, one missed, and some heard as others.
      const said = [...phones].flatMap((phone) =>
        next(8) === 0 ? [] : next(8) === 0 ? [phone, next(N)] : [next(6) === 0 ? next(N) : phone],
      );
      const sounds = Uint8Array.from([...said, ...Array.from({ length: 30 }, () => next(N))]);
      const sought = soughtPhones(phones);
      let all = 0;
      let at = 0;
      // The same way to have misheard it, summed up by itself: what is heard for each, or that it is not.
      for (const [n, phone] of phones.entries()) {
        const heardNext = said.indexOf(phone, at);
        if (heardNext < 0 || heardNext > at + 1) all -= sought.misses[n] as number;
        else {
          if (heardNext === at + 1) all -= sought.extras[said[at] as number] as number;
          all += sought.gains[n * N + phone] as number;
          at = heardNext + 1;
        }
      }
      // In bytes it is summed up a third as finely, so that each sum may be off by a tenth of a nat.
      const least = all / NATS - 0.1 * (phones.length + 2);
      if (least <= 1) continue;
      passed += 1;
      expect([...plainScan.ends(sought, sounds, Math.min(15, least))]).toContain(at);
    }
    expect(passed).toBeGreaterThan(100);
  });
});

describe('a search of phones that were heard', () => {
  const name = phones('M AE R AH N TH AO R P');
  const found = (sounds: Uint8Array, ends: readonly number[], sought = name) => {
    const places: (readonly [from: number, to: number, speech: number])[] = [];
    new PhoneSearch(sought).each(
      sounds,
      (speech) => ends[speech] ?? Infinity,
      ({ from, odds, to }, speech) => {
        if (odds > 5 * NATS) places.push([from, to, speech]);
      },
    );
    return places;
  };
  const noise = (length: number, seed: number) => {
    const next = numbers(seed);
    return Uint8Array.from({ length }, () => next(N));
  };

  it('finds what was said wherever it stands: at the ends, and across what is read in one go', () => {
    const length = 3 * CHUNK + 1;
    const around = [-14, -13, -12, -9, -8, -5, -4, -1, 0, 1].flatMap((more) => [CHUNK + more, 2 * CHUNK + more]);
    for (const at of [0, 1, 2, 777, ...around, length - name.length]) {
      const sounds = noise(length, 5 + at);
      sounds.set(name, at);
      expect([at, found(sounds, [length])]).toEqual([
        at,
        expect.arrayContaining([[at, at + name.length, 0]]) as unknown,
      ]);
    }
  });

  it('finds it as it was misheard, with sounds missed and others put in', () => {
    for (const [said, isFound] of [
      ['M AE R AH N TH AO R P', true],
      ['M EH R AH N F AO R P', true],
      ['M AE R AE N TH ER P', true],
      ['M AE R AH N D TH AO R P', true],
      ['B AY K IY S UW L AA G', false],
    ] as const) {
      const sounds = Uint8Array.from([...noise(40, 3), ...phones(said), ...noise(40, 4)]);
      expect([said, found(sounds, [sounds.length]).length > 0]).toEqual([said, isFound]);
    }
  });

  it('finds by its beginning what is longer than is looked for everywhere', () => {
    const long = Uint8Array.from([
      ...name,
      ...phones('B AY K IY S UW L AA G'),
      ...name,
      ...phones('F EH N AA M AH TH'),
    ]);
    const sounds = Uint8Array.from([...noise(50, 6), ...long, ...noise(50, 7)]);
    expect(found(sounds, [sounds.length], long)).toContainEqual([50, 50 + long.length, 0]);
  });

  it('finds nothing of which a part is said in one speech and the rest in the next', () => {
    const sounds = Uint8Array.from([...noise(20, 8), ...name, ...noise(21, 9)]);
    const [begins, middle] = [20, 20 + 5];
    expect(found(sounds, [begins, sounds.length])).toEqual([[20, 29, 1]]);
    expect(found(sounds, [begins, begins, sounds.length])).toEqual([[20, 29, 2]]);
    for (const [from, to, speech] of found(sounds, [middle, sounds.length])) {
      expect(from).toBeGreaterThanOrEqual(speech === 0 ? 0 : middle);
      expect(to).toBeLessThanOrEqual(speech === 0 ? middle : sounds.length);
    }
    expect(found(new Uint8Array(0), [])).toEqual([]);
    expect(found(noise(1, 2), [1])).toEqual([]);
  });
});

describe('a name that no recogniser knows', () => {
  const NAME = 'fenomouth';
  const pronouncer = {
    ways: (word: string) =>
      word === NAME ? [phones('F EH N AA M AH TH')] : word === 'about' ? [phones('AH B AW T')] : [],
    isHeard: (word: string) => word !== NAME,
  };
  const said = (text: string, sounds: string, certainty: number | null, at: number): SpokenWord => ({
    ...{ text, startMs: at * 300, endMs: at * 300 + 300, certainty },
    ...(sounds === '' ? {} : { sounds: writeSounds(phones(sounds)) }),
  });
  const talk = (
    id: number,
    ...words: readonly (readonly [text: string, sounds: string, certainty?: number | null])[]
  ) => ({
    id,
    wholeId: 0,
    spoken: { words: words.map(([text, sounds, sure = 0.4], at) => said(text, sounds, sure, at)), speakers: [] },
  });
  const ABOUT = ['about', 'AH B AW T', 0.9] as const;
  const MOST = ['most', 'M OW S T', 0.9] as const;
  const question = {
    items: [{ ways: [{ words: [NAME], begun: false }], without: false }],
    how: 'all',
    withinMs: 0,
  } as const;
  const hitsIn = (index: SpokenIndex, asked: SpokenQuestion = question) =>
    new Map(
      index
        .find(asked, 4, null)
        .files.map((file) => [
          file.id,
          file.hits().map((hit) => [Math.floor(hit / 65_536), Math.floor(hit / 256) % 256, hit % 128]),
        ]),
    );

  it('is found by its phones, whatever words they were taken for, and nowhere else', () => {
    const index = new SpokenIndex(pronouncer);
    index.upsert([
      talk(1, ABOUT, ['phantom', 'F EH N AA M'], ['of', 'AH TH'], MOST),
      talk(2, ABOUT, ['ten', 'F EH N'], ['a', 'AA'], ['month', 'M AH TH'], MOST),
      talk(3, ABOUT, ['most', 'M OW S T'], ['of', 'AH V'], ['it', 'IH T']),
      // Half of it in the one, half in the other.
      talk(4, ABOUT, ['fen', 'F EH N AA']),
      talk(5, ['moth', 'M AH TH'], MOST),
      // What a person wrote has no phones that were heard.
      talk(6, ['phantom', '', null], ['of', '', null]),
    ]);
    const hits = hitsIn(index);
    expect([...hits.keys()].sort()).toEqual([1, 2]);
    expect(hits.get(1)).toMatchObject([[1, 2, expect.any(Number) as unknown]]);
    expect(hits.get(2)?.[0]?.slice(1, 2)).toEqual([3]);
    // Asked again, it is what was kept.
    expect(hitsIn(index)).toEqual(hits);
    const row = (...words: readonly string[]): SpokenQuestion => ({
      ...question,
      items: [{ ways: [{ words, begun: false }], without: false }],
    });
    expect(hitsIn(index, row('about', NAME)).get(1)).toMatchObject([[0, 3, expect.any(Number) as unknown]]);
    const sure = (asked: SpokenQuestion) => hitsIn(index, asked).get(1)?.[0]?.[2] ?? 0;
    expect(sure(row(NAME, 'about'))).toBeLessThan(sure(row('about', NAME)) - 20);
  });

  it('is looked for among phones eight times in one question at most, as each time others wait', () => {
    const index = new SpokenIndex({
      ways: (word) => (/^name/.test(word) ? [phones('F EH N AA M AH TH')] : []),
      isHeard: (word) => !/^name/.test(word),
    });
    index.upsert([talk(1, ABOUT, ['phantom', 'F EH N AA M'], ['of', 'AH TH'], MOST)]);
    const items = Array.from({ length: 10 }, (_unused, at) => ({
      ways: [{ words: [`name${at}`], begun: false }],
      without: false,
    }));
    const [file] = index.find({ items, how: 'any', withinMs: 0 }, 4, null).files;
    expect(file?.hitsByItem().map((hits) => hits.length)).toEqual([1, 1, 1, 1, 1, 1, 1, 1, 0, 0]);
  });

  it('stays found as segments grow together and lose what is gone, and after a snapshot', () => {
    const index = new SpokenIndex(pronouncer);
    const next = numbers(23);
    const filler = (id: number) =>
      talk(
        id,
        ...Array.from({ length: 5 + next(9) }, () => {
          const sounds = Array.from({ length: next(5) }, () => PHONES[next(N)]).join(' ');
          return [`w${next(50)}`, sounds] as const;
        }),
      );
    const withName = new Set([7, 64, 65, 130, 299, 300]);
    for (let id = 1; id <= 300; id += 1) {
      const each = filler(id);
      const { words } = talk(id, ['ten', 'F EH N'], ['a', 'AA'], ['month', 'M AH TH']).spoken;
      const spoken = withName.has(id) ? { ...each.spoken, words: [...each.spoken.words, ...words] } : each.spoken;
      index.upsert([{ ...each, spoken }]);
    }
    index.remove([65]);
    index.upsert([filler(130)]);
    const sure = (some: SpokenIndex) =>
      [...hitsIn(some)]
        .filter(([, hits]) => hits.some(([, , confidence]) => (confidence ?? 0) > 80))
        .map(([id]) => id)
        .sort((a, b) => a - b);
    expect(sure(index)).toEqual([7, 64, 299, 300]);
    expect(sure(SpokenIndex.restored(index.keep(), pronouncer))).toEqual([7, 64, 299, 300]);
  });
});

describe('words in a row that a recogniser knows', () => {
  const WAYS = new Map([
    ['narrow', 'N EH R OW'],
    ['boat', 'B OW T'],
    ['bow', 'B OW'],
    ['marrow', 'M EH R OW'],
  ]);
  const pronouncer = {
    ways: (word: string) => (WAYS.has(word) ? [phones(WAYS.get(word) ?? '')] : []),
    isHeard: () => true,
  };
  const question: SpokenQuestion = {
    items: [{ ways: [{ words: ['narrow', 'boat'], begun: false }], without: false }],
    how: 'all',
    withinMs: 0,
  };
  const spoken = (id: number, ...words: readonly (readonly [text: string, sounds: string])[]) => ({
    id,
    wholeId: 0,
    spoken: {
      words: words.map(([text, sounds], at): SpokenWord => ({
        ...{ text, startMs: at * 300, endMs: at * 300 + 300, certainty: 0.5 },
        ...(sounds === '' ? {} : { sounds: writeSounds(phones(sounds)) }),
      })),
      speakers: [],
    },
  });
  const found = (fewPhones?: number) => {
    const index = new SpokenIndex(pronouncer, fewPhones);
    index.upsert([
      // One of them was heard, and the phones of the other.
      spoken(1, ['a', 'AH'], ['narrow', 'N EH R OW'], ['vote', 'B OW T'], ['here', 'HH IH R']),
      // Neither was.
      spoken(2, ['a', 'AH'], ['nero', 'N EH R OW'], ['vote', 'B OW T'], ['here', 'HH IH R']),
      // One was heard, and something else than the other.
      spoken(3, ['a', 'AH'], ['narrow', 'N EH R OW'], ['lock', 'L AA K'], ['here', 'HH IH R']),
      // As a person wrote it, without phones: by the sounds of its words.
      spoken(4, ['a', ''], ['marrow', ''], ['boat', '']),
      spoken(5, ['a', ''], ['boat', ''], ['narrow', '']),
    ]);
    return index.find(question, 4, null).files.map((file) => [file.id, file.hits().length]);
  };

  it('are found among the phones that were heard, whatever words they were taken for', () => {
    expect(found()).toEqual([
      [1, 1],
      [2, 1],
      [4, 1],
    ]);
  });

  it('are found around a word of them that was heard, where there are too many phones to go through', () => {
    expect(found(0)).toEqual([
      [1, 1],
      [4, 1],
    ]);
  });
});

describe('how sure that is', () => {
  const some: HeardEvidence = { odds: 10 * NATS, sure: 0.5, begins: true, ends: true, words: 2, sought: 1 };
  it('grows with what speaks for it, and falls with how sure the recogniser is of something else', () => {
    const than = (less: Partial<HeardEvidence>) => confidenceOfHeard({ ...some, ...less });
    expect(than({ odds: 8 * NATS })).toBeLessThan(than({}));
    expect(than({ sure: 0.95 })).toBeLessThan(than({}));
    expect(than({ sure: 1 })).toBeLessThanOrEqual(than({ sure: 0.99 }));
    expect(than({ begins: false })).toBeLessThan(than({}));
    expect(than({ ends: false })).toBeLessThan(than({}));
    expect(than({ words: 1 })).toBeLessThan(than({}));
    expect(than({ words: 40 })).toBe(than({ words: 3 }));
  });

  it('is less for words in a row that were taken for another number of words', () => {
    const row = (words: number) => confidenceOfHeard({ ...some, odds: 5 * NATS, sought: 2, words });
    expect(row(2)).toBeGreaterThan(row(1));
    expect(row(20)).toBeLessThan(row(6));
  });
});
