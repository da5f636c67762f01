import { BUILT_IN } from '@larder/core/fields';
import {
  circleFrom,
  conditionsWith,
  parseQuery,
  printQuery,
  referringTo,
  withBinRenamed,
  withLiveBins,
  type NamedSearch,
} from '@larder/core/query';

const tree = (text: string) => parseQuery(text).tree;
const bins = (searches: Readonly<Record<string, string>>): NamedSearch[] =>
  Object.entries(searches).map(([name, text], at) => ({ id: at + 1, name, tree: tree(text) }));
const meant = (text: string, all: readonly NamedSearch[]) => printQuery(withLiveBins(tree(text), all), BUILT_IN);

describe('live bins within searches', () => {
  const all = bins({ 'Golden hour': 'tag:dawn or tag:dusk', Wide: 'framing:wide in:"Golden hour"', Pier: 'path:pier' });

  it.each([
    ['boat', 'boat'],
    ['in:pier -music', '(bin:pier or path:pier) -music'],
    ['-in="GOLDEN hour"', '-(bin="golden hour" or tag:dawn or tag:dusk)'],
    ['in:wide', 'bin:wide or framing:wide (bin:"golden hour" or tag:dawn or tag:dusk)'],
    ['in:golden', 'bin:golden'],
    ['in:gold*', 'bin:gold*'],
    ['tag:pier', 'tag:pier'],
  ])('%s', (text, expected) => expect(meant(text, all)).toBe(expected));

  it('are told of where they go round in a circle', () => {
    const [one, two, three] = bins({ A1: 'in:B1 or no:tag', B1: 'in:C1', C1: 'in:A1' });
    const around = [one, two, three] as NamedSearch[];
    expect(circleFrom(one as NamedSearch, around)).toEqual(['A1', 'B1', 'C1', 'A1']);
    expect(circleFrom({ id: 0, name: 'Self', tree: tree('-in:self') }, around)).toEqual(['Self', 'Self']);
    // It leads into a circle that it is no part of.
    expect(circleFrom({ id: 0, name: 'D1', tree: tree('in:A1') }, around)).toBeNull();
    expect(circleFrom({ id: 1, name: 'A1', tree: tree('no:tag') }, around)).toBeNull();
    // What is kept nevertheless does not go on for ever.
    expect(meant('in:A1', around)).toBe('bin:a1 or bin:(b1 or c1 or a1) or no:tag');
  });
  it('are counted without being put in, however often they refer to each other', () => {
    const chain = bins(
      Object.fromEntries(
        Array.from({ length: 40 }, (_unused, at) => [
          `S${at}`,
          at === 0 ? 'no:tag' : `in:S${at - 1} or -in:S${at - 1}`,
        ]),
      ),
    );
    expect(conditionsWith(tree('in:S1'), chain)).toBe(1 + 2 * (1 + 1));
    expect(conditionsWith(tree('in:S39'), chain)).toBeGreaterThan(2 ** 39);
    expect(conditionsWith(tree('in:A1'), bins({ A1: 'in:B1', B1: 'in:A1' }))).toBe(3);
  });
  it('are still meant under another name', () => {
    expect(referringTo('golden HOUR', all).map(({ name }) => name)).toEqual(['Wide']);
    const [, wide] = all as [NamedSearch, NamedSearch];
    expect(printQuery(withBinRenamed(wide.tree, 'Golden hour', 'First light'), BUILT_IN)).toBe(
      'framing:wide bin="first light"',
    );
    // Another has the old name, too.
    expect(printQuery(withBinRenamed(wide.tree, 'golden hour', 'First light', true), BUILT_IN)).toBe(
      'framing:wide (bin:"golden hour" or bin="first light")',
    );
  });
});
