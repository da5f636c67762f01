import { FieldRegistry, type NewShopField, type PlainChoice } from '@larder/core/fields';
import type { Marking } from '@larder/core/markings';
import type { TagChange } from '@larder/core/tags';
import type { ShopFieldRow, Tag } from '@larder/contract';
import { asset } from '../../../test/assets';
import { LibraryServer } from '../../../test/library';
import { Refusal, Screen, until } from '../../../test/screen';

/** A library with fields of its own. */
class WordsServer extends LibraryServer {
  own: ShopFieldRow[] = [];
  plain: PlainChoice = {};

  constructor() {
    super([asset(1), asset(2)]);
    this.on('fields', () => ({ fields: this.own, plain: this.plain }));
    this.on('newField', (field) => {
      this.put([...this.own, { ...rowOf(field), id: this.own.length + 1 }]);
      return { id: this.own.length };
    });
    this.on('changeField', (field, id) => {
      if (field.label === 'Taken') return new Refusal(422, { code: 'refused', reason: 'Not so.' });
      this.put(this.own.map((each) => (each.id === id ? { ...rowOf(field), key: each.key, id } : each)));
      return { id };
    });
    this.on('orderFields', ({ ids }) => {
      this.put(ids.flatMap((id) => this.own.find((each) => each.id === id) ?? []));
      return null;
    });
  }

  put(own: ShopFieldRow[]): void {
    this.own = own;
    this.fields = new FieldRegistry(own);
  }
}

const rowOf = (field: NewShopField): ShopFieldRow => ({
  ...field,
  range: field.range ? [field.range[0] ?? 0, field.range[1] ?? 0] : null,
  key: field.label.toLowerCase(),
  id: 0,
});

const definition = (label: string, more: Partial<NewShopField> = {}): NewShopField => ({
  ...{ label, type: 'text', group: 'logged', help: 'Who said so.', choices: [], range: null },
  ...{ unit: '', plain: true, retired: false, standard: '' },
  ...more,
});

let server: WordsServer;
beforeEach(() => {
  sessionStorage.clear();
  localStorage.clear();
  server = new WordsServer();
});

describe('fields of the shop', () => {
  it('are defined in a sheet that says what is wrong, and then stand in the list', async () => {
    const screen = await Screen.open('/words', server);
    await screen.says('nl-shop-fields', 'None yet');
    await screen.click('nl-shop-fields button', 'Add a field');
    await until('the sheet', () => screen.all('#sf-label').length > 0);
    await screen.choose('#sf-type', screen.one<HTMLOptionElement>('#sf-type option', 'One of a list').value);
    await screen.click('.modal-footer button', 'Add the field');
    await screen.says('[role=alert]', 'The field needs a name.');
    await screen.says('[role=alert]', 'A list needs at least one choice.');
    await screen.type('#sf-label', 'Release');
    await screen.says('.form-text', 'release:');
    await screen.type('#sf-choices', 'asked\nsigned');
    await screen.click('.modal-footer button', 'Add the field');
    await screen.says('nl-shop-fields', 'asked, signed.');
    expect(server.own).toMatchObject([{ label: 'Release', type: 'choice', choices: ['asked', 'signed'] }]);
  });

  it('are put in order, changed and retired; what is refused is said', async () => {
    server.put([
      { ...rowOf(definition('Permit')), id: 1 },
      { ...rowOf(definition('Depth', { type: 'number', unit: 'm', range: [0, 9] })), id: 2 },
    ]);
    const screen = await Screen.open('/words', server);
    await screen.says('nl-shop-fields', 'Number, in m, among');
    await screen.click('[data-field=permit] [aria-label="Permit one later"]');
    await until('the order', () => server.own[0]?.key === 'depth');
    await screen.click('[data-field=depth] button', 'Retire');
    await screen.says('[data-field=depth]', 'retired');
    expect(server.own[0]).toMatchObject({ retired: true, range: [0, 9], unit: 'm' });
    await screen.click('[data-field=depth] button', 'Take back');
    await until('the field back', () => server.own[0]?.retired === false);
    await screen.click('[data-field=permit] button', 'Change');
    await until('the sheet', () => screen.one<HTMLInputElement>('#sf-label').value === 'Permit');
    await screen.type('#sf-label', 'Taken');
    await screen.click('.modal-footer button', 'Keep it so');
    await screen.says('nl-toasts', 'Not so.');
  });

  it('are filled in beside the others and understood by the search line', async () => {
    server.put([
      { ...rowOf(definition('Drone', { type: 'yesNo' })), id: 1 },
      { ...rowOf(definition('Formats', { type: 'choices', choices: ['wide', 'tall'] })), id: 2 },
      { ...rowOf(definition('Cleared', { type: 'dateMs' })), id: 3 },
      { ...rowOf(definition('Link', { type: 'url' })), id: 4 },
      { ...rowOf(definition('Old', { retired: true })), id: 5 },
    ]);
    const screen = await Screen.open('/library?q=drone:yes', server);
    await until('the question', () => server.bodies('search').some(({ query }) => query === 'drone:yes'));
    await screen.type('#search-line', '');
    await screen.click('nl-tile');
    await until('the fields', () => screen.all('#field-shop_drone').length > 0);
    expect(screen.all('#field-shop_old')).toHaveLength(0);
    await screen.choose('#field-shop_drone', 'yes');
    await screen.click('#field-shop_formats button', 'tall');
    await screen.click('#field-shop_formats button', 'wide');
    const day = await screen.type('#field-shop_cleared', '2026-05-12');
    day.blur();
    const link = await screen.type('#field-shop_link', 'https://example.org/a');
    link.blur();
    await until('all of it', () => {
      const said = [...server.assets.values()].flatMap(({ logged }) => Object.keys(logged));
      return said.length === 4;
    });
    const [logged] = [...server.assets.values()].filter(({ logged }) => logged.shop_drone);
    expect(logged?.logged).toEqual({
      shop_drone: 'yes',
      shop_formats: ['wide', 'tall'],
      shop_cleared: Date.UTC(2026, 4, 12),
      shop_link: 'https://example.org/a',
    });
    await until(
      'the way there',
      () => screen.all<HTMLAnchorElement>('nl-field a[href="https://example.org/a"]').length === 1,
    );
  });
});

