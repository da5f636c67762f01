import fc from 'fast-check';
import {
  conformCheck,
  cutsIn,
  cutListOf,
  insertItems,
  keptMarkers,
  layOut,
  layOutMarkers,
  moveItem,
  removeItems,
  totalFrames,
  trimItem,
  wordConformIssue,
  wordReadLoss,
  type ConformLibrary,
  type ConformMedia,
  type CutEvent,
  type RunMarker,
  type StringOut,
  type StringOutItem,
} from '@larder/core/sequence';
import { countingById, type Counting } from '@larder/core/timecode';

const at = (id: string): Counting => countingById(id) as Counting;
const media = (assetId: number, rate: string, changes: Partial<ConformMedia> = {}): ConformMedia => ({
  assetId,
  name: `clip${assetId}.mov`,
  path: `cards/clip${assetId}.mov`,
  reel: `R${assetId}`,
  counting: at(rate),
  durationFrames: 500,
  startFrame: 90_000,
  hasSound: true,
  state: 'online',
  ...changes,
});
const all = [media(1, '25'), media(2, '50'), media(3, '23.976'), media(4, '29.97df')];
const mediaOf = (id: number) => all.find((each) => each.assetId === id);
const item = (id: string, assetId: number, start: number, end: number): StringOutItem => ({
  id,
  assetId,
  in: start,
  out: end,
});
const stringOut = (...items: StringOutItem[]): StringOut => ({
  title: 'Lock',
  counting: at('25'),
  startFrame: 90_000,
  items,
});
const library: ConformLibrary = {
  byId: mediaOf,
  byPath: (path) => all.filter((each) => each.path === path),
  byReel: (reel) => all.filter((each) => each.reel === reel),
  byName: (name) => all.filter((each) => each.name === name),
};

describe('laying out', () => {
  it('counts mixed rates exactly and rounds each item by itself', () => {
    const laid = layOut(stringOut(item('a', 1, 0, 100), item('b', 2, 0, 101), item('c', 3, 0, 24)), mediaOf);
    // 101 frames at 50 are 2.02 s, 50.5 frames at 25, so 51; 24 frames at 24000/1001 are 1.001 s, 25.025 frames, so 25.
    expect(laid.map(({ record }) => [record.start, record.end])).toEqual([
      [90_000, 90_100],
      [90_100, 90_151],
      [90_151, 90_176],
    ]);
    expect(totalFrames(stringOut(), mediaOf)).toBe(0);
  });
  it('moving items never changes the total', () => {
    const items = fc
      .array(fc.tuple(fc.integer({ min: 1, max: 4 }), fc.nat(200), fc.integer({ min: 1, max: 200 })), {
        minLength: 1,
        maxLength: 12,
      })
      .map((list) =>
        list.map(([assetId, start, frames], index) => item(String(index), assetId, start, start + frames)),
      );
    fc.assert(
      fc.property(items, fc.nat(11), fc.nat(11), (list, from, to) => {
        const before = stringOut(...list);
        const after = moveItem(before, from, to);
        expect(totalFrames(after, mediaOf)).toBe(totalFrames(before, mediaOf));
        expect([...after.items].sort((a, b) => Number(a.id) - Number(b.id))).toEqual(list);
      }),
    );
  });
});

describe('editing', () => {
  const base = stringOut(item('a', 1, 0, 100), item('b', 2, 10, 60), item('c', 3, 0, 24));
  const order = (each: StringOut) => each.items.map(({ id }) => id).join('');
  it('moves, inserts and removes', () => {
    expect(order(moveItem(base, 0, 2))).toBe('bca');
    expect(order(moveItem(base, 2, 0))).toBe('cab');
    expect(order(insertItems(base, 1, [item('x', 1, 0, 1)]))).toBe('axbc');
    expect(order(removeItems(base, new Set(['b'])))).toBe('ac');
  });
  it('gives the very same string-out when nothing changes', () => {
    expect(moveItem(base, 1, 1)).toBe(base);
    expect(moveItem(base, 9, 1)).toBe(base);
    expect(insertItems(base, 0, [])).toBe(base);
    expect(removeItems(base, new Set(['zz']))).toBe(base);
    expect(trimItem(base, 'b', { in: 10 }, media(2, '50'))).toBe(base);
  });
  it('keeps marks inside the media and one frame apart', () => {
    const trimmed = (marks: { in?: number; out?: number }) => trimItem(base, 'b', marks, media(2, '50')).items[1];
    expect(trimmed({ in: -5 })).toMatchObject({ in: 0, out: 60 });
    expect(trimmed({ in: 99 })).toMatchObject({ in: 59, out: 60 });
    expect(trimmed({ out: 9999 })).toMatchObject({ in: 10, out: 500 });
    expect(trimmed({ out: 3 })).toMatchObject({ in: 10, out: 11 });
    expect(trimmed({ in: 20, out: 30 })).toMatchObject({ in: 20, out: 30 });
  });
});

