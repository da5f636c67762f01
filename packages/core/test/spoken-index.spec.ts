import { readFileSync } from 'node:fs';
import {
  Dictionary,
  NOTCHES,
  phonesOfIpa,
  phonesText,
  readPhones,
  readSpoken,
  SpokenIndex,
  spokenWindow,
  type Pronouncer,
  type SpokenDocument,
  type SpokenHow,
  wayText,
  writeSpoken,
  type SpokenItem,
  type SpokenWord,
} from '../src/dialogue';
import { COSTS, PHONES, SKIPS, WHOLE_COST } from '../src/dialogue/phones';
import { SoundTree } from '../src/dialogue/sound-tree';
import { Beside, bestWithin } from '../src/dialogue/sounds-like';
import { numbers } from './numbers';

/** The CMU Pronouncing Dictionary (Carnegie Mellon University), as Debian's `pocketsphinx-en-us` carries it. */
const DICTIONARY = readFileSync('/usr/share/pocketsphinx/model/en-us/cmudict-en-us.dict', 'utf8');
const dictionary = new Dictionary(DICTIONARY);

const phones = (text: string) => readPhones(text) ?? new Uint8Array(0);

/** What it costs to hear one for another, by the whole table; `within`: the second may lie anywhere in the first. */
function costBy(sought: Uint8Array, heard: Uint8Array, within: boolean): number {
  const skip = (phone: number | undefined) => SKIPS[phone as number] as number;
  const rows: number[][] = [[0]];
  for (let j = 1; j <= sought.length; j += 1)
    rows[0]?.push(within ? 0 : (rows[0][j - 1] as number) + skip(sought[j - 1]));
  for (let i = 1; i <= heard.length; i += 1) {
    const above = rows[i - 1] as number[];
    const row = [(above[0] as number) + skip(heard[i - 1])];
    for (let j = 1; j <= sought.length; j += 1)
      row.push(
        Math.min(
          (above[j - 1] as number) +
            (COSTS[(heard[i - 1] as number) * PHONES.length + (sought[j - 1] as number)] as number),
          (above[j] as number) + skip(heard[i - 1]),
          (row[j - 1] as number) + skip(sought[j - 1]),
        ),
      );
    rows.push(row);
  }
  const last = rows.at(-1) as number[];
  return within ? Math.min(...last) : (last.at(-1) as number);
}

