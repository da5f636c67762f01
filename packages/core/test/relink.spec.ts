import fc from 'fast-check';
import { planRelink, score, type FileFacts } from '@larder/core/relink';
import { countingById } from '@larder/core/timecode';

const counting = countingById('25');
const original: FileFacts = {
  name: 'A001C003.mov',
  bytes: 1_000_000,
  modifiedMs: 1_700_000_000_000,
  fingerprint: 'f1',
  counting,
  durationFrames: 250,
  startFrame: 900_000,
  reel: 'A001',
  width: 1920,
  height: 1080,
};
const with_ = (changes: Partial<FileFacts>): FileFacts => ({ ...original, ...changes });

describe('scoring a candidate', () => {
  it('the same file under another name is exact and near certain', () => {
    const result = score(original, with_({ name: 'renamed.mov' }));
    expect(result.likeness).toBe('exact');
    expect(result.probability).toBeGreaterThan(0.999);
    expect(result.evidence.find((each) => each.kind === 'name')).toEqual({
      kind: 'name',
      agreement: 'disagrees',
      expected: 'A001C003.mov',
      found: 'renamed.mov',
    });
  });
  it('a transcode with the same time is equivalent, not exact', () => {
    const result = score(original, with_({ name: 'A001C003.mxf', bytes: 5_000_000, fingerprint: 'f2' }));
    expect(result.likeness).toBe('equivalent');
    expect(result.blockedBy).toEqual([]);
  });
  it('only the name agreeing is a lookalike and improbable', () => {
    // The wrong take: cameras count names from the start on every card.
    const result = score(
      original,
      with_({ bytes: 2, fingerprint: 'f3', startFrame: 5, durationFrames: 99, reel: 'A002' }),
    );
    expect(result.likeness).toBe('lookalike');
    expect(result.probability).toBeLessThan(0.05);
  });
  it('another rate, or less than what is used, blocks', () => {
    expect(score(original, with_({ counting: countingById('24') })).blockedBy).toEqual(['rate']);
    expect(score(original, with_({ durationFrames: 100 }), 101).blockedBy).toEqual(['duration']);
    expect(score(original, with_({ durationFrames: 100 }), 100).blockedBy).toEqual([]);
  });
  it('what is not known neither helps nor hurts', () => {
    const bare = with_({
      fingerprint: null,
      startFrame: null,
      durationFrames: null,
      reel: null,
      counting: null,
      width: null,
      height: null,
      modifiedMs: null,
    });
    expect(
      score(bare, original)
        .evidence.filter((each) => each.agreement === 'unknown')
        .map((each) => each.kind),
    ).toEqual(['fingerprint', 'timecode', 'duration', 'reel', 'rate', 'raster', 'modified']);
  });
  it('more agreement never makes a candidate less probable', () => {
    const keys = ['name', 'bytes', 'startFrame', 'durationFrames', 'reel', 'fingerprint', 'modifiedMs'] as const;
    const other = with_({
      name: 'x.mov',
      bytes: 1,
      startFrame: 1,
      durationFrames: 1,
      reel: 'Z',
      fingerprint: 'z',
      modifiedMs: 1,
    });
    fc.assert(
      fc.property(fc.subarray([...keys]), fc.constantFrom(...keys), (agreeing, added) => {
        const build = (list: readonly (typeof keys)[number][]): FileFacts => ({
          ...other,
          ...Object.fromEntries(list.map((key) => [key, original[key]])),
        });
        expect(score(original, build([...agreeing, added])).probability).toBeGreaterThanOrEqual(
          score(original, build(agreeing)).probability,
        );
      }),
    );
  });
});

describe('planning many', () => {
  it('gives each candidate away once, to the one it fits best', () => {
    const lost = [
      { assetId: 1, facts: original, neededFrames: 0 },
      { assetId: 2, facts: with_({ fingerprint: 'other', bytes: 7 }), neededFrames: 0 },
    ];
    const plan = planRelink(lost, [{ key: 'b/A001C003.mov', facts: original }]);
    expect(plan[0]?.matches[0]).toMatchObject({ key: 'b/A001C003.mov', likeness: 'exact' });
    expect(plan[1]?.matches).toEqual([]);
  });
  it('repeated file names on two cards find their own', () => {
    const card = (reel: string, startFrame: number, fingerprint: string) => with_({ reel, startFrame, fingerprint });
    const lost = [card('A001', 10, 'a'), card('A002', 20, 'b')].map((facts, index) => ({
      assetId: index + 1,
      facts,
      neededFrames: 0,
    }));
    const found = [
      { key: 'two', facts: card('A002', 20, 'b') },
      { key: 'one', facts: card('A001', 10, 'a') },
    ];
    expect(planRelink(lost, found).map((proposal) => proposal.matches[0]?.key)).toEqual(['one', 'two']);
  });
  it('never proposes one candidate first for two, whatever the files', () => {
    const facts = fc
      .record({
        name: fc.constantFrom('a.mov', 'b.mov', 'a.mxf'),
        bytes: fc.integer({ min: 1, max: 3 }),
        fingerprint: fc.constantFrom('p', 'q', null),
        startFrame: fc.constantFrom(1, 2, null),
      })
      .map(with_);
    fc.assert(
      fc.property(fc.array(facts, { maxLength: 8 }), fc.array(facts, { maxLength: 8 }), (lost, found) => {
        const plan = planRelink(
          lost.map((each, index) => ({ assetId: index, facts: each, neededFrames: 0 })),
          found.map((each, index) => ({ key: String(index), facts: each })),
        );
        const firsts = plan.flatMap((proposal) =>
          proposal.matches[0] && proposal.matches[0].blockedBy.length === 0 ? [proposal.matches[0].key] : [],
        );
        expect(new Set(firsts).size).toBe(firsts.length);
        expect(plan).toHaveLength(lost.length);
      }),
    );
  });
});