describe('any number of cuts', () => {
  const operation = fc.oneof(
    fc.record({
      op: fc.constant('insert' as const),
      at: fc.integer({ min: -3, max: 12 }),
      asset: fc.integer({ min: 1, max: 4 }),
    }),
    fc.record({
      op: fc.constant('move' as const),
      from: fc.integer({ min: -1, max: 9 }),
      to: fc.integer({ min: -3, max: 12 }),
    }),
    fc.record({ op: fc.constant('remove' as const), at: fc.integer({ min: 0, max: 9 }) }),
    fc.record({
      op: fc.constant('trim' as const),
      at: fc.integer({ min: 0, max: 9 }),
      in: fc.option(fc.integer({ min: -50, max: 700 }), { nil: undefined }),
      out: fc.option(fc.integer({ min: -50, max: 700 }), { nil: undefined }),
    }),
  );

  it('does to the order what the same cuts do to a plain list, and never leaves the media', () =>
    fc.assert(
      fc.property(fc.array(operation, { maxLength: 40 }), (operations) => {
        let cut = stringOut();
        const plain: string[] = [];
        operations.forEach((each, step) => {
          const before = cut;
          switch (each.op) {
            case 'insert': {
              cut = insertItems(cut, each.at, [item(`i${step}`, each.asset, 10, 60)]);
              plain.splice(Math.min(Math.max(each.at, 0), plain.length), 0, `i${step}`);
              break;
            }
            case 'move': {
              cut = moveItem(cut, each.from, each.to);
              if (each.from < 0 || each.from >= plain.length) break;
              const to = Math.min(Math.max(each.to, 0), plain.length - 1);
              plain.splice(to, 0, ...plain.splice(each.from, 1));
              break;
            }
            case 'remove': {
              cut = removeItems(cut, new Set([plain[each.at] ?? 'none']));
              plain.splice(each.at, 1);
              break;
            }
            case 'trim': {
              const chosen = cut.items[each.at];
              const used = chosen && mediaOf(chosen.assetId);
              const marks = {
                ...(each.in === undefined ? {} : { in: each.in }),
                ...(each.out === undefined ? {} : { out: each.out }),
              };
              if (chosen && used) cut = trimItem(cut, chosen.id, marks, used);
              break;
            }
            default:
              each satisfies never;
          }
          // What was cut before is still there, to be taken back to.
          expect(before.items.every((old) => old.in < old.out)).toBe(true);
        });
        expect(cut.items.map(({ id }) => id)).toEqual(plain);
        const laid = layOut(cut, mediaOf);
        laid.forEach(({ item: { in: start, out: end }, media: used, record }, index) => {
          expect(start).toBeGreaterThanOrEqual(0);
          expect(end).toBeGreaterThan(start);
          expect(end).toBeLessThanOrEqual(used?.durationFrames ?? 0);
          expect(record.start).toBe(index === 0 ? cut.startFrame : laid[index - 1]?.record.end);
        });
        expect(totalFrames(cut, mediaOf)).toBe((laid.at(-1)?.record.end ?? cut.startFrame) - cut.startFrame);
        // Whatever was cut, the list of it conforms.
        const { list, left } = { left: [], ...cutListOf(cut, mediaOf) };
        expect(left).toEqual([]);
        const report = conformCheck(list, library);
        expect(report.clean).toBe(true);
        // And read in again it is the same run.
        expect(cutsIn(report, { listsUnseen: false })).toEqual({
          ...{ unseen: [], losses: [], startFrame: report.events[0]?.event.record.start ?? 0 },
          cuts: cut.items.map(({ assetId, in: start, out: end }) => ({ of: { assetId }, in: start, out: end })),
        });
      }),
      { numRuns: 300 },
    ));
});

