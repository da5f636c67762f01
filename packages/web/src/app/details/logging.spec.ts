import type { Asset } from '@larder/contract';
import { asset } from '../../../test/assets';
import { LibraryServer } from '../../../test/library';
import { Refusal, Screen, until } from '../../../test/screen';

const clips = () =>
  new LibraryServer([
    asset(1, { name: 'lock.mov', reel: 'A001' }),
    asset(2, { name: 'boat.mov', tags: ['dusk'], title: 'Boat passes' }),
    asset(3, { name: 'bell.wav', kind: 'audio', rate: null, durationFrames: null }),
  ]);

async function open(server = clips(), role: 'manager' | 'viewer' = 'manager') {
  const screen = await Screen.open('/library', server, role);
  await screen.says('[data-test="count"]', '3 assets');
  return { screen, server };
}

const title = (screen: Screen) => screen.one<HTMLInputElement>('#field-title');

describe('logging one clip', () => {
  it('shows an edit before the server has it, sends it with what was seen, and takes it back', async () => {
    const { screen, server } = await open();
    await screen.click('nl-tile', 'lock.mov');
    await screen.press('e');
    expect(document.activeElement).toBe(title(screen));
    await screen.type('#field-title', 'Hands on the beam');
    await screen.press('Enter');
    await screen.says('nl-tile.selected', 'Hands on the beam');
    await until('the edit', () => server.bodies('edit').length === 1);
    expect(server.bodies('edit')[0]).toMatchObject({ assetIds: [1], set: { title: 'Hands on the beam' } });
    await screen.press('z', { ctrlKey: true });
    await screen.says('nl-toasts', 'Undone: Title changed.');
    screen.changed('asset', 1, server.revision);
    await screen.says('nl-tile.selected', 'lock.mov');
  });

  it('a key pressed straight after a click finds the field of the clip that was clicked', async () => {
    const { screen } = await open();
    screen.one('nl-tile', 'Boat').dispatchEvent(new MouseEvent('click', { bubbles: true }));
    document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'e', bubbles: true }));
    expect(document.activeElement?.id).toBe('field-title');
    expect(title(screen).value).toBe('Boat passes');
  });

  it('works with the details hidden, and opens them for a field', async () => {
    const { screen, server } = await open();
    await screen.press('d');
    await screen.click('nl-tile', 'lock.mov');
    expect(screen.one('aside.details').classList).toContain('d-none');
    await screen.press('c');
    await until('the verdict', () => server.assets.get(1)?.verdict === 'circled');
    await screen.press('t');
    await screen.press('/');
    expect(screen.one('aside.details').classList).not.toContain('d-none');
    expect(document.activeElement?.id).toBe('field-tag');
  });

  it('what is under the fingers is not changed by a colleague, whose value is then shown beside one’s own', async () => {
    const { screen, server } = await open();
    await screen.click('nl-tile', 'Boat');
    await screen.press('e');
    await screen.type('#field-title', 'Boat passes slo');
    server.colleague(2, { title: 'Barge passes' });
    screen.changed('asset', 2, server.revision);
    await screen.says('nl-tile.selected', 'Barge passes');
    expect(title(screen).value).toBe('Boat passes slo');
    const conflict = { assetId: 2, name: 'boat.mov', field: 'title', theirs: 'Barge passes', by: 'Tobin' } as const;
    server.on('edit', () => new Refusal(409, { code: 'conflict', conflicts: [conflict] }));
    await screen.type('#field-title', 'Boat passes slowly');
    await screen.press('Enter');
    await screen.says('.modal-content', 'Somebody else changed this too');
    expect(screen.text('.modal-content')).toMatch(/Barge passes Tobin\s*Boat passes slowly/);
    expect(server.bodies('edit')[0]?.seenRevision).toBeLessThan(server.revision);
    await screen.click('.modal-content button', 'Keep theirs');
    await until('theirs to be back', () => title(screen).value === 'Barge passes');
  });

  it('one’s own value is written over theirs only when asked for', async () => {
    const { screen, server } = await open();
    await screen.click('nl-tile', 'Boat');
    const conflict = { assetId: 2, name: 'boat.mov', field: 'title', theirs: 'Barge', by: null } as const;
    server.on('edit', ({ seenRevision, assetIds }) =>
      seenRevision < Number.MAX_SAFE_INTEGER
        ? new Refusal(409, { code: 'conflict', conflicts: [conflict] })
        : { revision: ++server.revision, group: 'forced', changed: assetIds.length },
    );
    await screen.type('#field-title', 'Mine');
    await screen.press('Enter');
    await screen.click('.modal-content button', 'Use mine');
    await until('a second edit', () => server.bodies('edit').length === 2);
    expect(server.bodies('edit')[1]).toMatchObject({ set: { title: 'Mine' }, seenRevision: Number.MAX_SAFE_INTEGER });
  });

  it('a value that is none stays in the field with the reason, and Escape brings the old one back', async () => {
    const { screen, server } = await open();
    await screen.click('nl-tile', 'Boat');
    await screen.type('#field-title', 'x'.repeat(201));
    await screen.press('Enter');
    await screen.says('nl-details [role="alert"]', 'at most 200 characters');
    expect(title(screen).value).toHaveLength(201);
    title(screen).focus();
    await screen.press('Escape');
    await until('no complaint', () => screen.all('nl-details [role="alert"]').length === 0);
    expect(title(screen).value).toBe('Boat passes');
    expect(server.bodies('edit')).toEqual([]);
  });

  it('leaving a field as it was saves nothing', async () => {
    const { screen, server } = await open();
    await screen.click('nl-tile', 'Boat');
    await screen.type('#field-title', ' Boat passes ');
    await screen.press('Enter');
    expect(server.bodies('edit')).toEqual([]);
  });

  it('the same verdict again takes it away', async () => {
    const { screen, server } = await open();
    await screen.click('nl-tile', 'lock.mov');
    await screen.press('h');
    await screen.says('nl-tile.selected', 'Hold');
    await screen.press('h');
    await until('both edits', () => server.bodies('edit').length === 2);
    expect(server.bodies('edit').map(({ set }) => set.verdict)).toEqual(['hold', null]);
    expect(screen.text('nl-tile.selected')).not.toContain('Hold');
  });

  it('an edit that cannot be saved is said, and the server’s truth comes back', async () => {
    const { screen, server } = await open();
    await screen.click('nl-tile', 'lock.mov');
    server.on('edit', () => new Refusal(500, { code: 'internal', reference: 'r-17' }));
    await screen.press('n');
    await screen.says('nl-toasts', 'Verdict NG: not saved.');
    expect(screen.text('nl-toasts')).toContain('r-17');
    await until('no verdict', () => !screen.text('nl-tile.selected').includes('NG'));
  });

  it('tells its history when asked, newest knowledge included', async () => {
    const { screen, server } = await open();
    server.on('history', () => ({
      changes: [
        {
          revision: 4,
          group: 'g',
          atMs: 0,
          by: 'Tobin',
          action: 'edit',
          before: { title: null, tags: ['boat', 'dusk'] },
          after: { title: 'A', tags: ['boat', 'dawn'] },
        },
        { revision: 3, group: 'f', atMs: 0, by: null, action: 'relink', before: {}, after: { path: 'b/c.mov' } },
        { revision: 2, group: 'e', atMs: 0, by: null, action: 'scan', before: {}, after: { state: 'missing' } },
        { revision: 1, group: 'd', atMs: 0, by: null, action: 'catalogue', before: {}, after: {} },
      ],
    }));
    await screen.click('nl-tile', 'lock.mov');
    await screen.click('nl-details button', 'History');
    await screen.says('.history', 'Title: empty → A');
    for (const words of ['Tobin', 'the library', 'Relinked to b/c.mov', 'Found missing by a scan', 'Catalogued'])
      expect(screen.text('.history')).toContain(words);
    // Only what people said can be put back.
    expect(screen.all('.history button')).toHaveLength(1);
    await screen.click('.history button', 'Put back');
    await until('the edit', () => server.bodies('edit').length === 1);
    expect(server.bodies('edit')[0]).toMatchObject({ set: { title: null }, addTags: ['dusk'], removeTags: ['dawn'] });
    const before = server.asked.filter(({ name }) => name === 'history').length;
    screen.changed('asset', 1, server.revision + 1);
    await until('the history again', () => server.asked.filter(({ name }) => name === 'history').length > before);
  });
});

