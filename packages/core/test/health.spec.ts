import { lostFolders, type LostFile, type Use } from '@larder/core/upkeep';

const lost = (assetId: number, path: string, changes: Partial<LostFile> = {}): LostFile => ({
  ...{ assetId, storageId: 1, path, state: 'missing', sinceMs: 1000 },
  ...changes,
});
const cut: Use = { kind: 'string-out', id: 1, name: 'First cut' };
const bin = (id: number, name: string): Use => ({ kind: 'bin', id, name });

describe('folders in which something is lost', () => {
  it('are told with how much, since when, and what breaks with it', () => {
    const files = [
      lost(1, 'day/A001/a.mov', { sinceMs: 900 }),
      lost(2, 'day/A001/b.mov', { state: 'changed' }),
      lost(3, 'top.mov'),
      lost(4, 'day/A001/a.mov', { storageId: 2 }),
    ];
    const uses = new Map([
      [1, [bin(7, 'Lock'), cut]],
      [2, [bin(7, 'Lock'), bin(8, 'Dawn')]],
    ]);
    expect(lostFolders(files, uses)).toEqual([
      {
        ...{ storageId: 1, folder: 'day/A001', missing: 1, changed: 1, sinceMs: 900 },
        uses: [cut, bin(8, 'Dawn'), bin(7, 'Lock')],
      },
      { storageId: 1, folder: '', missing: 1, changed: 0, sinceMs: 1000, uses: [] },
      { storageId: 2, folder: 'day/A001', missing: 1, changed: 0, sinceMs: 1000, uses: [] },
    ]);
  });

  it('come worst first: what a string-out needs, what a bin holds, most, oldest', () => {
    const folders = [
      ...[lost(1, 'many/1'), lost(2, 'many/2'), lost(3, 'many/3')],
      ...[lost(4, 'old/1', { sinceMs: 1 }), lost(5, 'new/1', { sinceMs: 2 })],
      ...[lost(6, 'binned/1'), lost(7, 'cut/1')],
    ];
    const uses = new Map([
      [6, [bin(1, 'A'), bin(2, 'B')]],
      [7, [cut]],
    ]);
    expect(lostFolders(folders, uses).map(({ folder }) => folder)).toEqual(['cut', 'binned', 'many', 'old', 'new']);
    expect(lostFolders([], uses)).toEqual([]);
  });
});
