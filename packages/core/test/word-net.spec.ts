import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { relatedBy, WORD_CLASSES, WordNet, type WordClass, type WordNetFiles } from '@larder/core/dialogue';
import { numbers } from './numbers';

const HOME = '/usr/share/wordnet';
const bytes = (name: string): Uint8Array => readFileSync(`${HOME}/${name}`);
const filesOf = (of: WordClass): WordNetFiles => ({
  index: bytes(`index.${of}`),
  data: bytes(`data.${of}`),
  exceptions: bytes(`${of}.exc`),
});
const files = Object.fromEntries(WORD_CLASSES.map((of) => [of, filesOf(of)])) as Record<WordClass, WordNetFiles>;
const net = new WordNet(files);
const LETTER = { noun: 'n', verb: 'v', adj: 'a', adv: 'r' } as const;

/** What Princeton's own program prints: of each base form in the class its senses, with the words of each and those that it leads to. */
function printed(text: string, search: string): { readonly base: string; readonly senses: string[][] }[] {
  let out: string;
  try {
    out = execFileSync('wn', [text.replaceAll(' ', '_'), search], { encoding: 'latin1' });
  } catch (error) {
    // It ends with the number of senses.
    out = (error as { stdout: string }).stdout;
  }
  return out
    .split(/^\S.*? of (?=(?:noun|verb|adj|adv) )/m)
    .slice(1)
    .map((part) => ({
      base: /^\S+ (.*?)\s*$/m.exec(part)?.[1]?.replaceAll('_', ' ') ?? '',
      senses: part
        .split(/^Sense \d+ *\n/m)
        .slice(1)
        .map((sense) => sense.split('\n').filter((line) => line.trim() !== '')),
    }))
    .filter(({ senses }) => senses.length > 0);
}
const wordsIn = (line: string | undefined): string[] =>
  (line ?? '')
    .replace(/^ *(?:HAS INSTANCE)?=> /, '')
    .replace(/ \(vs\. [^)]*\)/g, '')
    .split(', ')
    .map((word) => word.replace(/\((?:predicate|prenominal|postnominal)\)/, '').trim());

describe('the lexical database', () => {
  const below = numbers(2026);
  const lemmas = WORD_CLASSES.flatMap((of) => {
    const lines = new TextDecoder('latin1')
      .decode(files[of].index)
      .split('\n')
      .filter((line) => /^[^ ]/.test(line));
    const some = Array.from({ length: 20 }, () => lines[below(lines.length)] as string);
    return some.map((line) => [of, (line.split(' ')[0] as string).replaceAll('_', ' ')] as const);
  });

  it('tells the meanings of words as its own program does, each with its words', () => {
    for (const [of, lemma] of lemmas) {
      const own = printed(lemma, `-syns${LETTER[of]}`).find(({ base }) => base === lemma);
      const found = net.senses(lemma).filter((sense) => sense.class === of);
      const wanted = own?.senses.map((lines) => wordsIn(lines[0]));
      expect({ lemma, senses: found.slice(0, wanted?.length).map(({ words }) => words) }).toEqual({
        lemma,
        senses: wanted,
      });
    }
  });

  it.each(['boat', 'lock', 'water', 'repair', 'dog', 'bell'])(
    'leads from %s to its kinds as its own program does',
    (lemma) => {
      for (const wordClass of ['noun', 'verb'] as const) {
        const wanted = printed(lemma, wordClass === 'noun' ? '-hypon' : '-hypov').flatMap(({ senses }) =>
          senses.map(([first, ...kinds]) => [
            wordsIn(first),
            kinds.filter((line) => /=> /.test(line)).map((line) => wordsIn(line)),
          ]),
        );
        const found = net
          .senses(lemma)
          .filter((sense) => sense.class === wordClass)
          .map(
            (sense) =>
              [
                sense.words,
                sense.links
                  .filter(({ link }) => link === 'narrower')
                  .flatMap((to) => net.sense(to)?.words ?? 'nothing there'),
              ] as const,
          )
          .filter(([, kinds]) => kinds.length > 0);
        // The program leaves out what has no kinds.
        expect(found.map(([words, kinds]) => [words, kinds])).toEqual(
          wanted.map(([words, kinds]) => [words, kinds?.flat()]),
        );
      }
    },
  );

  it.each([
    ['geese', 'noun'],
    ['women', 'noun'],
    ['boxes', 'noun'],
    ['berries', 'noun'],
    ['axes', 'noun'],
    ['broke', 'verb'],
    ['making', 'verb'],
    ['went', 'verb'],
    ['tries', 'verb'],
    ['lay', 'verb'],
    ['better', 'adj'],
    ['finer', 'adj'],
    ['biggest', 'adj'],
  ] as const)('finds base forms as its own program does: %s, %s', (text, of) => {
    const wanted = printed(text, `-syns${LETTER[of]}`).map(({ base }) => base);
    expect(wanted.length).toBeGreaterThan(0);
    expect(net.bases(text, of)).toEqual(expect.arrayContaining(wanted));
  });

  it('knows forms that no ending makes, and terms of several words', () => {
    expect(net.irregular('broke')).toEqual(expect.arrayContaining(['break', 'broken']));
    expect(net.irregular('break')).toEqual(expect.arrayContaining(['broke', 'broken']));
    expect(net.irregular('geese')).toContain('goose');
    expect([net.has('narrow boat'), net.has('lock boat'), net.has(''), net.has('zzzz'), net.has(' ')]).toEqual([
      true,
      false,
      false,
      false,
      false,
    ]);
  });

  it('leads from a word to others, each by what it means', () => {
    const by = (text: string, relation: string) =>
      relatedBy(net, text).flatMap((group) => (group.relation === relation ? group.words : []));
    expect(by('repair', 'same')).toEqual(expect.arrayContaining(['mend', 'fix']));
    expect(by('boat', 'narrower')).toEqual(expect.arrayContaining(['barge', 'ferry', 'narrow boat', 'punt']));
    expect(by('boat', 'wider')).toContain('vessel');
    expect(by('television', 'short')).toContain('tv');
    expect(by('lab', 'short')).toContain('laboratory');
    expect(by('uk', 'short')).toContain('united kingdom');
    expect(by('repair', 'akin')).toContain('repairer');
    expect(by('geese', 'wider')).toEqual(expect.arrayContaining(['anseriform bird']));
    expect(relatedBy(net, 'boat')[0]?.meaning).toBe('a small vessel for travel on water');
    for (const text of ['person', 'thing', 'run', 'be'])
      for (const { words } of relatedBy(net, text)) expect(words.length).toBeLessThanOrEqual(450);
  });

  it('reads nothing where there is nothing to read', () => {
    const none = new Uint8Array(0);
    const empty = Object.fromEntries(
      WORD_CLASSES.map((of) => [of, { index: none, data: none, exceptions: none }]),
    ) as Record<WordClass, WordNetFiles>;
    expect([new WordNet(empty).senses('boat'), new WordNet(empty).has('boat')]).toEqual([[], false]);
    const broken = new WordNet({ ...files, noun: { ...files.noun, data: files.noun.data.subarray(0, 5000) } });
    expect(broken.senses('boat').filter((sense) => sense.class === 'noun')).toEqual([]);
    const text = new TextEncoder().encode('boat n 1 1 @ 1 0 00000000\nboth n\n');
    const odd = new WordNet({ ...empty, noun: { index: text, data: text, exceptions: text } });
    expect([odd.senses('boat'), odd.senses('both')]).toEqual([[], []]);
  });
});
