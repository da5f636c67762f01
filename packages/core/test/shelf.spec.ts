import fc from 'fast-check';
import {
  compareShelf,
  countShelf,
  covers,
  fileOf,
  folderOf,
  framesOf,
  isMediaName,
  itemsOf,
  type CataloguedFile,
  type FileEntry,
  type ImageSequence,
  type ShelfItem,
} from '@larder/core/shelf';

const entry = (name: string, bytes = 10): FileEntry => ({ name, bytes, modifiedMs: 1 });
const items = (...names: string[]) =>
  itemsOf(
    names.map((name) => entry(name)),
    'f',
  ).items;
const named = (...names: string[]) => items(...names).map((item) => [item.name, item.files]);

describe('image sequences', () => {
  it('numbered pictures in a row are one item; long gaps, paddings and names part them', () => {
    expect(named('a_0001.png', 'a_0002.png', 'a_0003.png', 'a_0008.png', 'a_0009.png', 'a_0010.png')).toEqual([
      ['a_[0001-0003].png', 3],
      ['a_[0008-0010].png', 3],
    ]);
    expect(named('a_001.png', 'a_002.png', 'a_003.png', 'a_0004.png', 'b_004.png')).toEqual([
      ['a_0004.png', 1],
      ['a_[001-003].png', 3],
      ['b_004.png', 1],
    ]);
  });
  it('a hole no longer than what came before it is a gap in one sequence', () => {
    const numbers = (first: number, last: number) =>
      Array.from({ length: last - first + 1 }, (_unused, index) => `s_${String(first + index).padStart(4, '0')}.exr`);
    const [held, ...more] = items(...numbers(1001, 1010), ...numbers(1014, 1020), 's_1022.exr');
    expect(more).toEqual([]);
    expect(held).toMatchObject({
      name: 's_[1001-1022].exr',
      files: 18,
      sequence: {
        gaps: [
          [1011, 1013],
          [1021, 1021],
        ],
      },
    });
    expect(framesOf(held?.sequence as ImageSequence)).toBe(22);
    expect(fileOf(held?.sequence as ImageSequence, 1011)).toBe('s_1011.exr');
    // A hundred at most, however long the sequence was before.
    expect(items(...numbers(1, 300), ...numbers(402, 405))).toHaveLength(2);
    expect(items(...numbers(1, 300), ...numbers(401, 405))).toHaveLength(1);
  });
  it('two pictures are stills, and clips are never a sequence', () => {
    expect(named('a_001.png', 'a_002.png')).toEqual([
      ['a_001.png', 1],
      ['a_002.png', 1],
    ]);
    expect(named('A001.mov', 'A002.mov', 'A003.mov')).toHaveLength(3);
  });
  it('are as large as all their files, and as new as the newest', () => {
    const [sequence] = itemsOf(
      [1, 2, 3].map((number) => ({ name: `x_00${number}.dpx`, bytes: number * 100, modifiedMs: number })),
      '',
    ).items;
    expect(sequence).toMatchObject({ path: 'x_001.dpx', bytes: 600, modifiedMs: 3, files: 3 });
  });
});

describe('sidecars', () => {
  it('go with the clip whose name they bear, whatever the case, with or without its ending', () => {
    const [clip, other] = items('A001.MOV', 'a001.xmp', 'A001.MOV.md5', 'A001.srt', 'A002.mov', 'A003.xml');
    expect(clip?.sidecars).toEqual(['A001.MOV.md5', 'A001.srt', 'a001.xmp']);
    expect(other?.sidecars).toEqual([]);
  });
  it('of two clips with one stem go with the first, and what goes with none is counted', () => {
    const { items: found, others } = itemsOf(
      ['T1.mov', 'T1.wav', 'T1.xml', 'budget.xlsx', 'notes.txt'].map((name) => entry(name)),
      '',
    );
    expect(found.map(({ name, sidecars }) => [name, sidecars.length])).toEqual([
      ['T1.mov', 1],
      ['T1.wav', 0],
    ]);
    expect(others).toEqual(['budget.xlsx', 'notes.txt']);
  });
});

const anyName = fc.oneof(
  fc
    .tuple(
      fc.constantFrom('a_', 'b', 'Clip.'),
      fc.integer({ min: 1, max: 30 }),
      fc.constantFrom(3, 4),
      fc.constantFrom('png', 'dpx'),
    )
    .map(([prefix, number, padding, extension]) => `${prefix}${String(number).padStart(padding, '0')}.${extension}`),
  fc
    .tuple(fc.constantFrom('A', 'b', 'C'), fc.constantFrom('mov', 'wav', 'xmp', 'txt', 'doc', 'mov.md5'))
    .map(([stem, extension]) => `${stem}.${extension}`),
);

