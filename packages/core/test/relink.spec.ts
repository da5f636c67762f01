import fc from 'fast-check';
import {
  type LostFile,
  assigned,
  BIAS,
  placeBy,
  planRelink,
  ruleOf,
  rulesIn,
  score,
  shiftOf,
  WEIGHTS,
  type FileFacts,
  type Place,
  type Worth,
} from '@larder/core/relink';
import { bareOf, stemOf, tailOf } from '../src/relink/names';
import type { Semblance } from '@larder/core/semblance';
import { countingById } from '@larder/core/timecode';

const counting = countingById('25');
const original: FileFacts = {
  path: 'Day 1/A001/A001C003.mov',
  bytes: 1_000_000,
  modifiedMs: 1_700_000_000_000,
  fingerprint: 'f1',
  checksum: null,
  counting,
  durationFrames: 250,
  startFrame: 900_000,
  reel: 'A001',
  width: 1920,
  height: 1080,
  channels: 2,
  shotMs: 1_699_999_990_000,
};
const with_ = (changes: Partial<FileFacts>): FileFacts => ({ ...original, ...changes });
const lostOf = (facts: FileFacts, assetId = 1) => ({ assetId, facts, used: null });
/** The chance of one candidate by itself. */
const chance = (lost: FileFacts, candidate: FileFacts): number =>
  planRelink([lostOf(lost)], [{ key: 'it', facts: candidate }])[0]?.matches[0]?.probability ?? 0;