describe('where plain words look', () => {
  it('is chosen by whoever keeps the library, and put back as it was', async () => {
    server.on('plainFields', ({ ids }) => {
      server.plain = { notes: ids.includes('notes'), reel: ids.includes('reel') };
      return null;
    });
    const screen = await Screen.open('/words', server);
    const box = (field: string) => `nl-plain-fields [data-plain="${field}"]`;
    const isOn = (field: string) => screen.all<HTMLInputElement>(box(field)).at(0)?.checked;
    await until('the fields', () => isOn('notes') === true);
    expect(screen.all(box('duration'))).toEqual([]);
    expect(screen.all('nl-plain-fields .btn')).toEqual([]);
    await screen.click(box('notes'));
    await until('no notes', () => isOn('notes') === false);
    expect(server.bodies('plainFields').at(-1)?.ids).toEqual(new FieldRegistry().plain.filter((id) => id !== 'notes'));
    await screen.click('nl-plain-fields button', 'As it was at first');
    await until('notes', () => isOn('notes') === true);
  });

  it('says why it was refused', async () => {
    server.on('plainFields', () => new Refusal(422, { code: 'refused', reason: 'Choose one at least.' }));
    const screen = await Screen.open('/words', server);
    await until('the fields', () => screen.all('nl-plain-fields [data-plain="notes"]').length === 1);
    await screen.click('nl-plain-fields [data-plain="notes"]');
    await screen.says('body', 'Choose one at least.');
  });
});

const tag = (id: number, name: string, setId: number | null, uses: number): Tag => ({
  ...{ id, name, setId, uses, letter: '', description: '', synonyms: [] },
});