describe('markers on a string-out', () => {
  const marker = (id: string, itemId: string, start: number, end: number | null = null): RunMarker => ({
    ...{ id, itemId, start, end, kind: 'note', colour: 'none' },
    ...{ name: id, note: '', by: null },
  });
  const markers = [marker('late', 'b', 430, 450), marker('early', 'a', 10), marker('edge', 'a', 99)];
  const places = (cut: StringOut) =>
    layOutMarkers(layOut(cut, mediaOf), markers, cut.counting).map(({ marker: { id }, record: { start, end } }) => [
      ...[id, start - cut.startFrame, end - cut.startFrame],
    ]);
  const cut = stringOut(item('a', 1, 0, 100), item('b', 2, 400, 500));

  it('lie where their frames are, and go along when clips are moved, put in and trimmed', () => {
    const moved = (by: number) => [
      ['early', 10 + by, 11 + by],
      ['edge', 99 + by, 100 + by],
    ];
    expect(places(cut)).toEqual([...moved(0), ['late', 115, 125]]);
    expect(places(moveItem(cut, 0, 1))).toEqual([['late', 15, 25], ...moved(50)]);
    expect(places(insertItems(cut, 0, [item('new', 1, 0, 7)])).slice(0, 2)).toEqual(moved(7));
    const used = mediaOf(1);
    if (!used) throw new Error('no such media');
    // Trimmed away at the end: not shown, and there again when the trim is taken back.
    expect(places(trimItem(cut, 'a', { in: 5, out: 99 }, used))[0]).toEqual(['early', 5, 6]);
    expect(places(trimItem(cut, 'a', { in: 5, out: 99 }, used)).map(([id]) => id)).toEqual(['early', 'late']);
  });

  it('go with the clip that is taken out', () => {
    expect(keptMarkers(cut.items, markers)).toBe(markers);
    expect(keptMarkers(removeItems(cut, new Set(['a'])).items, markers).map(({ id }) => id)).toEqual(['late']);
  });

  it('stand in the list on their clips: in timecode of the source and of the run', () => {
    const [event, other] = cutListOf(cut, mediaOf, markers).list.events as [CutEvent, CutEvent];
    expect(event.markers).toMatchObject([
      { name: 'early', source: { start: event.source.start + 10, end: event.source.start + 10 } },
      { name: 'edge', record: { start: cut.startFrame + 99, end: cut.startFrame + 100 } },
    ]);
    expect(other.markers).toMatchObject([{ source: { start: other.source.start + 30, end: other.source.start + 50 } }]);
  });
});