describe('fields by their groups', () => {
  const field = <E extends HTMLElement>(screen: Screen, id: string) => screen.one<E>(`#field-${id}`);

  it('are folded away and opened, say how many are filled in, and stay as they were left', async () => {
    const server = new LibraryServer([
      asset(1, { name: 'lock.mov', logged: { people: ['Ada Lock'], framing: 'wide', light: 'dusk' } }),
      asset(2, { name: 'boat.mov' }),
      asset(3, { name: 'bell.mov' }),
    ]);
    const { screen } = await open(server);
    await screen.click('nl-tile', 'lock.mov');
    expect(screen.all('#field-people')).toEqual([]);
    expect(screen.text('[data-group="shot"]')).toContain('2 said');
    await screen.click('[data-group="shot"]');
    await until('the choice', () => field<HTMLSelectElement>(screen, 'framing').value === 'wide');
    await screen.click('[data-group="who"]');
    expect(field<HTMLInputElement>(screen, 'people').value).toBe('Ada Lock');
    await screen.click('nl-tile', 'boat.mov');
    expect(field<HTMLInputElement>(screen, 'people').value).toBe('');
    await screen.click('[data-group="who"]');
    await screen.click('[data-group="shot"]');
    expect(screen.all('#field-people')).toEqual([]);
  });

  it('are kept open at the top, for every clip and after a reload', async () => {
    const { screen } = await open(
      new LibraryServer([asset(1, { name: 'lock.mov' }), asset(2, { name: 'boat.mov' }), asset(3)]),
    );
    const groups = () => screen.all('nl-details [data-group]').map((part) => part.dataset['group']);
    await screen.click('nl-tile', 'lock.mov');
    const before = groups();
    expect(before.at(-1)).not.toBe('who');
    await screen.click('[aria-label="Keep People and place open at the top"]');
    expect(groups()).toEqual(['who', ...before.filter((group) => group !== 'who')]);
    expect(screen.all('#field-people')).toHaveLength(1);
    await screen.click('nl-tile', 'boat.mov');
    expect(screen.all('#field-people')).toHaveLength(1);
    expect(JSON.parse(localStorage.getItem('neat-larder.settings') ?? '{}')).toMatchObject({ keptOpen: ['who'] });
    await screen.click('[aria-pressed="true"].pin');
    expect(groups()).toEqual(before);
    expect(screen.all('#field-people')).toEqual([]);
  });

  it('take names, numbers and choices, and say what they do not take', async () => {
    const { screen, server } = await open();
    await screen.click('nl-tile', 'lock.mov');
    await screen.click('[data-group="who"]');
    await screen.type('#field-people', 'Ada Lock,  Nan Weir');
    field(screen, 'people').blur();
    await until('the names', () => server.bodies('edit').length === 1);
    expect(server.bodies('edit')[0]).toMatchObject({ assetIds: [1], set: { people: ['Ada Lock', 'Nan Weir'] } });
    await until('it as it is kept', () => field<HTMLInputElement>(screen, 'people').value === 'Ada Lock, Nan Weir');
    await screen.type('#field-rating', 'nine');
    field(screen, 'rating').blur();
    await screen.says('nl-details [role="alert"]', 'Rating is a whole number from 1 to 5.');
    // What was refused of one clip is not shown as if another said it.
    await screen.click('nl-tile', 'Boat');
    expect(field<HTMLInputElement>(screen, 'rating').value).toBe('');
    expect(screen.all('nl-details [role="alert"]')).toEqual([]);
    await screen.click('nl-tile', 'lock.mov');
    await screen.type('#field-rating', '4');
    field(screen, 'rating').blur();
    await until('the rating', () => server.assets.get(1)?.logged.rating === 4);
    await screen.click('[data-group="shot"]');
    const light = field<HTMLSelectElement>(screen, 'light');
    light.value = 'dusk';
    light.dispatchEvent(new Event('change'));
    await until('the light', () => server.assets.get(1)?.logged.light === 'dusk');
    light.value = '';
    light.dispatchEvent(new Event('change'));
    await until('no light', () => server.assets.get(1)?.logged.light === undefined);
    await screen.click('[data-group="shot"]');
    await screen.click('[data-group="who"]');
  });

  it('of many say where they differ, and a choice made then holds for all', async () => {
    const server = new LibraryServer([
      asset(1, { name: 'lock.mov', logged: { light: 'day', people: ['Ada Lock'] } }),
      asset(2, { name: 'boat.mov', logged: { people: ['Ada Lock'] } }),
      asset(3, { name: 'bell.mov', logged: { people: ['Ada Lock'] } }),
    ]);
    const { screen } = await open(server);
    await screen.press('a', { ctrlKey: true });
    await screen.click('[data-group="shot"]');
    await screen.click('[data-group="who"]');
    const light = field<HTMLSelectElement>(screen, 'light');
    await until('the choice', () => light.selectedOptions[0]?.textContent === 'Different values');
    expect(field<HTMLInputElement>(screen, 'people').value).toBe('Ada Lock');
    light.value = 'night';
    light.dispatchEvent(new Event('change'));
    await until('night', () => [...server.assets.values()].every(({ logged }) => logged.light === 'night'));
    await screen.click('[data-group="shot"]');
    await screen.click('[data-group="who"]');
  });
});

