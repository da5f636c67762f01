import type { Role, TwinGroup, TwinList } from '@larder/contract';
import { asset } from '../../../test/assets';
import { job } from '../../../test/things';
import { FakeServer, Refusal, Screen, until } from '../../../test/screen';

const twin = (
  ...[id, changes, uses = {}]: [...Parameters<typeof asset>, Partial<TwinGroup['twins'][number]['uses']>?]
) => ({
  asset: asset(id, {
    storage: 'Shelf 1',
    path: `day/clip${id}.mov`,
    name: `clip${id}.mov`,
    bytes: 1_000_000,
    ...changes,
  }),
  uses: { subclips: 0, stringOuts: 0, ...uses },
});
const exact: TwinGroup = {
  ...{ likeness: 'exact', same: null, suggested: 2 },
  twins: [
    twin(1, { name: 'clip.mov' }),
    twin(2, { name: 'clip.mov', title: 'Lock', tags: ['dawn'], bins: ['Yard'] }, { stringOuts: 2, subclips: 1 }),
  ],
};
const equivalent: TwinGroup = {
  ...{ likeness: 'equivalent', same: null, suggested: 3 },
  twins: [twin(3, { codec: 'vc3' }), twin(4, { codec: 'h264', bytes: 20_000 }), twin(5, { state: 'missing' })],
};
const list = (changes: Partial<TwinList> = {}): TwinList => ({ total: 2, groups: [exact, equivalent], ...changes });

async function open(prepare: (server: FakeServer) => unknown = () => undefined, role: Role = 'manager') {
  const server = new FakeServer().on('twinList', () => list()).on('jobs', () => ({ jobs: [] }));
  prepare(server);
  const screen = await Screen.open('/upkeep/twins', server, role);
  return { server, screen };
}
const texts = (screen: Screen, selector: string) =>
  screen.all(selector).map((each) => each.textContent?.replace(/\s+/g, ' ').trim());
const written = { revision: 9, group: 'merged', changed: 2 };