describe('conform check', () => {
  const { list, gone } = cutListOf(
    stringOut(item('a', 1, 0, 100), item('b', 2, 400, 500), item('x', 77, 0, 9)),
    mediaOf,
  );
  const change = (changes: object) => ({
    ...list,
    events: list.events.map((event, index) => (index === 0 ? { ...event, ...changes } : event)),
  });
  const firstIssues = (changes: object, from: ConformLibrary = library) =>
    conformCheck(change(changes), from).events[0]?.issues;

  it('a list made here is clean, to the last frame of its media', () => {
    expect(gone).toEqual([77]);
    const report = conformCheck(list, library);
    expect(report.clean).toBe(true);
    expect(report.events.map(({ used, matchedBy }) => [used?.start, used?.end, matchedBy])).toEqual([
      [0, 100, 'asset'],
      [400, 500, 'asset'],
    ]);
  });
  it('one frame beyond the media is told', () => {
    expect(firstIssues({ source: { start: 90_401, end: 90_501 } })).toEqual([{ code: 'after-media', frames: 1 }]);
    expect(firstIssues({ source: { start: 89_999, end: 90_099 } })).toEqual([{ code: 'before-media', frames: 1 }]);
  });
  it('finds media by file, by reel and timecode, and by name when the number is gone', () => {
    const matchedBy = (changes: object) =>
      conformCheck(change({ assetId: null, ...changes }), library).events[0]?.matchedBy;
    expect(matchedBy({})).toBe('file');
    expect(matchedBy({ sourceFile: null })).toBe('reel-and-timecode');
    expect(matchedBy({ sourceFile: null, reel: null })).toBe('name');
    expect(matchedBy({ sourceFile: null, reel: null, clipName: 'nothing' })).toBeNull();
  });
  it('tells rates, states, lengths and overlaps apart', () => {
    expect(firstIssues({ sourceCounting: at('24'), record: { start: 90_000, end: 90_104 } })).toEqual([
      { code: 'rate-differs', listed: '24', media: '25' },
    ]);
    expect(firstIssues({ record: { start: 89_990, end: 90_000 } })).toEqual([
      { code: 'length-differs', sourceFrames: 100, recordFrames: 10 },
    ]);
    expect(firstIssues({}, { ...library, byId: (id) => media(id, '25', { state: 'missing' }) })).toEqual([
      { code: 'not-online', state: 'missing' },
    ]);
    const overlapping = conformCheck(
      {
        ...list,
        events: list.events.map((event) => ({
          ...event,
          record: { start: 90_000, end: 90_100 },
          source: { start: 90_000, end: 90_100 },
          sourceCounting: at('25'),
          assetId: 1,
        })),
      },
      library,
    );
    expect(overlapping.events[1]?.issues).toEqual([{ code: 'record-overlap', event: 1 }]);
  });
  it('two equally good finds are said to be two', () => {
    const twins = { ...library, byPath: () => [media(8, '25'), media(9, '25')] };
    expect(firstIssues({ assetId: null }, twins)).toEqual([{ code: 'several-media', assetIds: [8, 9] }]);
  });
  it('every issue has words', () => {
    for (const issue of [
      { code: 'no-media' },
      { code: 'several-media', assetIds: [1, 2] },
      { code: 'before-media', frames: 1 },
      { code: 'record-overlap', event: 3 },
    ] as const)
      expect(wordConformIssue(issue)).toMatch(/\.$/);
  });
});