describe('logging many', () => {
  it('shows what is shared and what differs, and changes all at once', async () => {
    const { screen, server } = await open();
    await screen.press('a', { ctrlKey: true });
    await screen.says('nl-details', '3 assets selected');
    expect(title(screen).placeholder).toBe('Different values');
    expect(screen.text('nl-details .slips')).toContain('dusk (some)');
    await screen.press('c');
    await screen.says('nl-toasts', 'Verdict Circled on 3 assets.');
    expect([...server.assets.values()].map(({ verdict }) => verdict)).toEqual(['circled', 'circled', 'circled']);
    await screen.click('nl-toasts button', 'Undo');
    await until('no verdicts', () => [...server.assets.values()].every(({ verdict }) => verdict === null));
  });

  it('leads to finding those that are lost among them', async () => {
    const server = clips();
    for (const [id, state] of [
      [1, 'missing'],
      [3, 'changed'],
    ] as const)
      server.assets.set(id, { ...(server.assets.get(id) as Asset), state });
    const { screen } = await open(server);
    await screen.press('a', { ctrlKey: true });
    await screen.says('nl-details', 'Find 2 missing originals');
    await screen.click('nl-details a', 'Find 2 missing originals');
    await until('the address', () => screen.address === '/upkeep?of=assets&assets=1,3');
  });

  it('a range by shift, and one more by control', async () => {
    const { screen } = await open();
    await screen.click('nl-tile', 'lock.mov');
    await screen.click('nl-tile', 'bell.wav', { shiftKey: true });
    await screen.says('[data-test="count"]', '3 selected');
    await screen.click('nl-tile', 'Boat', { ctrlKey: true });
    await screen.says('[data-test="count"]', '2 selected');
    await screen.press('Escape');
    expect(screen.text('[data-test="count"]')).not.toContain('selected');
    expect(screen.text('nl-details')).toContain('Nothing selected');
  });

  it('what was undone is done again, by its key and by the notice', async () => {
    const { screen, server } = await open();
    await screen.click('nl-tile', 'lock.mov');
    await screen.press('c');
    await screen.press('z', { ctrlKey: true });
    await screen.says('nl-toasts', 'Undone: Verdict Circled.');
    expect(server.assets.get(1)?.verdict).not.toBe('circled');
    await screen.press('Z', { ctrlKey: true, shiftKey: true });
    await screen.says('nl-toasts', 'Done again: Verdict Circled.');
    expect(server.assets.get(1)?.verdict).toBe('circled');
    await screen.press('z', { ctrlKey: true });
    await until('the undo', () => server.assets.get(1)?.verdict !== 'circled');
    await screen.click('nl-toasts button', 'Do it again');
    await until('the redo', () => server.assets.get(1)?.verdict === 'circled');
  });

  it('a change of another session is undone too, and said in words', async () => {
    const { screen, server } = await open();
    const undone = { revision: 9, group: 'g', changed: 3, of: 'of-last-week', assets: 3, atMs: Date.UTC(2026, 4, 3) };
    server.on('undo', () => ({ ...undone, action: 'edit', fields: ['title', 'tags'] }));
    await screen.press('z', { ctrlKey: true });
    await screen.says('nl-toasts', 'Undone: Title, Tags of 3 assets');
    server.on('undo', () => ({ ...undone, action: 'marker', fields: ['markers'] }));
    await screen.press('z', { ctrlKey: true });
    await screen.says('nl-toasts', 'Undone: markers of 3 assets');
  });

  it('an undo pressed before the answer means the edit that is on its way', async () => {
    const { screen, server } = await open();
    await screen.click('nl-tile', 'lock.mov');
    for (const [key, more] of [
      ['c', {}],
      ['h', {}],
      ['z', { ctrlKey: true }],
    ] as const)
      document.body.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, ...more }));
    await until('the undo', () => server.bodies('undo').length === 1);
    await until('the first verdict', () => server.assets.get(1)?.verdict === 'circled');
    expect(server.asked.map(({ name }) => name).filter((name) => name === 'edit' || name === 'undo')).toEqual([
      'edit',
      'edit',
      'undo',
    ]);
  });
});

