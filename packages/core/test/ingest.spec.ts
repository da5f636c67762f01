import fc from 'fast-check';
import {
  ingestSettingsSchema,
  nameBy,
  plainSettings,
  readNaming,
  twinSign,
  wordNamingIssue,
  type NameValues,
  type TwinFacts,
} from '@larder/core/ingest';
import { countingById } from '@larder/core/timecode';

const values: NameValues = {
  name: 'A001C003',
  folder: 'day one',
  reel: 'A001',
  scene: '40',
  take: null,
  date: '2026-05-12',
  timecode: '01:00:12:00',
  rate: '25',
  n: 7,
};
const named = (pattern: string, changes: Partial<NameValues> = {}) =>
  nameBy(readNaming(pattern).pattern, { ...values, ...changes });

describe('names by a pattern', () => {
  it.each([
    ['{name}', 'A001C003'],
    ['SW_{reel}_{n:4}', 'SW_A001_0007'],
    ['{date} {timecode}', '2026-05-12 01-00-12-00'],
    ['{scene}_{take}_{n}', '40_7'],
    ['{take}', 'A001C003'],
    ['{folder}-{rate}', 'day one-25'],
    [' ..{reel}.. ', 'A001'],
  ])('%s gives %s', (pattern, wanted) => expect(named(pattern)).toBe(wanted));

  it.each([
    ['{nmae}', [{ code: 'unknown-part', at: 0, part: 'nmae' }]],
    ['a/{name}', [{ code: 'slash', at: 1 }]],
    ['a{name', [{ code: 'unclosed', at: 1 }]],
    ['', [{ code: 'empty' }]],
    [
      '{x}/{y}',
      [
        { code: 'unknown-part', at: 0, part: 'x' },
        { code: 'slash', at: 3 },
        { code: 'unknown-part', at: 4, part: 'y' },
      ],
    ],
  ])('%s is told what is wrong with it', (pattern, issues) => {
    expect(readNaming(pattern).issues).toEqual(issues);
    for (const issue of readNaming(pattern).issues) expect(wordNamingIssue(issue)).toMatch(/\.|\}$/);
  });

  it('whatever the values, a name is one that every file system takes', () =>
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 40 }), fc.string({ maxLength: 40 }), (reel, name) => {
        const made = named('{reel}_{name}_{n:3}', { reel, name });
        expect(made).not.toMatch(/[/\\:*?"<>|\p{Cc}]/u);
        expect(made).not.toMatch(/^[ .]|[ .]$/);
        expect(made.length).toBeGreaterThan(0);
        expect(made.length).toBeLessThanOrEqual(200);
      }),
    ));
});

describe('settings', () => {
  const check = (changes: object) =>
    ingestSettingsSchema.validate({ ...plainSettings(), ...changes }, { abortEarly: false, strict: true }).then(
      () => [],
      (error: { errors: string[] }) => error.errors,
    );
  it('as they come are in place, without a mezzanine, and skip twins', () =>
    expect(plainSettings()).toMatchObject({ way: 'in-place', mezzanine: 'none', twins: 'skip', destination: null }));
  it.each([
    [{}, []],
    [{ way: 'copy' }, ['Choose a storage to copy to.']],
    [{ way: 'copy', destination: { storageId: 2, folder: 'in' } }, []],
    [
      { way: 'copy', destination: { storageId: 2, folder: '../out' } },
      [expect.stringMatching(/^The folder lies within/)],
    ],
    [{ naming: '{wrong}' }, [expect.stringMatching(/^\{wrong\} is nothing/)]],
    [{ naming: '{reel}_{n:3}' }, []],
    [{ version: 2 }, ['These settings are of another version.']],
    [{ tags: ['a,b'] }, ['A tag is one line without commas or quotes.']],
    [
      { corrections: { ...plainSettings().corrections, startTimecode: '10:00' } },
      ['A timecode is written as 10:00:00:00.'],
    ],
  ])('%j: %j', async (changes, wanted) => expect(await check(changes)).toEqual(wanted));
});

describe('twins', () => {
  const file = (changes: Partial<TwinFacts> = {}): TwinFacts => ({
    name: 'A001C003.mov',
    bytes: 1000,
    fingerprint: 'f1',
    counting: countingById('25') ?? null,
    durationFrames: 100,
    startFrame: 90_000,
    ...changes,
  });
  it.each([
    [{ name: 'other.mov' }, 'same-ends'],
    [{ fingerprint: 'f2' }, 'same-facts'],
    [{ fingerprint: 'f2', name: 'a001c003.MOV' }, 'same-facts'],
    [{ fingerprint: 'f2', startFrame: null }, null],
    [{ fingerprint: 'f2', counting: countingById('50') ?? null }, null],
    [{ fingerprint: null }, 'same-facts'],
    [{ bytes: 1001 }, null],
    [{ fingerprint: 'f2', name: 'A001C004.mov' }, null],
  ])('%j: %s', (changes, wanted) => expect(twinSign(file(), file(changes))).toBe(wanted));
  it('without timecode, the same name and size are not enough', () =>
    expect(twinSign(file({ fingerprint: 'f2', startFrame: null }), file({ startFrame: null }))).toBeNull());
});
