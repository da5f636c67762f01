import type { Tag, TagBook } from '@larder/contract';
import { asset } from '../../../test/assets';
import { LibraryServer } from '../../../test/library';
import { Screen, until } from '../../../test/screen';
import { groupsOf } from '../shared/tags';

const tag = (id: number, name: string, setId: number | null, more: Partial<Tag> = {}): Tag => ({
  ...{ id, name, setId, uses: 0, letter: '', description: '', synonyms: [] },
  ...more,
});
const set = (id: number, name: string, letter = '') => ({
  id,
  name,
  description: '',
  letter,
  pattern: 'dots' as const,
});

const BOOK: TagBook = {
  freeTags: true,
  sets: [set(1, 'Light'), set(2, 'Place')],
  tags: [
    tag(1, 'dawn', 1),
    tag(2, 'dusk', 1, { synonyms: ['evening'] }),
    tag(3, 'lock', 2, { letter: 'x' }),
    tag(4, 'boathouse', 2),
    tag(5, 'interview', null, { uses: 9 }),
  ],
};

let server: LibraryServer;
beforeEach(() => {
  sessionStorage.clear();
  localStorage.clear();
  server = new LibraryServer([asset(1, { tags: [] }), asset(2, { tags: [] }), asset(3, { tags: [] })]);
  server.on('tags', () => BOOK);
});

const tagsOf = (id: number) => server.assets.get(id)?.tags ?? [];
const sheet = 'nl-tag-keys .sheet';

async function open(role: 'editor' | 'viewer' = 'editor'): Promise<Screen> {
  const screen = await Screen.open('/library', server, role);
  await until('the tiles', () => screen.all('nl-tile').length === 3);
  await until('the tags', () => server.bodies('tags').length > 0);
  return screen;
}

describe('groups of tags', () => {
  it('have their letters by their names, a chosen one first, and free tags last', () => {
    expect(groupsOf(BOOK).map(({ name, key, tags }) => [name, key, tags.map((each) => each.key)])).toEqual([
      ['Light', 'l', ['d', 'u']],
      ['Place', 'p', ['x', 'b']],
      ['Free tags', 'f', ['i']],
    ]);
    expect(groupsOf({ freeTags: true, sets: [], tags: [] })).toEqual([]);
  });
});

describe('tag keys', () => {
  it('do nothing where no selection is to be seen, though there still is one', async () => {
    const screen = await open();
    await screen.click('nl-tile[data-id="1"]');
    await screen.harness.navigateByUrl('/jobs');
    await screen.press('t');
    expect(screen.all('nl-tag-keys')).toHaveLength(0);
    await screen.press('p');
    await screen.press('x');
    expect(server.bodies('edit')).toEqual([]);
  });

  it('three keys put a tag on; Shift takes it away; a dot does the last ones again', async () => {
    const screen = await open();
    await screen.press('t');
    expect(screen.all(sheet)).toHaveLength(0);
    await screen.click('nl-tile[data-id="1"]');
    await screen.press('t');
    await screen.says(sheet, 'Place');
    await screen.press('p');
    await until('only that set', () => !screen.text(sheet).includes('dawn'));
    await screen.press('x');
    expect(screen.all(sheet)).toHaveLength(0);
    await until('the tag', () => tagsOf(1).includes('lock'));
    for (const key of ['t', 'l', 'u']) await screen.press(key);
    await until('the second', () => tagsOf(1).includes('dusk'));
    await screen.click('nl-tile[data-id="2"]');
    await screen.press('t');
    await screen.press('.');
    await until('both again', () => tagsOf(2).join() === 'lock,dusk');
    await screen.press('t');
    await screen.press('p');
    await screen.press('X', { shiftKey: true });
    await until('it away', () => tagsOf(2).join() === 'dusk');
  });
  it('work on all that is selected, and show what all of them have', async () => {
    const screen = await open();
    await screen.click('nl-tile[data-id="1"]');
    await screen.click('nl-tile[data-id="3"]', '', { shiftKey: true });
    for (const key of ['t', 'l', 'd']) await screen.press(key);
    await until('all three', () => [1, 2, 3].every((id) => tagsOf(id).includes('dawn')));
    await screen.says('nl-toasts', 'Tag “dawn” added on 3 assets.');
    await screen.press('t');
    await screen.press('l');
    await until('the mark', () => screen.one('[data-tag=dawn]').querySelector('nl-icon') !== null);
    expect(screen.one('[data-tag=dusk]').querySelector('nl-icon')).toBeNull();
  });
  it('swallow what is no letter of theirs, go back, close, and leave the browser its keys', async () => {
    const screen = await open();
    await screen.click('nl-tile[data-id="1"]');
    await screen.press('t');
    // C is a verdict elsewhere.
    await screen.press('c');
    expect(screen.all(sheet)).toHaveLength(1);
    await screen.press('l');
    await screen.press('Backspace');
    await screen.says(sheet, 'boathouse');
    await screen.press('Backspace');
    expect(screen.all(sheet)).toHaveLength(0);
    await screen.press('t');
    await screen.press('Escape');
    expect(screen.all(sheet)).toHaveLength(0);
    expect(screen.all('nl-tile.selected')).toHaveLength(1);
    await screen.press('t');
    await screen.press('r', { ctrlKey: true });
    expect(screen.all(sheet)).toHaveLength(0);
    await screen.press('t');
    await screen.press('.');
    await screen.says('nl-toasts', 'No tag was put on with a key yet.');
    expect(server.bodies('edit')).toHaveLength(0);
  });
  it('need one letter less where there is one set, and nothing where nobody may log', async () => {
    server.on('tags', () => ({ ...BOOK, sets: [set(1, 'Light')], tags: BOOK.tags.slice(0, 2) }));
    const screen = await open();
    await screen.click('nl-tile[data-id="1"]');
    await screen.press('t');
    await screen.press('d');
    await until('the tag', () => tagsOf(1).includes('dawn'));
  });
  it('are not offered to who may only look', async () => {
    const screen = await open('viewer');
    await screen.click('nl-tile[data-id="1"]');
    await screen.press('t');
    expect(screen.all(sheet)).toHaveLength(0);
  });
  it('a slash types one: by another word for it, or asked about where it looks like one in another spelling', async () => {
    const screen = await open();
    await screen.click('nl-tile[data-id="1"]');
    await screen.press('t');
    await screen.press('/');
    expect(document.activeElement?.id).toBe('field-tag');
    await screen.type('#field-tag', 'eve');
    await screen.says('ngb-typeahead-window', 'dusk');
    await screen.type('#field-tag', 'interviews');
    await screen.press('Enter');
    await screen.says('.near', 'There is “interview” already.');
    await screen.click('.near button', 'Use it');
    await until('the tag', () => tagsOf(1).join() === 'interview');
    await screen.type('#field-tag', 'boat-house');
    await screen.press('Enter');
    await screen.says('.near', 'There is “boathouse” already.');
    await screen.press('Enter');
    await until('the new one', () => tagsOf(1).join() === 'interview,boat-house');
  });
});