describe('an XMP sidecar', () => {
  it('is taken along, and read into one asset; what is not taken is told', async () => {
    const { screen, server } = await open();
    await screen.click('nl-tile', 'lock.mov');
    await until('the link', () => screen.all('nl-sidecar a').length === 1);
    expect(screen.one<HTMLAnchorElement>('nl-sidecar a').getAttribute('href')).toBe('/files/1/sidecar.xmp');
    let issues: string[] = [];
    server.on('readSidecar', () => ({ revision: 8, group: 's', changed: 1, issues }));
    const choose = () => screen.chooseFile('nl-sidecar input', 'lock.xmp', '<packet/>');
    await choose();
    await screen.says('nl-toasts', 'lock.xmp read.');
    issues = ['Rating: too much.'];
    await choose();
    await screen.says('nl-toasts', 'not all of it. Rating: too much.');
    server.on('readSidecar', () => new Refusal(422, { code: 'refused', reason: 'That is no XMP sidecar.' }));
    await choose();
    await screen.says('nl-toasts', 'lock.xmp was not read. That is no XMP sidecar.');
    expect(server.bodies('readSidecar')).toEqual([1, 2, 3].map(() => ({ text: '<packet/>' })));
  });
});

describe('the poster frame', () => {
  it('is the one where the clip stands by a key, or chosen in other ways, for many too', async () => {
    const { screen, server } = await open();
    server.on('posters', ({ assetIds }) => ({ revision: 7, group: 'p', changed: assetIds.length }));
    await screen.click('nl-tile', 'lock.mov');
    await until('the player', () => screen.all('nl-player').length === 1);
    await screen.press('P', { shiftKey: true });
    await until('the first', () => server.bodies('posters').length === 1);
    await screen.click('nl-tile', 'Boat', { ctrlKey: true });
    await screen.click('nl-poster-menu [ngbdropdowntoggle]');
    expect(screen.all('[data-way]').map((each) => each.dataset['way'])).toEqual([
      'not-black',
      'start',
      'middle',
      'percent',
      'library',
    ]);
    await screen.click('[data-way="not-black"]');
    await until('the second', () => server.bodies('posters').length === 2);
    await screen.click('nl-poster-menu [ngbdropdowntoggle]');
    screen.one<HTMLInputElement>('#poster-percent').value = '75';
    screen.one('form.percent').dispatchEvent(new Event('submit', { cancelable: true }));
    await until('the third', () => server.bodies('posters').length === 3);
    expect(server.bodies('posters')).toEqual([
      { assetIds: [1], way: 'frame', frame: 0, percent: 0 },
      { assetIds: [1, 2], way: 'not-black', frame: 0, percent: 0 },
      { assetIds: [1, 2], way: 'percent', frame: 0, percent: 75 },
    ]);
    await screen.says('nl-toasts', 'the first that is not black on 2 assets');
  });
});