describe('scoring a candidate', () => {
  it('the same file under another name is exact and near certain', () => {
    const renamed = with_({ path: 'New/renamed.mov' });
    const { evidence, likeness } = score(original, renamed);
    expect(likeness).toBe('exact');
    expect(chance(original, renamed)).toBeGreaterThan(0.99);
    expect(evidence.filter(({ kind }) => kind === 'name' || kind === 'folder')).toEqual([
      { kind: 'name', agreement: 'disagrees', expected: 'A001C003.mov', found: 'renamed.mov' },
      { kind: 'folder', agreement: 'disagrees', expected: 'A001', found: 'New' },
    ]);
  });

  it('a transcode with the same time is equivalent, not exact', () => {
    const mxf = with_({ path: 'Proxies/A001C003_proxy.mxf', bytes: 5_000, fingerprint: 'f2', width: 960, height: 540 });
    const { blockedBy, evidence, likeness } = score(original, mxf);
    expect([likeness, blockedBy]).toEqual(['equivalent', []]);
    expect(evidence.find(({ kind }) => kind === 'title')).toMatchObject({ agreement: 'agrees', found: 'a001c003' });
    expect(chance(original, mxf)).toBeGreaterThan(0.9);
  });

  it('only the name agreeing is a lookalike and improbable', () => {
    // The wrong take: cameras count names from the start on every card.
    const other = with_({
      ...{ path: 'B/A001C003.mov', bytes: 2, fingerprint: 'f3', startFrame: 5, durationFrames: 99 },
      ...{ reel: 'A002', shotMs: 5 },
    });
    expect(score(original, other).likeness).toBe('lookalike');
    expect(chance(original, other)).toBeLessThan(0.05);
  });

  it('another rate, or less than what is used, blocks', () => {
    expect(score(original, with_({ counting: countingById('24') })).blockedBy).toEqual(['rate']);
    expect(score(original, with_({ durationFrames: 100 }), { from: 0, to: 101 }).blockedBy).toEqual(['duration']);
    expect(score(original, with_({ durationFrames: 100 }), { from: 0, to: 100 }).blockedBy).toEqual([]);
  });

  it('is never exact where anything says that the bytes between both ends are others', () => {
    for (const changes of [{ startFrame: 5 }, { durationFrames: 251 }, { counting: countingById('24') }] as const)
      expect([changes, score(original, with_(changes)).likeness]).not.toEqual([changes, 'exact']);
    // A reel is edited by people, and told by names.
    expect(score(original, with_({ path: 'B/B002C003.mov', reel: 'B002' })).likeness).toBe('exact');
    const read = with_({ checksum: 'c1' });
    expect(score(read, with_({ checksum: 'c2' })).likeness).toBe('equivalent');
    // All of it read and found the same is exact, whatever else somebody wrote down since.
    expect(score(read, with_({ checksum: 'c1', reel: 'elsewhere', fingerprint: 'f9' })).likeness).toBe('exact');
  });

  describe('of files of one take that hold a track each, and begin and end in the same silence', () => {
    const track = (n: number, changes: Partial<FileFacts> = {}) =>
      with_({ path: `Day 1/S001/T001_${n}.wav`, width: null, height: null, channels: 1, ...changes });
    const first = (lost: readonly LostFile[], ...found: FileFacts[]) =>
      planRelink(
        lost,
        found.map((facts) => ({ key: facts.path, facts })),
      ).map(({ matches: [match] }) => match && [match.key, match.likeness]);

    it('none is taken without a look, whichever of them are lost or found', () => {
      const renamed = track(1, { path: 'Restored/x.wav' });
      // Both are lost; one is there under its own name; another asset of the catalogue is told to be alike.
      expect(first([lostOf(track(1)), lostOf(track(2), 2)], renamed).flat()).not.toContain('exact');
      expect(first([lostOf(track(1))], renamed, track(2)).flat()).not.toContain('exact');
      const alike = ['T001_2.wav'];
      expect(first([{ ...lostOf(track(1)), alike }], renamed)).toEqual([['Restored/x.wav', 'equivalent']]);
      // Nor under its own name: it may have been given that of another.
      expect(first([{ ...lostOf(track(1)), alike }], track(1, { path: 'Restored/T001_1.wav' })).flat()).not.toContain(
        'exact',
      );
      expect(chance(track(1), renamed)).toBeGreaterThan(0.99);
    });

    it('it is exact where all bytes were read and are the same, or where others are only copies of it', () => {
      const alike = ['T001_2.wav'];
      const read = track(1, { checksum: 'c1' });
      expect(first([{ ...lostOf(read), alike }], { ...read, path: 'x.wav' })).toEqual([['x.wav', 'exact']]);
      const copies = ['T001_1.wav', 'T001_1 copy.wav'];
      expect(first([{ ...lostOf(track(1)), alike: copies }], track(1, { path: 'Restored/x.wav' }))).toEqual([
        ['Restored/x.wav', 'exact'],
      ]);
    });
  });

  it('what is not known is neither for nor against', () => {
    const bare = with_({
      ...{ fingerprint: null, startFrame: null, durationFrames: null, reel: null, counting: null },
      ...{ width: null, height: null, channels: null, shotMs: null, modifiedMs: null },
    });
    expect(
      score(bare, original)
        .evidence.filter(({ agreement }) => agreement === 'unknown')
        .map(({ kind }) => kind),
    ).toEqual([
      ...['checksum', 'fingerprint', 'picture', 'sound', 'timecode', 'duration', 'reel', 'rate', 'raster', 'channels'],
      ...['shot', 'modified'],
    ]);
  });

  it('more agreement never makes a candidate less probable', () => {
    const keys = ['path', 'startFrame', 'durationFrames', 'reel', 'fingerprint', 'modifiedMs', 'shotMs'] as const;
    const other = with_({
      ...{ path: 'x.mov', bytes: 1, startFrame: 1, durationFrames: 1, reel: 'Z' },
      ...{ fingerprint: 'z', modifiedMs: 1, shotMs: 1 },
    });
    fc.assert(
      fc.property(fc.subarray([...keys]), fc.constantFrom(...keys), (agreeing, added) => {
        const build = (list: readonly (typeof keys)[number][]): FileFacts => ({
          ...other,
          ...Object.fromEntries(list.map((key) => [key, original[key]])),
          // With both ends of a file its size is the same too; without them, the same size is that of another file.
          ...(list.includes('fingerprint') ? { bytes: original.bytes } : {}),
        });
        expect(chance(original, build([...agreeing, added]))).toBeGreaterThanOrEqual(
          chance(original, build(agreeing)) - 1e-9,
        );
      }),
    );
  });

  it('weighs the stronger finding of each group no less than the weaker one', () => {
    expect(BIAS).toBeLessThan(0);
    for (const levels of Object.values(WEIGHTS)) {
      const weights = Object.values(levels);
      expect(weights[0]).toBe(Math.max(...weights));
      expect(weights.at(-1)).toBeLessThanOrEqual(weights[0] as number);
    }
  });
});