/** The browser's dragging, as far as a document without layout has it. */
function drag(from: Element, onto: Element): void {
  const kept = new Map<string, string>();
  const dataTransfer = {
    setData: (type: string, data: string) => void kept.set(type, data),
    getData: (type: string) => kept.get(type) ?? '',
    get types() {
      return [...kept.keys()];
    },
  };
  const send = (element: Element, type: string) => {
    const event = Object.assign(new Event(type, { bubbles: true, cancelable: true }), { dataTransfer });
    element.dispatchEvent(event);
    return event.defaultPrevented;
  };
  send(from, 'dragstart');
  if (send(onto, 'dragover')) send(onto, 'drop');
}

describe('dragging', () => {
  it('a tag onto a clip of the selection tags all of it, onto another clip just that one', async () => {
    const screen = await open();
    await screen.click('.head button', 'Tags');
    await until('the board', () => screen.all('nl-tag-board [data-tag]').length === 5);
    await screen.click('nl-tile[data-id="1"]');
    await screen.click('nl-tile[data-id="2"]', '', { ctrlKey: true });
    drag(screen.one('nl-tag-board [data-tag=dawn]'), screen.one('nl-tile[data-id="2"]'));
    await until('both', () => tagsOf(1).includes('dawn') && tagsOf(2).includes('dawn'));
    drag(screen.one('nl-tag-board [data-tag=dusk]'), screen.one('nl-tile[data-id="3"]'));
    await until('the one', () => tagsOf(3).join() === 'dusk');
    expect(tagsOf(1)).toEqual(['dawn']);
  });
  it('goes onto rows of the ledger, and rows onto tags, as on the contact sheet', async () => {
    const screen = await open();
    await screen.click('.head button', 'Tags');
    await until('the board', () => screen.all('nl-tag-board [data-tag]').length === 5);
    await screen.press('v');
    const row = (index: number) => screen.one(`.ag-row[row-index="${index}"] [col-id="name"]`);
    await until('the rows', () => screen.all('.ag-row [col-id="name"]').length >= 3);
    drag(screen.one('nl-tag-board [data-tag=dusk]'), row(2));
    await until('the one', () => server.bodies('edit').length === 1);
    const [dropped] = server.bodies('edit');
    expect(dropped).toMatchObject({ addTags: ['dusk'], assetIds: [3] });
    expect(screen.all('.nl-over')).toEqual([]);
    drag(row(1), screen.one('nl-tag-board [data-tag=lock]'));
    await until('the other', () => server.bodies('edit').length === 2);
    expect(server.bodies('edit')[1]).toMatchObject({ addTags: ['lock'], assetIds: [2] });
    drag(row(1), row(0));
    expect(server.bodies('edit')).toHaveLength(2);
    expect(row(1).closest('.ag-row')?.getAttribute('draggable')).toBe('true');
  });
  it('clips onto a tag, the selection or the one that is dragged; a clip onto a clip does nothing', async () => {
    const screen = await open();
    await screen.click('.head button', 'Tags');
    await until('the board', () => screen.all('nl-tag-board [data-tag]').length === 5);
    drag(screen.one('nl-tile[data-id="3"]'), screen.one('nl-tag-board [data-tag=lock]'));
    await until('the one', () => tagsOf(3).join() === 'lock');
    drag(screen.one('nl-tile[data-id="3"]'), screen.one('nl-tile[data-id="1"]'));
    await screen.click('nl-tag-board [data-tag=lock]');
    await until('the search', () => screen.address.includes('lock'));
    expect(server.bodies('edit')).toHaveLength(1);
  });
});