describe('sounds', () => {
  it('are all that the dictionary has, and cost nothing for themselves, alike both ways and at most one whole', () => {
    const used = new Set(DICTIONARY.match(/ [A-Z]+/g)?.map((phone) => phone.trim()));
    expect([...used].sort()).toEqual([...PHONES].sort());
    PHONES.forEach((_phone, a) =>
      PHONES.forEach((_other, b) => {
        const cost = COSTS[a * PHONES.length + b] as number;
        expect(cost === 0).toBe(a === b);
        expect(cost).toBeLessThanOrEqual(WHOLE_COST);
        expect(COSTS[b * PHONES.length + a]).toBe(cost);
      }),
    );
  });

  it('that are made alike cost less than those that are not', () => {
    const cost = (a: string, b: string) => costBy(phones(a), phones(b), false);
    // Voiced or not, at the same place; stop or not; and nothing in common.
    expect(cost('P', 'B')).toBeLessThan(cost('P', 'Z'));
    expect(cost('M', 'N')).toBeLessThan(cost('M', 'S'));
    expect(cost('IH', 'IY')).toBeLessThan(cost('IH', 'AO'));
    expect(cost('S', 'Z')).toBeLessThan(cost('S', 'AA'));
    expect(cost('T', 'AA')).toBe(WHOLE_COST);
  });

  it('of words are those of the dictionary, and of what it does not have those of its letters as spoken', () => {
    expect(dictionary.ways('water').map(phonesText)).toEqual(['W AO T ER']);
    expect(dictionary.ways('read').map(phonesText).sort()).toEqual(['R EH D', 'R IY D']);
    expect(dictionary.ways('ottermouth')).toEqual([]);
    // As espeak-ng transcribes it.
    expect(phonesText(phonesOfIpa('ˈɑːɾɚmˌaʊθ'))).toBe('AA T ER M AW TH');
    expect(phonesText(phonesOfIpa('dʒˈʌdʒ'))).toBe('JH AH JH');
  });

  it.each([false, true])('are found in the order of their words as one by one (within: %s)', (within) => {
    const below = numbers(11);
    const some = (most: number) => Uint8Array.from({ length: 1 + below(most) }, () => below(PHONES.length));
    // Enough to be put in order, with many that begin alike, and some more that are not yet.
    const stems = Array.from({ length: 60 }, () => some(4));
    const ways = Array.from({ length: 2600 }, () =>
      Uint8Array.from([...(stems[below(stems.length)] as Uint8Array), ...some(5)]),
    );
    const tree = new SoundTree({ length: ways.length, at: (n) => ways[n] as Uint8Array });
    for (let round = 0; round < 12; round += 1) {
      const sought = Uint8Array.from([...(stems[round] as Uint8Array), ...some(4)]);
      const most = (sounds: number) => (within ? sounds * 35 : 230);
      const longest = sought.length + (within ? 1 : 6);
      const from = round % 3 === 0 ? 0 : 500;
      const found = new Map<number, number>();
      // From the front and from the back: what is found from both may cost more from one of them.
      tree.each(sought, { within, most, longest }, from, (at, cost) =>
        found.set(at, Math.min(cost, found.get(at) ?? Infinity)),
      );
      const wanted = ways.flatMap((way, at) => {
        const cost = costBy(sought, way, within);
        return at >= from && way.length <= longest && cost <= most(way.length) ? [[at, cost] as const] : [];
      });
      expect(wanted.length).toBeGreaterThan(0);
      expect([...found].sort(([a], [b]) => a - b)).toEqual(wanted);
    }
  });

  it('are found within others where they fit best', () => {
    const [text, free] = [phones('DH AH AA T ER M AW TH IH Z'), new Uint8Array(20)];
    expect(bestWithin(phones('AA D ER M AH TH'), text, free, free, 400)).toMatchObject({ from: 2, to: 8 });
    expect(bestWithin(phones('SH UH'), text, free, free, 30)).toBeNull();
  });

  it('cost as much right beside a place, forwards and backwards, as by the whole table, or are known to cost too much', () => {
    const below = numbers(41);
    const some = (most: number) => Uint8Array.from({ length: below(most + 1) }, () => below(PHONES.length));
    let ruledOut = 0;
    for (let round = 0; round < 300; round += 1) {
      const sought = some(9);
      const words = Array.from({ length: below(6) }, () => (below(3) === 0 ? sought.slice(below(4)) : some(5)));
      const text = Uint8Array.from(words.flatMap((word) => [...word]));
      const wanted = Math.min(
        ...Array.from({ length: text.length + 1 }, (_unused, to) => costBy(sought, text.slice(0, to), false)),
      );
      const cap = below(2) === 0 ? Infinity : below(500);
      const isBack = below(2) === 0;
      const beside = new Beside(sought);
      beside.begin(Math.min(cap, 1 << 20));
      for (const word of words) {
        const sounds = isBack ? word.toReversed() : word;
        const isOpen = isBack ? beside.add(sounds, sounds.length - 1, -1, -1) : beside.add(sounds, 0, sounds.length, 1);
        if (!isOpen) break;
      }
      if (wanted > cap) ruledOut += 1;
      expect([round, beside.cost > cap]).toEqual([round, wanted > cap]);
      if (wanted <= cap) expect([round, beside.cost]).toEqual([round, wanted]);
    }
    expect(ruledOut).toBeGreaterThan(30);
  });
});

describe('what is asked of speech', () => {
  it.each<[text: string, wanted: readonly (readonly [ways: string, ...'without'[]])[]]>([
    ['low water', [['low'], ['water']]],
    ['"Low  water" -rain', [['low water'], ['rain', 'without']]],
    ['gat* "it’s"', [['gat*'], ["it's"]]],
    ['-"not this" "left open', [['not this', 'without'], ['left open']]],
    ['  ?! ', []],
    ['Écluse', [['ecluse']]],
    ['boat|"Narrow boat" bell', [['boat|narrow boat'], ['bell']]],
    ['-gate | sluic*|gate  || lock', [['gate|sluic*|lock', 'without']]],
    ['| boat | bell|', [['boat|bell']]],
    ['"low water|ebb"', [['low water ebb']]],
    ['“low water” «ebb tide»', [['low water'], ['ebb tide']]],
  ])('%s', (text, wanted) => {
    const items = readSpoken(text);
    expect(items.map(({ ways, without }) => [ways.map(wayText).join('|'), ...(without ? ['without'] : [])])).toEqual(
      wanted,
    );
    expect(readSpoken(writeSpoken(items))).toEqual(items);
  });

  it('is cut off where it is long beyond use', () => {
    expect(readSpoken('a '.repeat(5000))).toHaveLength(10);
    expect(readSpoken(`"${'a '.repeat(5000)}"`)[0]?.ways[0]?.words).toHaveLength(12);
    const words = Array.from({ length: 1000 }, (_unused, n) => `w${n}`);
    expect(readSpoken(words.join('|'))[0]?.ways).toHaveLength(12);
    expect(readSpoken(`${words.slice(0, 12).join('|')} `.repeat(5)).map(({ ways }) => ways.length)).toEqual([
      12, 12, 6,
    ]);
    expect(readSpoken(`a${' '.repeat(100_000)}`.repeat(5))).toHaveLength(5);
    expect(readSpoken('"'.repeat(100_000))).toEqual([]);
  });
});