describe('what is seen and heard', () => {
  const random = fc.sample(fc.uint8Array({ minLength: 320, maxLength: 320 }), { numRuns: 2, seed: 5 });
  const words = fc.sample(fc.uint32Array({ minLength: 32, maxLength: 32 }), { numRuns: 2, seed: 6 });
  const semblance = (picture: number | null, sound: number | null, lengthMs = 10_000): Semblance => ({
    ...{ lengthMs, everyMs: 1000, picture: picture === null ? null : (random[picture] ?? null) },
    sound: sound === null ? null : (words[sound] ?? null),
  });
  /** A clip without timecode and reel, and what somebody made of it and called otherwise. */
  const quiet = (is: Semblance, changes: Partial<FileFacts> = {}) =>
    with_({ startFrame: null, reel: null, shotMs: null, modifiedMs: null, semblance: is, ...changes });
  const lost = quiet(semblance(0, 0));
  const form = { path: 'Web/final.mp4', bytes: 9, fingerprint: 'f9', width: 960, height: 540 };

  it('tells a recording in another form where nothing else does, by its pictures, or its sound', () => {
    const copy = quiet(semblance(0, 0), form);
    const { evidence, likeness } = score(lost, copy);
    expect(likeness).toBe('equivalent');
    expect(evidence.filter(({ kind }) => kind === 'picture' || kind === 'sound')).toEqual([
      { kind: 'picture', agreement: 'agrees', expected: null, found: '0' },
      { kind: 'sound', agreement: 'agrees', expected: null, found: '0' },
    ]);
    const sound = { ...{ counting: null, durationFrames: null, width: null, height: null } };
    expect(score(quiet(semblance(null, 0), sound), quiet(semblance(null, 0), { ...form, ...sound })).likeness).toBe(
      'equivalent',
    );
  });

  it('is compared whatever it is called, where it is known to be near', () => {
    const candidate = { key: 'it', facts: quiet(semblance(0, 0), form) };
    expect(planRelink([lostOf(lost)], [candidate])[0]?.matches).toEqual([]);
    const [match] = planRelink([lostOf(lost)], [{ ...candidate, near: [1] }])[0]?.matches ?? [];
    expect(match).toMatchObject({ key: 'it', likeness: 'equivalent' });
    expect(match?.probability).toBeGreaterThan(0.5);
  });

  it('tells another take of the same name and length', () => {
    const other = quiet(semblance(1, 1), { path: 'B/A001C003.mov', fingerprint: 'f2', bytes: 7 });
    expect(score(lost, other).likeness).toBe('lookalike');
    const bare = ({ semblance: _of, ...facts }: FileFacts): FileFacts => facts;
    expect(chance(lost, other)).toBeLessThan(chance(bare(lost), bare(other)) / 10);
    // The same set-up once more: it looks alike, and something else is said.
    const again = quiet(semblance(0, 1), { path: 'B/A001C003.mov', fingerprint: 'f2', bytes: 7 });
    expect(chance(lost, again)).toBeLessThan(chance(lost, quiet(semblance(0, 0), { ...form, path: again.path })));
    // What was made of the sound does not fit any more.
    expect(score(lost, again).likeness).toBe('lookalike');
    expect(score(lost, quiet(semblance(0, null), form)).likeness).toBe('equivalent');
  });

  it('says nothing against what timecode says, nor of what is shorter', () => {
    const elsewhere = with_({ ...form, startFrame: 5, semblance: semblance(0, 0) });
    expect(score(with_({ semblance: semblance(0, 0) }), elsewhere).likeness).toBe('lookalike');
    const part = quiet(semblance(0, 0, 9000), { ...form, durationFrames: 225 });
    const { evidence, likeness } = score(lost, part);
    expect([likeness, evidence.find(({ kind }) => kind === 'picture')?.agreement]).toEqual(['lookalike', 'unknown']);
    const [frame, two] = [1, 2].map((more) =>
      quiet(semblance(0, 0, 10_000 + 40 * more), { ...form, durationFrames: 250 + more }),
    );
    expect([frame, two].map((is) => is && score(lost, is).likeness)).toEqual(['equivalent', 'lookalike']);
  });
});