describe('a list as a string-out', () => {
  const clip = (number: number, changes: Partial<CutEvent>): CutEvent => ({
    ...{ number, reel: null, clipName: null, sourceFile: null, assetId: null, hasPicture: true, hasSound: false },
    ...{
      source: { start: 0, end: 10 },
      sourceCounting: at('25'),
      record: { start: number * 10, end: number * 10 + 10 },
    },
    ...changes,
  });
  const read = (events: readonly CutEvent[], listsUnseen = true, from: ConformLibrary = library) =>
    cutsIn(conformCheck({ title: '', counting: at('25'), events }, from), { listsUnseen });
  const source = (start: number, end: number) => ({ source: { start, end } });

  it('has one clip for all events of a reel and a name that nobody has seen', () => {
    const { cuts, losses, unseen } = read([
      clip(1, { reel: 'A009', clipName: 'Wide', ...source(500, 520) }),
      clip(2, { reel: 'A009', clipName: 'Close', ...source(100, 110) }),
      clip(3, { reel: 'A009', clipName: 'Wide', ...source(400, 410) }),
      clip(4, { reel: 'A008', clipName: 'Wide', ...source(400, 410) }),
    ]);
    expect(losses).toEqual([]);
    expect(
      unseen.map(({ durationFrames, name, reel, startFrame }) => [reel, name, startFrame, durationFrames]),
    ).toEqual([
      ['A009', 'Wide', 400, 120],
      ['A009', 'Close', 100, 10],
      ['A008', 'Wide', 400, 10],
    ]);
    expect(cuts).toEqual([
      { of: { unseen: 0 }, in: 100, out: 120 },
      { of: { unseen: 1 }, in: 0, out: 10 },
      { of: { unseen: 0 }, in: 0, out: 10 },
      { of: { unseen: 2 }, in: 0, out: 10 },
    ]);
  });

  it('calls a clip by its file, its name, or where it is on its reel', () => {
    const named = (changes: Partial<CutEvent>) => read([clip(1, changes)]).unseen[0]?.name;
    expect(named({ sourceFile: 'file:///cards/A009/Wide.mov', clipName: 'A wide' })).toBe('Wide.mov');
    expect(named({ sourceFile: 'D:\\cards\\Wide.mov' })).toBe('Wide.mov');
    expect(named({ clipName: 'Boat/Wide' })).toBe('Boat-Wide');
    expect(named({ reel: 'A009', ...source(90_000, 90_010) })).toBe('A009 01:00:00:00');
    expect(named({ clipName: 'x'.repeat(900) })).toHaveLength(200);
    expect(named({ sourceFile: 'cards/\n', clipName: ' two\r\nlines\u0000' })).toBe('two lines');
    expect(read([clip(1, { reel: '\t', clipName: 'Wide' })]).unseen[0]?.reel).toBeNull();
  });

  it('says what does not come in as it stands', () => {
    const losses = (event: Partial<CutEvent>, listsUnseen = true) => read([clip(1, event)], listsUnseen).losses;
    expect(losses({ hasPicture: false })).toEqual([{ code: 'sound-only', event: 1 }]);
    expect(losses({ reel: 'A009' }, false)).toEqual([{ code: 'unseen', event: 1 }]);
    expect(losses({ assetId: 2, ...source(90_000, 90_010) })).toEqual([{ code: 'other-rate', event: 1, media: '50' }]);
    expect(losses({ assetId: 1, ...source(90_490, 90_510) })).toEqual([{ code: 'shortened', event: 1, frames: 10 }]);
    expect(losses({ assetId: 1, ...source(90_500, 90_510) })).toEqual([{ code: 'outside', event: 1 }]);
    expect(losses({ reel: 'A009', ...source(0, 9e15) })).toEqual([{ code: 'outside', event: 1 }]);
    expect(read([clip(1, {}), clip(3, {}), clip(6, {})]).losses).toEqual([{ code: 'gaps', gaps: 2, frames: 30 }]);
    const twins = { ...library, byPath: () => [media(8, '25'), media(9, '25')] };
    const several = read([clip(1, { sourceFile: 'a/b.mov', ...source(90_000, 90_010) })], true, twins).losses;
    expect(several).toEqual([{ code: 'several', event: 1, taken: 'clip8.mov' }]);
    for (const loss of [
      ...several,
      ...losses({ hasPicture: false }),
      ...losses({ reel: 'A009' }, false),
      ...losses({ assetId: 2, ...source(90_000, 90_010) }),
      ...losses({ assetId: 1, ...source(90_499, 90_510) }),
      ...losses({ assetId: 1, ...source(90_500, 90_510) }),
      ...read([clip(1, {}), clip(3, {})]).losses,
    ])
      expect(wordReadLoss(loss)).toMatch(/^(Event 1 |A gap of 10 frames ).*\.$/);
  });

  it('begins where its first picture does, however many sounds stand before it', () => {
    const sounds = Array.from({ length: 200_000 }, (_unused, n) => clip(n, { hasPicture: false }));
    const record = { start: 90_000, end: 90_010 };
    const { cuts, startFrame } = read([...sounds, clip(7, { record })]);
    expect([cuts.length, startFrame]).toEqual([1, 90_000]);
  });

  it('is in the order of the record side, whatever order its lines have', () => {
    const { cuts } = read([
      clip(2, { assetId: 3, sourceCounting: at('23.976'), ...source(90_000, 90_010) }),
      clip(1, { assetId: 1, ...source(90_000, 90_010) }),
    ]);
    expect(cuts.map(({ of }) => of)).toEqual([{ assetId: 1 }, { assetId: 3 }]);
  });

  it('takes what an earlier list knew of a clip, as far as that goes', () => {
    const listed = media(7, '25', { name: 'Wide', reel: 'A009', isListed: true, state: 'missing', durationFrames: 20 });
    const from = { ...library, byName: () => [listed], byReel: () => [listed] };
    const wide = { reel: 'A009', clipName: 'Wide' };
    expect(read([clip(1, { ...wide, ...source(90_005, 90_010) })], true, from).cuts).toEqual([
      { of: { assetId: 7 }, in: 5, out: 10 },
    ]);
    // Another reel's is another clip, whatever it is called.
    const nobody = { ...from, byReel: () => [] };
    expect(read([clip(1, { ...wide, reel: 'B009', ...source(90_005, 90_010) })], true, nobody).unseen).toHaveLength(1);
    const { cuts, unseen } = read([clip(1, { ...wide, ...source(90_005, 90_030) })], true, from);
    expect([cuts, unseen.length]).toEqual([[{ of: { unseen: 0 }, in: 0, out: 25 }], 1]);
  });
});
