import type { NewLayout } from '@larder/contract';
import { type Client, TestLibrary } from './kit';

let library: TestLibrary;
let manager: Client;
let editor: Client;
let other: Client;
let viewer: Client;

beforeAll(async () => {
  library = await TestLibrary.start(1);
  [manager, editor, other, viewer] = [
    await library.as('manager'),
    await library.as('editor'),
    await library.as('other'),
    await library.as('viewer'),
  ];
}, 120_000);
afterAll(() => library.stop(), 60_000);

const column = (colId: string, more = {}) => ({ colId, shown: true, width: 120, pinned: false, ...more });
const layout = (name: string, shared = false, colIds = ['name', 'title']): NewLayout => ({
  ...{ name, shared, columns: colIds.map((colId) => column(colId)) },
});
const names = async (client: Client) => (await client.call('layouts', null)).layouts.map(({ name }) => name);

describe('layouts of the ledger', () => {
  it('are each person\u2019s own, or shared; one kept again under its name is replaced', async () => {
    await editor.call('newLayout', layout('Mine'));
    await editor.call('newLayout', layout('Report', true));
    expect([await names(editor), await names(other), await names(viewer)]).toEqual([
      ['Mine', 'Report'],
      ['Report'],
      ['Report'],
    ]);
    await editor.call('newLayout', layout('Mine', false, ['name', 'people']));
    const mine = (await editor.call('layouts', null)).layouts[0];
    expect(mine).toMatchObject({ name: 'Mine', own: true, shared: false, columns: [column('name'), column('people')] });
    // Somebody else's of the same name is another.
    await other.call('newLayout', layout('Report'));
    expect(await names(other)).toEqual(['Report', 'Report']);
  });

  it('are taken away by who made them, and shared ones by a manager', async () => {
    const shared = (await other.call('layouts', null)).layouts.find((each) => !each.own);
    expect(await other.refused('removeLayout', null, shared?.id)).toMatchObject({
      error: { reason: 'This layout is somebody else’s.' },
    });
    const mine = (await editor.call('layouts', null)).layouts.find(({ name }) => name === 'Mine');
    expect(await manager.refused('removeLayout', null, mine?.id)).toMatchObject({ status: 404 });
    await editor.call('removeLayout', null, mine?.id);
    await manager.call('removeLayout', null, shared?.id);
    expect([await names(editor), await names(other)]).toEqual([[], ['Report']]);
  });

  it('a viewer keeps some, and shares none; what is wrong is refused', async () => {
    await viewer.call('newLayout', layout('To read'));
    expect(await viewer.refused('newLayout', layout('For all', true))).toMatchObject({
      error: { reason: 'Only people who log can share a layout.' },
    });
    expect(await editor.refused('newLayout', { ...layout('x'), columns: [{ colId: 'name' }] })).toMatchObject({
      status: 422,
    });
    expect(await editor.refused('newLayout', layout(''))).toMatchObject({ status: 422 });
  });
});