describe('a clip that is known from a cut list only', () => {
  const listed = (changes: Partial<FileFacts> = {}): FileFacts => ({
    ...{ path: 'A001/A wide', bytes: 0, modifiedMs: null, fingerprint: null, checksum: null, isListed: true },
    ...{ counting, durationFrames: 50, startFrame: 900_100, reel: 'A001' },
    ...{ width: null, height: null, channels: null, shotMs: null, ...changes },
  });
  const asked = (facts: FileFacts) => [{ ...lostOf(facts), used: { from: 0, to: 50 } }];
  const best = (facts: FileFacts, found: Partial<FileFacts>) =>
    planRelink(asked(facts), [{ key: 'it', facts: with_(found) }])[0]?.matches[0];

  it('is found by reel and timecode, whatever it is called, and never exact', () => {
    const match = best(listed(), {});
    expect(match).toMatchObject({ key: 'it', likeness: 'equivalent', blockedBy: [] });
    expect(match?.probability).toBeGreaterThan(0.95);
    const said = (kind: string) => match?.evidence.find((each) => each.kind === kind);
    expect(said('timecode')).toEqual({
      ...{ kind: 'timecode', agreement: 'agrees' },
      ...{ expected: '10:00:04:00 – 10:00:06:00', found: '10:00:00:00 – 10:00:10:00' },
    });
    for (const kind of ['size', 'duration', 'folder', 'modified', 'fingerprint'])
      expect(said(kind)).toMatchObject({ agreement: 'unknown', expected: null });
    expect(said('reel')).toMatchObject({ agreement: 'agrees' });
    // To the frame at both ends.
    expect(best(listed({ startFrame: 900_200 }), {})?.likeness).toBe('equivalent');
    expect(best(listed({ startFrame: 900_201 }), {})).toBeUndefined();
    expect(best(listed({ startFrame: 899_999 }), {})).toBeUndefined();
  });

  it('only looks like what has its name on another reel, or covers its timecode by chance', () => {
    const named = listed({ path: 'A001/A001C003', reel: null });
    expect(best(named, {})?.likeness).toBe('lookalike');
    const other = best(listed({ path: 'A001/A001C003' }), { reel: 'B001' });
    expect(other?.likeness).toBe('lookalike');
    expect(other?.probability).toBeLessThan(best(listed({ path: 'A001/A001C003' }), {})?.probability ?? 0);
  });

  it('is not told by a reel and a time that several recordings have, but by the name besides', () => {
    const found = ['A001C003', 'B/other', 'C/third'].map((path, n) => ({
      key: path,
      facts: with_({ path: `${path}.mov`, startFrame: 900_000 - n }),
    }));
    const first = (facts: FileFacts) => planRelink(asked(facts), found)[0]?.matches[0];
    expect(first(listed())).toMatchObject({ likeness: 'lookalike' });
    expect(first(listed())?.probability).toBeLessThan(0.5);
    const [second, ...others] = planRelink(asked(listed({ path: 'A001/other.mxf' })), found)[0]?.matches ?? [];
    expect(second).toMatchObject({ key: 'B/other', likeness: 'equivalent' });
    expect(others.every(({ likeness }) => likeness === 'lookalike')).toBe(true);
    // A copy of it is the same recording.
    const copies = ['x/A001C003.mov', 'y/A001C003 copy.mov'].map((path) => ({ key: path, facts: with_({ path }) }));
    expect(planRelink(asked(listed()), copies)[0]?.matches[0]?.likeness).toBe('equivalent');
  });

  it('is ruled out by another rate, and where the file does not run as far', () => {
    const named = listed({ path: 'A001/A001C003' });
    expect(best(named, { counting: countingById('24') })).toMatchObject({ likeness: 'lookalike', blockedBy: ['rate'] });
    expect(best(named, { durationFrames: 149 })).toMatchObject({ likeness: 'lookalike', blockedBy: ['duration'] });
  });

  it('is counted from the beginning of a file without timecode', () => {
    const fromNought = listed({ path: 'no reel/plain.mov', reel: null, startFrame: 110 });
    expect(shiftOf(fromNought, with_({ startFrame: null }))).toBe(110);
    expect(shiftOf(listed(), original)).toBe(100);
    const plain = { path: 'x/plain.mov', startFrame: null, reel: null };
    expect(best(fromNought, plain)).toMatchObject({ likeness: 'lookalike', blockedBy: [] });
    expect(best(fromNought, { ...plain, durationFrames: 159 })).toMatchObject({ blockedBy: ['duration'] });
  });

  it('of several clips on one reel each has the file that covers it', () => {
    const lost = [900_100, 900_300, 900_600].map((startFrame, at) => lostOf(listed({ startFrame }), at + 1));
    const found = [900_500, 900_000, 900_250].map((startFrame) => ({
      key: String(startFrame),
      facts: with_({ startFrame }),
    }));
    expect(planRelink(lost, found).map(({ matches: [first] }) => first?.key)).toEqual(['900000', '900250', '900500']);
  });
});