describe('twins', () => {
  it('tells of each recording that is catalogued more than once what differs, what is said of each and made with it', async () => {
    const { screen, server } = await open();
    await screen.says('.page-head', '2 recordings catalogued more than once.');
    expect(server.bodies('twinList')).toEqual([{ offset: 0, limit: 25 }]);
    expect(texts(screen, '.head')).toEqual([
      'Same bytesDiffers in title, tags Keep #2, merge 1 other',
      'Same frames, another formDiffers in name, size, codec Keep #3, merge 2 others',
    ]);
    expect(texts(screen, '[data-asset="2"]')[0]).toMatch(
      /clip\.mov#2suggestedShelf 1\/day\/clip2\.mov1\.0 MB, h264, 960 × 540“Lock” · dawnin 2 string-outs, 1 bin, 1 subclip$/,
    );
    expect(texts(screen, '[data-asset="1"]')[0]).toMatch(/nothing said of itnot used$/);
    expect(screen.one('[data-asset="5"]').textContent).toContain('Missing');
  });

  it('keeps the one that is chosen, and what was merged comes apart again with undo', async () => {
    const { screen, server } = await open((to) =>
      to
        .on('keepTwins', () => written)
        .on('undo', () => ({ ...written, of: 'merged', action: 'fold', fields: [], assets: 2, atMs: 0 })),
    );
    await until('them', () => screen.all('[data-asset="4"] input').length === 1);
    screen.one<HTMLInputElement>('[data-asset="4"] input').click();
    await screen.click('.head button', 'Keep #4, merge 2 others');
    await until('it to be asked', () => server.bodies('keepTwins').length === 1);
    expect(server.bodies('keepTwins')).toEqual([{ groups: [{ keep: 4, others: [3, 5] }] }]);
    await screen.says('nl-toasts', '2 assets merged. Their files stay where they are, as other places.');
    await screen.click('nl-toasts button', 'Undo');
    await until('the undo', () => server.bodies('undo').length === 1);
    expect(server.bodies('undo')).toEqual([{ group: 'merged' }]);
  });

  it('keeps none that is not there, and says so', async () => {
    const { screen } = await open();
    await until('them', () => screen.all('[data-asset="5"] input').length === 1);
    screen.one<HTMLInputElement>('[data-asset="5"] input').click();
    await screen.says('.head', 'Keep one that is there, or find this one first.');
    expect(texts(screen, '.head button')).toEqual(['Keep #2, merge 1 other']);
  });

  it('keeps all of the same bytes at once, and leaves other forms to be looked at', async () => {
    const two = { ...exact, suggested: 7, twins: [twin(7, {}), twin(8, {})] };
    const { screen, server } = await open((to) =>
      to
        .on('twinList', () => list({ total: 3, groups: [exact, two, equivalent] }))
        .on('keepTwins', () => new Refusal(422, { code: 'refused', reason: 'clip.mov is not there itself.' })),
    );
    await screen.click('[data-test="keep-all"]', 'Keep the chosen one of each of these 2 of the same bytes');
    await screen.says('nl-toasts', 'clip.mov is not there itself.');
    expect(server.bodies('keepTwins')).toEqual([
      {
        groups: [
          { keep: 2, others: [1] },
          { keep: 7, others: [8] },
        ],
      },
    ]);
  });

  it('has files read whole of which only size, beginning and end are known to be the same', async () => {
    const ends: TwinGroup = { ...exact, likeness: 'ends' };
    const { screen, server } = await open((to) =>
      to
        .on('twinList', () => list({ groups: [ends, equivalent] }))
        .on('verify', () => ({ job: job(9, { kind: 'verify' }) })),
    );
    await screen.says('nl-twins', 'Of 1 recording listed here not all files were read whole');
    expect(texts(screen, '.head strong')[0]).toBe('Same size, beginning and end');
    expect(screen.all('[data-test="keep-all"]')).toEqual([]);
    await screen.click('.head button', 'Read them whole');
    await screen.says('nl-toasts', '2 files will be read whole; see Jobs.');
    await screen.click('[data-test="read-all"]');
    await until('both', () => server.bodies('verify').length === 2);
    expect(server.bodies('verify')).toEqual([{ assetIds: [1, 2] }, { assetIds: [1, 2] }]);
  });

  it('keeps none where some were read and differ, before the others were read too', async () => {
    const unsure: TwinGroup = { ...exact, likeness: 'open' };
    const { screen } = await open((to) => to.on('twinList', () => list({ groups: [unsure] })));
    await screen.says('nl-twins', 'Of 1 recording listed here not all files were read whole');
    expect(texts(screen, '.head button')).toEqual(['Read them whole']);
    expect(screen.all('[data-test="twins"] input:not([disabled])')).toEqual([]);
    expect(screen.all('[data-test="twins"] input:checked')).toEqual([]);
  });

  it('tells how much of what is only near is the same, and takes it off the list where somebody says that it is not', async () => {
    const near: TwinGroup = { ...exact, likeness: 'near', same: { picture: true, sound: false } };
    const sound: TwinGroup = { ...equivalent, likeness: 'near', same: { picture: null, sound: true } };
    const { screen, server } = await open((to) =>
      to.on('twinList', () => list({ groups: [near, sound] })).on('partTwins', () => ({ pairs: 1 })),
    );
    await until('both', () => screen.all('[data-test="same"]').length === 2);
    expect(texts(screen, '[data-test="same"]')).toEqual([
      'nearly the same pictures, another sound',
      'nearly the same sound',
    ]);
    // Nobody merges these many at once.
    expect(screen.all('[data-test="keep-all"], [data-test="read-all"]')).toEqual([]);
    await screen.click('.head button', 'Not the same');
    await screen.says('nl-toasts', 'Noted: not the same.');
    await screen.click('nl-toasts button', 'Undo');
    await until('undone', () => server.bodies('partTwins').length === 2);
    expect(server.bodies('partTwins')).toEqual([
      { assetIds: [1, 2], apart: true },
      { assetIds: [1, 2], apart: false },
    ]);
    server.on('partTwins', () => new Refusal(422, { code: 'refused', reason: 'These are not near any more.' }));
    await screen.click('.head button', 'Not the same');
    await screen.says('nl-toasts', 'These are not near any more.');
  });

  it('has those of many that are only alike merged one by one', async () => {
    const [one, two] = [exact.twins[0], exact.twins[1]];
    const third = { ...two, asset: { ...two?.asset, id: 9 } } as TwinGroup['twins'][number];
    const near = {
      ...{ likeness: 'near', same: { picture: true, sound: null }, suggested: 2 },
      twins: [one, two, third],
    } as TwinGroup;
    const { screen, server } = await open((to) => to.on('twinList', () => list({ groups: [near] })));
    await until('them', () => screen.all('.one button').length === 2);
    expect(texts(screen, '.head button')).toEqual(['Not the same']);
    expect(texts(screen, '.one button')).toEqual(['Merge into #2', 'Merge into #2']);
    await screen.click('[aria-label="Merge asset 9 into asset 2"]');
    await until('the merge', () => server.bodies('keepTwins').length === 1);
    expect(server.bodies('keepTwins')[0]).toEqual({ groups: [{ keep: 2, others: [9] }] });
  });

  it('is looked at by everybody, and merged by those who keep the library', async () => {
    const { screen } = await open(undefined, 'editor');
    await screen.says('.page-head', '2 recordings');
    expect(texts(screen, '.head button')).toEqual([]);
    expect(screen.all('[data-test="twins"] input:not([disabled])')).toEqual([]);
  });

  it('has pages, is empty where nothing is doubled, and says why where it cannot be shown', async () => {
    const many = await open((to) => to.on('twinList', () => list({ total: 60 })));
    await until('pages', () => many.screen.all('ngb-pagination li').length > 0);
    await many.screen.click('ngb-pagination a', '3');
    await until('the third', () => many.server.bodies('twinList').at(-1)?.offset === 50);
    many.server.on('twinList', () => list({ total: 0, groups: [] }));
    await many.screen.click('ngb-pagination a', '2');
    await many.screen.says('nl-twins', 'Nothing is catalogued more than once');
  });

  it('says why it cannot be shown', async () => {
    const { screen } = await open((to) =>
      to.on('twinList', () => new Refusal(422, { code: 'refused', reason: 'Not now.' })),
    );
    await screen.says('[role="alert"]', 'The twins cannot be shown. Not now.');
  });
});

describe('the card in Upkeep', () => {
  it('tells how many there are, and leads there', async () => {
    const server = new FakeServer()
      .on('twinList', () => list({ total: 1 }))
      .on('health', () => ({ away: [], folders: [], more: 0 }))
      .on('storages', () => ({ storages: [] }))
      .on('jobs', () => ({ jobs: [] }));
    const screen = await Screen.open('/upkeep', server);
    await screen.says('nl-twins-card', '1 recording is catalogued more than once.');
    expect(screen.one('nl-twins-card a', 'Look at them').getAttribute('href')).toBe('/upkeep/twins');
  });
});