describe('markings', () => {
  let markings: Marking[];
  beforeEach(() => {
    markings = [
      { id: 1, name: 'Urgent', colour: 'red', rule: '' },
      { id: 2, name: 'Seen', colour: 'blue', rule: 'name:clip2' },
    ];
    const put = (next: Marking[]) => {
      markings = next;
      server.fields = new FieldRegistry(
        [],
        markings.map(({ name }) => name),
      );
    };
    put(markings);
    server
      .on('markings', () => ({ markings }))
      .on('newMarking', (marking) => {
        if (markings.some(({ name }) => name === marking.name))
          return new Refusal(422, { code: 'refused', reason: 'There is one already.' });
        put([...markings, { ...marking, id: markings.length + 1 }]);
        return { id: markings.length };
      })
      .on('changeMarking', (marking, id) => {
        put(markings.map((each) => (each.id === id ? { ...marking, id } : each)));
        return { id };
      })
      .on('removeMarking', (_body, id) => {
        put(markings.filter((each) => each.id !== id));
        return null;
      })
      .on('orderMarkings', ({ ids }) => {
        put(ids.flatMap((id) => markings.find((each) => each.id === id) ?? []));
        return null;
      });
  });

  it('are made with a rule that can be read, changed, put in order and taken away', async () => {
    const screen = await Screen.open('/words', server);
    await screen.says('nl-marking-list', 'only by hand');
    await screen.click('nl-marking-list button', 'Add a marking');
    await until('the sheet', () => screen.all('#marking-name').length > 0);
    await screen.type('#marking-rule', 'tag:(');
    await until('what is wrong', () => screen.all('.modal-body [role=alert]').length > 0);
    expect(screen.one<HTMLButtonElement>('.modal-footer button[type=submit]').disabled).toBe(true);
    await screen.type('#marking-rule', 'tag:archive');
    await screen.click('.modal-footer button', 'Keep it so');
    await screen.says('.modal-body [role=alert]', 'The marking needs a name.');
    await screen.type('#marking-name', 'Urgent');
    await screen.click('.modal-footer button', 'Keep it so');
    await screen.says('nl-toasts', 'There is one already.');
    await screen.click('[data-marking=Seen] button', 'Change');
    await until('the sheet', () => screen.one<HTMLInputElement>('#marking-name').value === 'Seen');
    await screen.choose('#marking-colour', screen.one<HTMLOptionElement>('#marking-colour option', 'green').value);
    await screen.click('.modal-footer button', 'Keep it so');
    await until('the colour', () => markings[1]?.colour === 'green');
    await screen.click('[aria-label="Seen one earlier"]');
    await until('the order', () => markings[0]?.name === 'Seen');
    await screen.click('[data-marking=Urgent] button', 'Remove');
    await until('it gone', () => markings.length === 1);
  });

  it('are shown on clips by their rules and by hand, which comes first', async () => {
    const screen = await Screen.open('/library', server);
    await screen.says('nl-tile[data-id="2"] nl-marked', 'Seen');
    expect(screen.text('nl-tile[data-id="1"] nl-marked')).toBe('');
    await screen.click('nl-tile[data-id="2"]');
    await until('the field', () => screen.all('#field-marking').length > 0);
    await screen.choose('#field-marking', 'Urgent');
    await screen.says('nl-tile[data-id="2"] nl-marked', 'Urgent');
    expect(screen.one('nl-tile[data-id="2"] nl-marked .mark').dataset['colour']).toBe('red');
    await screen.says('nl-details .title nl-marked', 'Urgent');
  });
});