describe('what is made use of', () => {
  const blocked = (found: Partial<FileFacts>, from: number, to: number) =>
    score(original, with_(found), { from, to }).blockedBy;

  it('has to be in the candidate, at its timecode', () => {
    expect(blocked({ durationFrames: 200 }, 0, 200)).toEqual([]);
    expect(blocked({ durationFrames: 200 }, 0, 201)).toEqual(['duration']);
    // Fifty frames were cut off its beginning.
    const trimmed = { startFrame: 900_050, durationFrames: 200 };
    expect(shiftOf(original, with_(trimmed))).toBe(-50);
    expect(blocked(trimmed, 50, 250)).toEqual([]);
    expect(blocked(trimmed, 49, 60)).toEqual(['duration']);
    // It begins earlier than it did.
    const longer = { startFrame: 899_000, durationFrames: 2000 };
    expect(shiftOf(original, with_(longer))).toBe(1000);
    expect(blocked(longer, 0, 250)).toEqual([]);
    expect(blocked({ ...longer, durationFrames: 1200 }, 0, 250)).toEqual(['duration']);
  });

  it('is taken to be where it was in what says no timecode of its own', () => {
    for (const startFrame of [0, null]) {
      expect(shiftOf(original, with_({ startFrame }))).toBe(0);
      expect(shiftOf(with_({ startFrame }), original)).toBe(0);
    }
  });
});

describe('names', () => {
  it('are compared without extensions, versions and what converters add', () => {
    expect(stemOf('a/B/Lock.Gate.MOV')).toBe('lock.gate');
    expect(stemOf('.hidden')).toBe('.hidden');
    for (const name of [
      'lock_v2.mov',
      'LOCK (3).mov',
      'lock_proxy.mp4',
      'lock copy 2.mov',
      'lock_V12_h264.mxf',
      'lock',
    ])
      expect([name, bareOf(`x/${name}`)]).toEqual([name, 'lock']);
    // What is all of a name was not added to it.
    expect(bareOf('(3).mov')).toBe('(3)');
    expect(bareOf('A001C003.mov')).toBe('a001c003');
  });
  it('share as many folders as are the same from the last on', () => {
    expect(tailOf('a/b/c/x.mov', 'z/B/c/y.mov')).toBe(2);
    expect(tailOf('x.mov', 'y.mov')).toBe(0);
    expect(tailOf('c/x.mov', 'c/x.mov')).toBe(1);
  });
});