const WORDS = 'low water bell gate lock rain boat'.split(' ');
const nobody: Pronouncer = { ways: () => [], isHeard: () => true };
const said = (text: string, at: number, more: Partial<SpokenWord> = {}): SpokenWord => ({
  ...{ text, startMs: at * 500, endMs: at * 500 + 400, certainty: null },
  ...more,
});
const documentOf = (id: number, words: readonly SpokenWord[], wholeId = 0): SpokenDocument => ({
  ...{ id, wholeId },
  spoken: { words, speakers: [] },
});

/** Where an item is said in words, from left to right. */
function placesBy(words: readonly string[], { ways }: SpokenItem): number[] {
  const places: number[] = [];
  let end = 0;
  for (let at = 0; at < words.length; at += 1) {
    const fitting = ways.find(({ words: sought, begun }) =>
      sought.every((word, n) =>
        begun && n === sought.length - 1 ? words[at + n]?.startsWith(word) : words[at + n] === word,
      ),
    );
    if (!fitting || at < end) continue;
    places.push(at);
    end = at + fitting.words.length;
  }
  return places;
}

/** By going through all that is said: how many hits each asset has. */
function foundBy(
  said: ReadonlyMap<number, readonly string[]>,
  items: readonly SpokenItem[],
  how: SpokenHow,
  withinMs: number,
): Map<number, number> {
  const found = new Map<number, number>();
  for (const [id, words] of said) {
    if (items.some((item) => item.without && placesBy(words, item).length > 0)) continue;
    const each = items.filter(({ without }) => !without).map((item) => placesBy(words, item));
    if (how !== 'any' && each.some(({ length }) => length === 0)) continue;
    const near = (at: number) => each.every((places) => places.some((other) => Math.abs(other - at) * 500 <= withinMs));
    const hits = each.flat().filter((at) => how !== 'near' || near(at));
    if (hits.length > 0) found.set(id, hits.length);
  }
  return found;
}

describe('speech as it is spelled', () => {
  it('is found as by going through all of it, whatever came, changed and went', () => {
    const below = numbers(5);
    const pick = <T>(list: readonly T[]) => list[below(list.length)] as T;
    const all = new Map<number, readonly string[]>();
    let index = new SpokenIndex(nobody);
    const QUESTIONS = [
      'low',
      '"low water"',
      'bell gate',
      'bell -rain',
      '"gate lock" boat',
      'lo*',
      '"low wa*" -"bell gate"',
      'low|"gate lock" bell',
      'bo*|bell|"rain low" -lock|"water gate"',
    ];
    for (let round = 0; round < 40; round += 1) {
      const documents = Array.from({ length: pick([1, 7, 90]) }, () => {
        const words = Array.from({ length: below(12) }, () => pick(WORDS));
        return { id: 1 + below(400), words };
      });
      for (const { id, words } of documents) all.set(id, words);
      index.upsert(
        documents.map(({ id, words }) =>
          documentOf(
            id,
            words.map((word, at) => said(word, at)),
          ),
        ),
      );
      const gone = Array.from({ length: 5 }, () => 1 + below(400));
      for (const id of gone) all.delete(id);
      index.remove(gone);
      if (round % 13 === 12) index = SpokenIndex.restored(index.keep(), nobody);
      expect(index.size).toBe([...all.values()].filter(({ length }) => length > 0).length);
      for (const text of QUESTIONS)
        for (const how of ['all', 'any', 'near'] as const) {
          const question = { items: readSpoken(text), how, withinMs: 1000 };
          const wanted = foundBy(all, question.items, how, 1000);
          const { files, notches } = index.find(question, 0, null);
          expect(new Map(files.map(({ count, id }) => [id, count]))).toEqual(wanted);
          expect(files.every((file) => file.hits().length === file.count)).toBe(true);
          expect(notches[0]).toEqual({ files: wanted.size, hits: [...wanted.values()].reduce((sum, n) => sum + n, 0) });
        }
    }
  });

  it('is not found across two assets, nor twice in a subclip and its whole', () => {
    const index = new SpokenIndex(nobody);
    const words = ['bell', 'low'].map((word, at) => said(word, at));
    index.upsert([
      documentOf(1, words),
      documentOf(
        2,
        ['water', 'bell'].map((word, at) => said(word, at)),
      ),
    ]);
    index.upsert([documentOf(3, words.slice(1), 1)]);
    const ids = (text: string, among: ((id: number) => boolean) | null = null) =>
      index.find({ items: readSpoken(text), how: 'all', withinMs: 0 }, 0, among).files.map(({ id }) => id);
    expect(ids('"low water"')).toEqual([]);
    expect(ids('low')).toEqual([1]);
    expect(ids('low', (id) => id === 3)).toEqual([3]);
    expect(ids('bell', (id) => id !== 1)).toEqual([2]);
  });

  it('keeps how words are written, with what stands around them', () => {
    const index = new SpokenIndex(nobody);
    const words = 'At Low-Water, it’s the bell.'.split(' ').map((word, at) => said(word, at));
    index.upsert([documentOf(1, words)]);
    const found = index.find({ items: readSpoken('water it’s'), how: 'near', withinMs: 5000 }, 0, null);
    expect(spokenWindow(index, found, { sort: 'best', offset: 0, limit: 5 })).toEqual([
      {
        ...{ id: 1, count: 2, best: 100 },
        hits: [
          {
            startMs: 500,
            endMs: 900,
            confidence: 100,
            spelled: true,
            before: 'At Low-Water,',
            heard: '',
            after: 'it’s the bell.',
          },
          {
            startMs: 1000,
            endMs: 1400,
            confidence: 100,
            spelled: true,
            before: 'At Low-Water,',
            heard: 'it’s',
            after: 'the bell.',
          },
        ],
      },
    ]);
  });
});