describe('any folder', () => {
  it('every file is in one item, beside one, or counted: none is lost and none is there twice', () =>
    fc.assert(
      fc.property(fc.uniqueArray(anyName, { maxLength: 60 }), (names) => {
        const { items: found, others } = itemsOf(
          names.map((name) => entry(name)),
          '',
        );
        const files = found.reduce((sum, item) => sum + item.files, 0);
        const beside = found.reduce((sum, item) => sum + item.sidecars.length, 0);
        expect(files + beside + others.length).toBe(names.length);
        expect(files).toBe(names.filter(isMediaName).length);
        for (const { sequence, files: number } of found)
          if (sequence)
            expect(framesOf(sequence) - sequence.gaps.reduce((sum, [first, last]) => sum + last - first + 1, 0)).toBe(
              number,
            );
        expect(new Set(found.map(({ path }) => path)).size).toBe(found.length);
      }),
    ));
  it('is the same whatever order the disk lists it in', () =>
    fc.assert(
      fc.property(fc.uniqueArray(anyName, { maxLength: 40 }), (names) => {
        const listed = (order: readonly string[]) =>
          itemsOf(
            order.map((name) => entry(name)),
            'f',
          );
        expect(listed(names.toReversed())).toEqual(listed(names));
      }),
    ));
});

describe('a storage beside the catalogue', () => {
  const item = (path: string, bytes = 10): ShelfItem => ({
    path,
    name: path,
    bytes,
    modifiedMs: 1,
    files: 1,
    sequence: null,
    sidecars: [],
  });
  const known = (assetId: number, path: string, changes: Partial<CataloguedFile> = {}): CataloguedFile => ({
    assetId,
    path,
    name: path,
    bytes: 10,
    modifiedMs: 1,
    files: 1,
    state: 'online',
    ...changes,
  });
  const states = (found: readonly ShelfItem[], catalogued: readonly CataloguedFile[]) =>
    compareShelf(found, catalogued).map(({ path, state, assetId }) => `${path} ${state} ${assetId ?? '-'}`);

  it('tells new, catalogued, changed and missing apart', () => {
    expect(
      states(
        [item('a'), item('b'), item('c', 11), item('e'), item('f')],
        [
          known(2, 'b'),
          known(3, 'c'),
          known(4, 'd'),
          known(5, 'e', { state: 'missing' }),
          known(6, 'f', { state: 'changed' }),
        ],
      ),
    ).toEqual(['a new -', 'b online 2', 'c changed 3', 'd missing 4', 'e online 5', 'f changed 6']);
  });
  it('a sequence that lost a picture is changed', () =>
    expect(states([{ ...item('a'), files: 9 }], [known(1, 'a', { files: 10 })])).toEqual(['a changed 1']));
  it('counts each state, also those that are not there', () =>
    expect(countShelf(compareShelf([item('a')], [known(2, 'b')]))).toEqual({
      new: 1,
      online: 0,
      changed: 0,
      missing: 1,
    }));
  it('for any two sets of paths, each is there once, with the state that the sets say', () => {
    const paths = fc.uniqueArray(fc.constantFrom(...'abcdefghij'), { maxLength: 10 });
    fc.assert(
      fc.property(paths, paths, (there, catalogued) => {
        const rows = compareShelf(
          there.map((path) => item(path)),
          catalogued.map((path, index) => known(index + 1, path)),
        );
        expect(rows.map(({ path }) => path)).toEqual([...new Set([...there, ...catalogued])].sort());
        for (const { path, state } of rows)
          expect(state).toBe(!catalogued.includes(path) ? 'new' : there.includes(path) ? 'online' : 'missing');
      }),
    );
  });
});

describe('folders', () => {
  it.each([
    ['', true, 'a/b', true],
    ['', false, 'a', false],
    ['', false, '', true],
    ['a', true, 'a/b/c', true],
    ['a', true, 'ab', false],
    ['a', false, 'a/b', false],
    ['a/b', true, 'a', false],
  ])('a scan of “%s” (with what is below: %s) takes in “%s”: %s', (path, deep, folder, wanted) =>
    expect(covers({ path, deep }, folder)).toBe(wanted),
  );
  it('of a path is what comes before its last slash', () =>
    expect(['a/b/c.mov', 'c.mov', ''].map(folderOf)).toEqual(['a/b', '', '']));
});