describe('planning many', () => {
  it('gives each candidate away once, to the one it fits best', () => {
    const lost = [lostOf(original, 1), lostOf(with_({ fingerprint: 'other', bytes: 7 }), 2)];
    const plan = planRelink(lost, [{ key: 'b/A001C003.mov', facts: original }]);
    expect(plan[0]?.matches[0]).toMatchObject({ key: 'b/A001C003.mov', likeness: 'exact' });
    expect(plan[1]?.matches).toEqual([]);
  });

  it('repeated file names on two cards find their own', () => {
    const card = (reel: string, startFrame: number, fingerprint: string) => with_({ reel, startFrame, fingerprint });
    const lost = [card('A001', 10, 'a'), card('A002', 20, 'b')].map((facts, at) => lostOf(facts, at + 1));
    const found = [
      { key: 'two', facts: card('A002', 20, 'b') },
      { key: 'one', facts: card('A001', 10, 'a') },
    ];
    expect(planRelink(lost, found).map((proposal) => proposal.matches[0]?.key)).toEqual(['one', 'two']);
  });

  it('gives up the better of two for one so that the other has any, but never the same bytes', () => {
    // Both look like the first candidate, and one of them like the second too.
    const [a, b] = [
      with_({ fingerprint: 'a', bytes: 11 }),
      with_({ fingerprint: 'b', bytes: 12, startFrame: 900_500 }),
    ];
    const first = with_({ fingerprint: 'x', bytes: 13 });
    const second = with_({ fingerprint: 'y', bytes: 14, durationFrames: 260 });
    const keys = (found: readonly FileFacts[]) =>
      planRelink(
        [lostOf(a, 1), lostOf(b, 2)],
        found.map((facts, at) => ({ key: ['first', 'second'][at] ?? '', facts })),
      ).map(({ matches }) => matches[0]?.key);
    expect(keys([first, second])).toEqual(['first', 'second']);
    expect(keys([a, second])).toEqual(['first', 'second']);
    expect(keys([second, a])).toEqual(['second', 'first']);
  });

  it('states chances that share what there is: of all candidates, and that it is none of them', () => {
    const found = ['p', 'q', 'r'].map((key) => ({ key, facts: with_({ fingerprint: key, bytes: 9 }) }));
    const [proposal] = planRelink([lostOf(original)], found);
    const chances = proposal?.matches.map(({ probability }) => probability) ?? [];
    expect(chances).toHaveLength(3);
    expect(chances.reduce((sum, each) => sum + each, 0)).toBeLessThan(1);
    // Three that are alike cannot each be the likely one.
    expect(new Set(chances.map((each) => each.toFixed(6))).size).toBe(1);
    expect(chances[0]).toBeLessThan(1 / 3);
  });

  it('never proposes one candidate first for two, whatever the files', () => {
    const facts = fc
      .record({
        path: fc.constantFrom('a.mov', 'b.mov', 'a.mxf'),
        bytes: fc.integer({ min: 1, max: 3 }),
        fingerprint: fc.constantFrom('p', 'q', null),
        startFrame: fc.constantFrom(1, 2, null),
      })
      .map(with_);
    fc.assert(
      fc.property(fc.array(facts, { maxLength: 8 }), fc.array(facts, { maxLength: 8 }), (lost, found) => {
        const plan = planRelink(
          lost.map((each, at) => lostOf(each, at)),
          found.map((each, at) => ({ key: String(at), facts: each })),
        );
        const firsts = plan.flatMap(({ matches: [first] }) =>
          first && first.blockedBy.length === 0 ? [first.key] : [],
        );
        expect(new Set(firsts).size).toBe(firsts.length);
        expect(plan).toHaveLength(lost.length);
      }),
    );
  });

  it('passes over names that hundreds share, and not over the same bytes among them', () => {
    const found = Array.from({ length: 1000 }, (_unused, n) => ({
      key: `c${n}`,
      facts: with_({
        path: `${n}/C0001.mov`,
        bytes: n + 10,
        fingerprint: `p${n}`,
        startFrame: n,
        reel: null,
        shotMs: n,
      }),
    }));
    const lost = with_({
      path: 'old/C0001.mov',
      bytes: 510,
      fingerprint: 'p500',
      startFrame: 500,
      reel: null,
      shotMs: 500,
    });
    const [proposal] = planRelink([lostOf(lost)], found);
    expect(proposal?.matches[0]).toMatchObject({ key: 'c500', likeness: 'exact' });
  });
});