describe('tags', () => {
  it('are added by Enter and by a comma, and taken off by their cross', async () => {
    const { screen, server } = await open();
    await screen.click('nl-tile', 'Boat');
    const field = await screen.type('#field-tag', 'lock gate');
    field.dispatchEvent(new KeyboardEvent('keydown', { key: ',', bubbles: true, cancelable: true }));
    await until('the tag', () => server.assets.get(2)?.tags.includes('lock gate'));
    expect(field.value).toBe('');
    await screen.click('[aria-label="Remove tag dusk"]');
    await until('one tag', () => server.assets.get(2)?.tags.join() === 'lock gate');
  });

  it('in use are offered while typing, those that begin so first, but not those that it has', async () => {
    const { screen } = await open();
    await screen.click('nl-tile', 'Boat');
    await screen.type('#field-tag', 'D');
    await screen.says('ngb-typeahead-window', 'dawn');
    expect(screen.all('ngb-typeahead-window button').map((each) => each.textContent?.trim())).toEqual([
      'dawn',
      'indawnable',
    ]);
  });

  it('that are none are refused in words', async () => {
    const { screen, server } = await open();
    await screen.click('nl-tile', 'Boat');
    const field = await screen.type('#field-tag', 'y'.repeat(200));
    field.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true, cancelable: true }));
    await screen.says('nl-tag-field [role="alert"]', 'at most');
    expect(server.bodies('edit')).toEqual([]);
  });
});