describe('sets of tags', () => {
  const done = { revision: 2, group: 'g', changed: 3 };
  const sets = [
    { id: 1, name: 'Light', description: 'What the sun does', letter: '', pattern: 'dots' as const },
    { id: 2, name: 'Place', description: '', letter: '', pattern: 'plain' as const },
  ];
  const tags = [tag(1, 'dawn', 1, 4), tag(2, 'dusk', 1, 0), tag(3, 'lock', 2, 7), tag(4, 'locks', null, 2)];
  let changed: [number, TagChange][];
  const open = async (role: 'manager' | 'editor' = 'manager') => {
    changed = [];
    server
      .on('tags', () => ({ freeTags: true, sets, tags }))
      .on('changeTag', (change, id) => {
        changed.push([id, change]);
        return { id };
      })
      .on('mergeTag', () => done)
      .on('splitTag', () => done)
      .on('newTag', () => ({ id: 9 }))
      .on('newTagSet', () => ({ id: 9 }))
      .on('changeTagSet', (_set, id) => ({ id }))
      .on('orderTags', () => null)
      .on('orderTagSets', () => null)
      .on('removeTagSet', () => null)
      .on('freeTags', () => null);
    const screen = await Screen.open('/words', server, role);
    await screen.says('nl-tag-sets', 'What the sun does');
    return screen;
  };
  const ids = (name: 'mergeTag' | 'splitTag' | 'changeTagSet' | 'removeTagSet') =>
    server.asked.filter((each) => each.name === name).map(({ id, body }) => [id, body]);

  it('a tag is renamed, given a key, other words and another set', async () => {
    const screen = await open();
    await screen.click('[data-tag=dawn]');
    await screen.click('[data-test=tag-tools] button', 'Change or rename');
    await screen.type('#tag-name', 'a, b');
    await screen.click('.modal-footer button', 'Keep it so');
    await screen.says('[role=alert]', 'without commas');
    await screen.type('#tag-name', 'first light');
    await screen.choose('#tag-letter', 'q');
    await screen.type('#tag-synonyms', 'sunrise, early');
    await screen.click('.modal-footer button', 'Keep it so');
    await until('the change', () => changed.length === 1);
    expect(changed).toEqual([
      [1, { name: 'first light', setId: 1, letter: 'q', description: '', synonyms: ['sunrise', 'early'] }],
    ]);
  });
  it('doubles are pointed out and made one; a tag is merged into any other, or split', async () => {
    const screen = await open();
    await screen.says('[data-test=doubles]', 'Make both “lock”');
    await screen.click('[data-test=doubles] button', 'Make both “lock”');
    await screen.says('nl-toasts', '“locks” is “lock” now on 2 assets');
    await screen.click('[data-tag=dawn]');
    await screen.choose('#merge-into', 'dusk');
    await screen.click('[data-test=tag-tools] button', 'Merge');
    await until('the second', () => ids('mergeTag').length === 2);
    expect(ids('mergeTag')).toEqual([
      [4, { into: 3 }],
      [1, { into: 2 }],
    ]);
    await screen.click('[data-test=tag-tools] button', 'Split');
    await screen.click('.modal-footer button', 'Split it');
    await screen.says('[role=alert]', 'Name at least one new tag.');
    await screen.type('#split-names', 'early, cold');
    await screen.type('#split-query', 'tag:');
    await screen.click('.modal-footer button', 'Split it');
    await until('what is wrong', () => screen.text('.modal-body [role=alert]').length > 0);
    await screen.type('#split-query', 'place:weir');
    await screen.click('.modal-footer button', 'Split it');
    await until('the split', () => ids('splitTag').length === 1);
    expect(ids('splitTag')).toEqual([[1, { names: ['early', 'cold'], query: 'place:weir' }]]);
  });
  it('are made, changed, ordered and taken away, and free tags forbidden', async () => {
    const screen = await open();
    await screen.click('nl-tag-sets button', 'Add a set');
    await screen.click('.modal-footer button', 'Keep it so');
    await screen.says('[role=alert]', 'The set needs a name.');
    await screen.type('#set-name', 'Weather');
    await screen.choose('#set-pattern', 'grid');
    await screen.click('.modal-footer button', 'Keep it so');
    await screen.says('nl-toasts', 'The set “Weather” is there.');
    expect(server.bodies('newTagSet')).toMatchObject([{ name: 'Weather', pattern: 'grid' }]);
    await screen.click('[data-set=Light] button', 'Add a tag');
    await screen.type('#name-field', 'noon');
    await screen.click('.modal-footer button', 'Add it');
    await until('the tag', () => server.bodies('newTag').length === 1);
    expect(server.bodies('newTag')).toMatchObject([{ name: 'noon', setId: 1 }]);
    await screen.click('[data-set=Place] [aria-label="Place one earlier"]');
    await until('the order', () => server.bodies('orderTagSets').length === 1);
    expect(server.bodies('orderTagSets')).toEqual([{ ids: [2, 1] }]);
    await screen.click('[data-tag=dawn]');
    await screen.click('[data-test=tag-tools] button', 'Later');
    await until('the order', () => server.bodies('orderTags').length === 1);
    expect(server.bodies('orderTags')).toEqual([{ ids: [2, 1] }]);
    await screen.click('[data-set=Light] button', 'Change');
    await until('the sheet', () => screen.one<HTMLInputElement>('#set-name').value === 'Light');
    await screen.choose('#set-letter', 'z');
    await screen.click('.modal-footer button', 'Keep it so');
    await until('the letter', () => ids('changeTagSet').length === 1);
    expect(ids('changeTagSet')).toMatchObject([[1, { name: 'Light', letter: 'z', pattern: 'dots' }]]);
    await screen.click('[data-set=Place] button', 'Remove the set');
    await screen.says('nl-toasts', 'its tags are free ones now');
    screen.one<HTMLInputElement>('[data-test=free-tags]').click();
    await screen.says('nl-toasts', 'Only tags of sets');
    expect(server.bodies('freeTags')).toEqual([{ allowed: false }]);
  });
  it('are only looked at by who may not keep them', async () => {
    const screen = await open('editor');
    await screen.click('[data-tag=dawn]');
    await screen.says('[data-test=tag-tools]', 'dawn, on 4 assets');
    expect(screen.all('nl-tag-sets button:not(.word)')).toHaveLength(0);
  });
});