describe('a file that a person points at', () => {
  const quiteOther = with_({
    path: 'x/y.mov',
    bytes: 5,
    fingerprint: 'f9',
    durationFrames: 40,
    startFrame: 1,
    reel: 'Z',
  });
  const key = (candidates: Parameters<typeof planRelink>[1], pointed: string | null, lost = [lostOf(original)]) =>
    planRelink(lost, candidates, pointed === null ? null : { assetId: 1, key: pointed }).map(({ matches }) =>
      matches.map((match) => match.key),
    );

  it('comes first, however little speaks for it, and says how little', () => {
    const candidates = [
      { key: 'same', facts: with_({ path: 'new/a.mov' }) },
      { key: 'other', facts: quiteOther },
    ];
    expect(key(candidates, null)).toEqual([['same']]);
    expect(key(candidates, 'other')).toEqual([['other', 'same']]);
    const [pointed] = planRelink([lostOf(original)], candidates, { assetId: 1, key: 'other' });
    expect(pointed?.matches[0]?.probability).toBeLessThan(0.001);
    expect(key(candidates, 'gone')).toEqual([['same']]);
  });

  it('is no other file’s', () => {
    const candidates = [{ key: 'same', facts: with_({ path: 'new/a.mov' }) }];
    const lost = [lostOf(with_({ path: 'z.mov', bytes: 7, fingerprint: 'f3' }), 1), lostOf(original, 2)];
    expect(key(candidates, null, lost)).toEqual([[], ['same']]);
    expect(key(candidates, 'same', lost)).toEqual([['same'], []]);
  });

  it('is ruled out as any other', () => {
    const facts = with_({ path: 'x/y.mov', counting: countingById('24') });
    const [proposal] = planRelink([lostOf(original)], [{ key: 'it', facts }], { assetId: 1, key: 'it' });
    expect(proposal?.matches).toMatchObject([{ key: 'it', probability: 0, blockedBy: ['rate'] }]);
  });
});

describe('giving things out', () => {
  const worthOf = (rows: readonly (readonly number[])[]): Worth[] =>
    rows.flatMap((row, to) => row.flatMap((worth, thing) => (worth > 0 ? [{ to, thing, worth }] : [])));
  const sum = (given: ReadonlyMap<number, number>, rows: readonly (readonly number[])[]) =>
    [...given].reduce((all, [to, thing]) => all + (rows[to]?.[thing] ?? NaN), 0);

  it('is that of the worked example of the SciPy manual', () => {
    // scipy.optimize.linear_sum_assignment: costs of three workers and three jobs, 5 at the least, as columns 1, 0 and 2.
    const costs = [
      [4, 1, 3],
      [2, 0, 5],
      [3, 2, 2],
    ];
    const given = assigned(worthOf(costs.map((row) => row.map((cost) => 10 - cost))));
    expect([...given].sort(([a], [b]) => a - b)).toEqual([
      [0, 1],
      [1, 0],
      [2, 2],
    ]);
    expect(sum(given, costs)).toBe(5);
  });

  it('is worth as much as the best of all ways to do it', () => {
    const best = (rows: readonly (readonly number[])[], taken: readonly number[] = []): number => {
      const [row, ...rest] = rows;
      if (!row) return 0;
      return Math.max(
        best(rest, taken),
        ...row.map((worth, thing) => (worth > 0 && !taken.includes(thing) ? worth + best(rest, [...taken, thing]) : 0)),
      );
    };
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 5 }).chain((things) =>
          fc.array(fc.array(fc.constantFrom(0, 0, 1, 2, 5, 9), { minLength: things, maxLength: things }), {
            ...{ minLength: 1, maxLength: 5 },
          }),
        ),
        (rows) => {
          const given = assigned(worthOf(rows));
          expect(new Set(given.values()).size).toBe(given.size);
          expect(sum(given, rows)).toBe(best(rows));
        },
      ),
      { numRuns: 300 },
    );
  });

  it('takes the best pair again and again where there are too many for all ways', () => {
    const rows = Array.from({ length: 800 }, (_unused, to) =>
      Array.from({ length: 800 }, (_other, thing) => (Math.abs(to - thing) < 3 ? 5 - Math.abs(to - thing) : 0)),
    );
    const given = assigned(worthOf(rows));
    expect(given.size).toBe(800);
    expect([...given].every(([to, thing]) => to === thing)).toBe(true);
  });
});

