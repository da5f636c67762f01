import { execFileSync } from 'node:child_process';
import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import type { Asset, Posters } from '@larder/contract';
import { allJobsEnded, type Client, makeClip, scanned, TestLibrary, until } from './kit';

let library: TestLibrary;
let manager: Client;
let editor: Client;
let clip: Asset;
let dark: Asset;
let pictures: Buffer[];
const FRAMES = 30;
/** The first frame of the dark clip in which something is to be seen. */
const LIGHT = 15;
const SIZE = [64, 36] as const;

const small = (picture: Buffer | string) =>
  sharp(picture)
    .resize(...SIZE, { fit: 'fill' })
    .removeAlpha()
    .raw()
    .toBuffer();

beforeAll(async () => {
  library = await TestLibrary.start(1);
  manager = await library.as('manager');
  editor = await library.as('editor');
  const shelf = library.shelf('clips');
  const black = `drawbox=x=0:y=0:w=iw:h=ih:t=fill:color=black:enable='lt(n,${LIGHT})'`;
  makeClip(join(shelf, 'clip.mov'), { seconds: FRAMES / 25 });
  makeClip(join(shelf, 'dark.mov'), { seconds: FRAMES / 25, more: ['-vf', black] });
  await scanned(manager, 'Clips', shelf);
  await allJobsEnded(manager);
  const found = await until('the index', async () => {
    const { assets } = await manager.call('search', { query: '' });
    return assets.length === 2 && assets.every(({ renditions }) => renditions.includes('proxy')) && assets;
  });
  [clip, dark] = [
    found.find(({ name }) => name === 'clip.mov') as Asset,
    found.find(({ name }) => name === 'dark.mov') as Asset,
  ];
  const frames = library.shelf('frames');
  execFileSync('ffmpeg', ['-v', 'error', '-i', join(shelf, 'clip.mov'), join(frames, '%03d.png')]);
  pictures = await Promise.all(
    readdirSync(frames)
      .sort()
      .map((name) => small(join(frames, name))),
  );
}, 120_000);
afterAll(() => library.stop(), 60_000);

/** The frame of the clip that an asset is shown by, told by the picture itself: the one that differs least from it. */
async function shownFrame(id: number): Promise<number> {
  await allJobsEnded(manager);
  const answer = await editor.raw('GET', `/files/${id}/poster`);
  const poster = await small(Buffer.from(await answer.arrayBuffer()));
  const far = pictures.map((picture) =>
    picture.reduce((sum, value, at) => sum + Math.abs(value - (poster[at] ?? 0)), 0),
  );
  return far.indexOf(Math.min(...far));
}
async function brightness(id: number): Promise<number> {
  await allJobsEnded(manager);
  const answer = await editor.raw('GET', `/files/${id}/poster`);
  const { channels } = await sharp(Buffer.from(await answer.arrayBuffer())).stats();
  return Math.max(...channels.map(({ mean }) => mean));
}
const show = (assetIds: number[], way: Posters['way'], frame = 0, percent = 0) =>
  editor.call('posters', { assetIds, way, frame, percent });

describe('the poster frame', () => {
  it('is a third of the way in, and where that is black the first that is not', async () => {
    expect(await shownFrame(clip.id)).toBe(FRAMES / 3);
    expect(await shownFrame(dark.id)).toBe(LIGHT);
  });

  it('is the very frame that somebody chose, and back at what it was when undone', async () => {
    const before = (await editor.call('rows', { ids: [clip.id] })).assets[0];
    for (const frame of [0, 1, 13, FRAMES - 1]) {
      await show([clip.id], 'frame', frame);
      expect([frame, await shownFrame(clip.id)]).toEqual([frame, frame]);
    }
    const after = (await editor.call('rows', { ids: [clip.id] })).assets[0];
    expect(after?.poster).toBe(FRAMES - 1);
    expect(after?.posterMadeMs).toBeGreaterThan(before?.posterMadeMs ?? 0);
    await editor.call('undo', {});
    expect(await shownFrame(clip.id)).toBe(13);
    await editor.call('redo', null);
    expect(await shownFrame(clip.id)).toBe(FRAMES - 1);
    await show([clip.id], 'library');
    expect(await shownFrame(clip.id)).toBe(FRAMES / 3);
  });

  it('is chosen for many at once: the first, the middle, so far in, the first that is not black', async () => {
    const both = [clip.id, dark.id];
    expect((await show(both, 'start')).changed).toBe(2);
    expect(await shownFrame(clip.id)).toBe(0);
    expect(await brightness(dark.id)).toBeLessThan(2);
    await show(both, 'middle');
    expect(await shownFrame(clip.id)).toBe(14);
    for (const [percent, frame] of [
      [100, FRAMES - 1],
      [0, 0],
      [50, 14],
    ] as const) {
      await show(both, 'percent', 0, percent);
      expect([percent, await shownFrame(clip.id)]).toEqual([percent, frame]);
    }
    await show(both, 'middle');
    await show(both, 'not-black');
    expect([await shownFrame(clip.id), await shownFrame(dark.id)]).toEqual([0, LIGHT]);
    await editor.call('undo', {});
    expect(await shownFrame(clip.id)).toBe(14);
  });

  it('of a subclip lies within it', async () => {
    const { id } = await editor.call('newSubclip', { name: 'Late', in: 20, out: 28 }, dark.id);
    await show([id], 'not-black');
    expect(await shownFrame(id)).toBe(20);
    await show([id], 'frame', 7);
    expect(await shownFrame(id)).toBe(27);
  });

  it('does not lie beyond the end, and is for people who log', async () => {
    const refused = (body: object, client = editor) => client.refused('posters', { assetIds: [clip.id], ...body });
    expect(await refused({ way: 'frame', frame: FRAMES })).toMatchObject({
      error: { reason: `clip.mov has no frame ${FRAMES}.` },
    });
    expect(await refused({ way: 'frame', frame: -1 })).toMatchObject({ status: 422 });
    expect(await refused({ way: 'percent', percent: 101 })).toMatchObject({ status: 422 });
    expect(await refused({ way: 'best' })).toMatchObject({ status: 422 });
    expect(await refused({ assetIds: [999_999], way: 'start' })).toMatchObject({ status: 422 });
    expect(await refused({ way: 'start' }, await library.as('viewer'))).toMatchObject({ status: 403 });
  });
});