describe('speech as it sounds', () => {
  const name = phones('AA T ER M AW TH');
  const pronouncer: Pronouncer = {
    ways: (word) => (word === 'ottermouth' ? [name] : dictionary.ways(word)),
    isHeard: (word) => dictionary.isHeard(word),
  };
  const index = new SpokenIndex(pronouncer);
  const sentence = (id: number, text: string, more: Partial<SpokenWord> = {}) =>
    index.upsert([
      documentOf(
        id,
        text.split(' ').map((word, at) => said(word, at, { certainty: 0.9, ...more })),
      ),
    ]);
  sentence(1, 'the boat came up to the otter mouth before dark');
  sentence(2, 'they knew the whole way');
  sentence(3, 'a new hole in the lock');
  sentence(4, 'nothing to see here', { certainty: 0.4, others: [{ text: 'lock', certainty: 0.55 }] });
  sentence(5, 'they ate some bread and butter after church');
  const find = (text: string, notch = NOTCHES.length - 1) =>
    index.find({ items: readSpoken(text), how: 'all', withinMs: 0 }, notch, null);
  const ids = (text: string, notch?: number) =>
    find(text, notch)
      .files.map(({ id }) => id)
      .sort();

  it('is found where a word was written as another that sounds the same', () => {
    expect(ids('hole', 0)).toEqual([3]);
    expect(ids('hole', 1)).toEqual([3]);
    expect(ids('hole', 4)).toEqual([2, 3]);
    expect(ids('"the hole"')).toEqual([2]);
  });

  it('is found where the recogniser thought of it', () => {
    expect(ids('lock', 0)).toEqual([3]);
    expect(ids('lock')).toEqual([3, 4]);
  });

  it('is found across words where no recogniser knows it, and one sees as what', () => {
    expect(ids('ottermouth', 0)).toEqual([]);
    const found = find('ottermouth');
    expect(found.files.map(({ id }) => id)).toEqual([1]);
    expect(spokenWindow(index, found, { sort: 'best', offset: 0, limit: 1 })[0]?.hits).toMatchObject([
      { heard: 'otter mouth', spelled: false, before: 'the boat came up to the' },
    ]);
  });

  it('is found across words in each way that a name is said', () => {
    const found = (...ways: string[]) => {
      const both = new SpokenIndex({
        ...pronouncer,
        ways: (word) => (word === 'quennick' ? ways.map(phones) : dictionary.ways(word)),
      });
      const say = (id: number, text: string) =>
        both.upsert([
          documentOf(
            id,
            text.split(' ').map((word, at) => said(word, at, { certainty: 0.9 })),
          ),
        ]);
      say(1, 'we saw queen ike there');
      say(2, 'we saw when nick there');
      const question = { items: readSpoken('quennick'), how: 'all', withinMs: 0 } as const;
      return both
        .find(question, 4, null)
        .files.map(({ id }) => id)
        .sort();
    };
    expect(found('K W IY N AY K')).toEqual([1]);
    expect(found('W EH N N IH K')).toEqual([2]);
    expect(found('K W IY N AY K', 'W EH N N IH K')).toEqual([1, 2]);
  });

  it('is at each notch all that is at a stricter one', () => {
    for (const text of ['hole', 'lock', 'ottermouth', '"the lock"', 'knew way']) {
      const { notches } = find(text);
      notches.forEach(({ files, hits }, at) => {
        expect(files).toBeGreaterThanOrEqual(notches[at - 1]?.files ?? 0);
        expect(hits).toBeGreaterThanOrEqual(notches[at - 1]?.hits ?? 0);
      });
    }
  });
});