describe('rules', () => {
  const at = (path: string, storageId = 1): Place => ({ storageId, path });

  it('tell what became of a folder, from one file of it', () => {
    const rule = ruleOf(at('Day 1/A001/C0003.mov'), at('Archive/2026/Day 1/A001/C0003.mov', 2));
    expect(rule).toEqual({
      ...{ from: { storageId: 1, folder: '' }, to: { storageId: 2, folder: 'Archive/2026' } },
      ...{ extension: null, before: '', behind: '' },
    });
    expect(rule && placeBy(rule, at('Day 2/B001/C0001.mov'))).toEqual(at('Archive/2026/Day 2/B001/C0001.mov', 2));
    expect(rule && placeBy(rule, at('Day 2/B001/C0001.mov', 3))).toBeNull();
  });

  it('tell of a folder that was renamed, of other extensions and of what was put around names', () => {
    const rule = ruleOf(at('Shoot/A001/C0003.mov'), at('Shoot/A001 done/SW_C0003_v2.mxf'));
    expect(rule).toEqual({
      ...{ from: { storageId: 1, folder: 'Shoot/A001' }, to: { storageId: 1, folder: 'Shoot/A001 done' } },
      ...{ extension: { from: 'mov', to: 'mxf' }, before: 'SW_', behind: '_v2' },
    });
    if (!rule) throw new Error('no rule');
    expect(placeBy(rule, at('Shoot/A001/sub/C0004.mov'))).toEqual(at('Shoot/A001 done/sub/SW_C0004_v2.mxf'));
    // Nothing of other kinds, nor of a folder whose name only begins so.
    expect(placeBy(rule, at('Shoot/A001/C0004.wav'))).toBeNull();
    expect(placeBy(rule, at('Shoot/A0012/C0004.mov'))).toBeNull();
    expect(ruleOf(at('a/C0003.mov'), at('a/Interview.mov'))).toBeNull();
  });

  it('lead from each place to the other that they were learnt from, whatever these are called', () => {
    const part = fc.constantFrom('a', 'b', 'A001', 'x.y', 'é', '..', 'a b');
    const path = fc
      .tuple(fc.array(part, { maxLength: 3 }), part, fc.constantFrom('', '.mov', '.mxf'))
      .map(([folders, stem, extension]) => [...folders, `${stem}${extension}`].join('/'));
    fc.assert(
      fc.property(path, path, (from, to) => {
        const rule = ruleOf(at(from), at(to, 2));
        if (rule) expect(placeBy(rule, at(from))).toEqual(at(to, 2));
      }),
    );
  });

  it('are found among many by themselves, that which explains most first', () => {
    const moves = [
      ...Array.from({ length: 9 }, (_unused, n) => [`Day 1/C${n}.mov`, `Restored/Day 1/C${n}.mov`]),
      ...Array.from({ length: 4 }, (_unused, n) => [`Sound/T${n}.wav`, `Audio/T${n}.wav`]),
      ['Day 2/odd.mov', 'Elsewhere/found.mov'],
      ['Day 2/one.mov', 'Elsewhere/one.mov'],
    ].map(([from = '', to = ''], key) => ({ key, from: at(from), to: at(to) }));
    expect(rulesIn(moves).map(({ keys, rule }) => [rule.from.folder, rule.to.folder, keys.length])).toEqual([
      ['', 'Restored', 9],
      ['Sound', 'Audio', 4],
    ]);
  });
});