describe('a viewer', () => {
  it('looks at everything and is offered nothing that changes it', async () => {
    const { screen, server } = await open(clips(), 'viewer');
    await screen.click('nl-tile', 'Boat');
    expect(title(screen).disabled).toBe(true);
    expect(screen.one<HTMLButtonElement>('.verdicts button', 'Circled').disabled).toBe(true);
    await screen.press('c');
    expect(server.bodies('edit')).toEqual([]);
  });
});

describe('fields of one said of others', () => {
  it('are copied, chosen from, pasted in one edit, and taken back together', async () => {
    const { screen, server } = await open();
    server.assets.set(1, {
      ...(server.assets.get(1) as Asset),
      ...{ title: 'Gate', scene: '12', tags: ['dawn'], logged: { people: ['Ada Lock'], rating: 4 } },
    });
    screen.changed('asset', 1, ++server.revision);
    await screen.click('nl-tile', 'Gate');
    await screen.click('nl-details button', 'Copy fields');
    await screen.says('nl-toasts', 'Fields of “Gate” copied.');
    await screen.click('nl-tile[data-id="2"]');
    await screen.press('V', { shiftKey: true });
    await screen.says('.modal-title, #paste-title', 'Say of 1 asset what “Gate” says');
    await screen.says('.modal-body', 'Ada Lock');
    for (const id of ['people', 'tag', 'scene', 'title', 'title']) await screen.click(`[data-field=${id}]`);
    await screen.click('.modal-footer button', 'Paste');
    await until('the fields', () => server.assets.get(2)?.scene === '12');
    expect(server.assets.get(2)).toMatchObject({ logged: { people: ['Ada Lock'] } });
    expect(server.assets.get(2)?.tags).toContain('dawn');
    expect(server.assets.get(2)?.title).not.toBe('Gate');
    expect(server.assets.get(2)?.logged).not.toHaveProperty('rating');
  });
});

describe('something done to a field of many', () => {
  it('is shown before it is done, refused where a field would not take it, and done in the order of the list', async () => {
    const { screen, server } = await open();
    server
      .on('previewOperation', ({ operation }) => ({
        changed: operation.op === 'prefix' ? 2 : 0,
        rows: [{ assetId: 1, name: 'lock.mov', before: null, after: 'Day 2' }],
        wrong: operation.op === 'suffix' ? [{ assetId: 1, name: 'lock.mov', message: 'Too long.' }] : [],
      }))
      .on('operate', ({ assetIds }) => ({ revision: ++server.revision, group: 'g', changed: assetIds.length }));
    const tiles = screen.all('nl-tile').map((tile) => Number(tile.dataset['id']));
    await screen.click('nl-tile');
    await screen.click(`nl-tile[data-id="${tiles[1] ?? 0}"]`, '', { shiftKey: true });
    await screen.click('nl-details button', 'Find, replace or number');
    await screen.says('[data-test=preview]', 'What is to be found?');
    await screen.type('#op-text', 'x');
    await screen.says('[data-test=preview]', 'Nothing would change.');
    const kind = (label: string) =>
      screen.choose('#op-kind', screen.one<HTMLOptionElement>('#op-kind option', label).value);
    await kind('Put text after');
    await screen.says('[role=alert]', 'lock.mov: Too long.');
    await kind('Put text before');
    await screen.says('[data-test=preview]', '2 assets would change.');
    await screen.says('[data-test=preview]', 'Day 2');
    await screen.click('.modal-footer button', 'Change them');
    await screen.says('nl-toasts', 'Title changed on 2 assets.');
    expect(server.bodies('operate')).toMatchObject([
      { assetIds: tiles.slice(0, 2), field: 'title', operation: { op: 'prefix', text: 'x' } },
    ]);
  });
});
