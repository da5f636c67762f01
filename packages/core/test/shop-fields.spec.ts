import fc from 'fast-check';
import {
  BUILT_IN,
  FieldRegistry,
  FIELDS,
  newKey,
  SHOP_FIELD_TYPES,
  SHOP_TYPE_LABELS,
  shopFieldSchema,
  typedValue,
  valueText,
  type Field,
  type FieldChanges,
  type NewShopField,
  type SetValue,
  type ShopField,
  type ShopFieldType,
} from '@larder/core/fields';
import {
  criteriaOf,
  EVERYTHING,
  loadQuery,
  parseQuery,
  printQuery,
  saveQuery,
  treeOfCriteria,
} from '@larder/core/query';
import { LibraryIndex } from '@larder/core/search';
import { writePosition } from '@larder/core/position';

const field = (key: string, type: ShopFieldType, more: Partial<ShopField> = {}): ShopField => ({
  key,
  label: key[0]?.toUpperCase() + key.slice(1),
  type,
  group: 'rights',
  help: '',
  choices: type === 'choice' || type === 'choices' ? ['not asked', 'asked', 'signed'] : [],
  range: null,
  unit: '',
  plain: false,
  retired: false,
  standard: '',
  ...more,
});

/** One of each type. */
const registry = new FieldRegistry([
  field('permit', 'text', { plain: true }),
  field('story', 'longText'),
  field('depth', 'number', { range: [-20, 100], unit: 'm' }),
  field('cleared', 'dateMs'),
  field('drone', 'yesNo'),
  field('release', 'choice'),
  field('formats', 'choices'),
  field('crew', 'names'),
  field('anchorage', 'position'),
  field('sync', 'timecode'),
  field('link', 'url', { retired: true }),
]);

const wrong = (change: object): string | null => {
  try {
    registry.changes.validateSync(change, { strict: true });
    return null;
  } catch (error) {
    return (error as Error).message;
  }
};

describe('fields of the shop', () => {
  it('stand beside those built in, found by key and by id, and known by name', () => {
    expect(registry.all).toHaveLength(FIELDS.length + SHOP_FIELD_TYPES.length);
    expect(registry.named('Permit')?.id).toBe('shop_permit');
    expect(registry.byId('shop_permit')?.label).toBe('Permit');
    expect(registry.nameOf('shop_permit')).toBe('permit');
    expect(registry.nameOf('title')).toBe('title');
    expect(registry.labelOf('shop_gone')).toBe('shop_gone');
    expect(registry.plain).toEqual([...BUILT_IN.plain, 'shop_permit']);
    expect(registry.byId('shop_link')?.retired).toBe(true);
    expect(Object.keys(SHOP_TYPE_LABELS)).toEqual([...SHOP_FIELD_TYPES]);
  });
  it('never take a name from a field that is built in', () => {
    const clash = new FieldRegistry([field('title', 'text'), field('who', 'text')]);
    expect(clash.named('title')?.id).toBe('title');
    expect(clash.named('shop_title')?.id).toBe('shop_title');
    expect(clash.nameOf('shop_who')).toBe('shop_who');
    expect(newKey('Title', [])).toBe('title2');
    expect(newKey('Has', [])).toBe('has2');
    expect(newKey('Drehort / Größe', ['drehortgrosse'])).toBe('drehortgrosse2');
    expect(newKey('…', [])).toBe('field');
  });
  it('have groups of their own between those that are logged and those from the file', () => {
    const own = new FieldRegistry([
      field('a', 'text', { group: 'Clearance' }),
      field('b', 'text', { group: 'Clearance' }),
    ]);
    const labels = own.groups.map(({ label }) => label);
    expect(labels.filter((label) => label === 'Clearance')).toHaveLength(1);
    expect(labels.indexOf('Clearance')).toBeGreaterThan(labels.indexOf('Rights and source'));
    expect(labels.indexOf('Clearance')).toBeLessThan(labels.indexOf('Picture'));
  });

  it.each<[FieldChanges, string]>([
    [{ shop_depth: -21 }, 'Depth is a number from -20 to 100, with three decimals at most.'],
    [{ shop_depth: 0.0001 }, 'Depth is a number from -20 to 100, with three decimals at most.'],
    [{ shop_depth: 'deep' }, 'Depth is a number from -20 to 100, with three decimals at most.'],
    [{ shop_cleared: 'soon' }, 'Cleared is a day such as 2026-05-12.'],
    [{ shop_cleared: 5 }, 'Cleared is a day such as 2026-05-12.'],
    [{ shop_drone: 'perhaps' }, 'Drone is one of: yes, no.'],
    [{ shop_release: 'lost' }, 'Release is one of: not asked, asked, signed.'],
    [{ shop_formats: ['lost'] }, 'Formats takes of: not asked, asked, signed.'],
    [
      { shop_anchorage: 'upstream' },
      'Anchorage is a place in degrees such as 50.4120, -3.5180 or 50°24′43″N 3°31′05″W.',
    ],
    [{ shop_sync: '1:2:3' }, 'Sync is a timecode such as 10:04:00:00.'],
    [{ shop_link: 'javascript:alert(1)' }, 'Link is a web address such as https://example.org/page.'],
    [{ shop_permit: 'x'.repeat(101) }, 'Permit has at most 100 characters.'],
    [{ shop_nothing: 'x' }, 'There is no such field to change.'],
  ])('%j is refused in words', (change, words) => expect(wrong(change)).toBe(words));

  const said: Record<string, fc.Arbitrary<SetValue>> = {
    text: fc.stringMatching(/^[a-z]{1,20}$/),
    longText: fc.stringMatching(/^[a-z]{1,9}\n[a-z]{1,9}$/),
    number: fc.integer({ min: -20_000, max: 100_000 }).map((n) => n / 1000),
    dateMs: fc.integer({ min: -30_000, max: 60_000 }).map((days) => days * 86_400_000),
    yesNo: fc.constantFrom('yes', 'no'),
    choice: fc.constantFrom('not asked', 'asked', 'signed'),
    choices: fc.subarray(['not asked', 'asked', 'signed'], { minLength: 1 }),
    names: fc.array(fc.stringMatching(/^[A-Z][a-z]{1,9}$/), { minLength: 1, maxLength: 4 }),
    position: fc
      .tuple(fc.integer({ min: -900_000, max: 900_000 }), fc.integer({ min: -1_799_999, max: 1_799_999 }))
      .map(([latitude, longitude]) => writePosition({ latitude: latitude / 1e4, longitude: longitude / 1e4 })),
    timecode: fc.constantFrom('10:04:00:00', '00:59:59;29', '23:00:00:047'),
    url: fc.webUrl().filter((url) => !url.includes(',')),
  };
  it('of every type are typed, allowed and read back as the same', () => {
    for (const each of registry.settable.filter(({ id }) => id.startsWith('shop_')))
      fc.assert(
        fc.property(said[each.type] as fc.Arbitrary<SetValue>, (value) => {
          const again = typedValue(each, valueText(value, each.type));
          expect([each.id, again]).toEqual([each.id, value]);
          expect([each.id, wrong({ [each.id]: again })]).toEqual([each.id, null]);
        }),
        { numRuns: 60 },
      );
  });
  it('what is no day of the calendar stays as it was typed', () => {
    for (const text of ['2026-02-30', '2026-13-01', '12.5.2026', 'May'])
      expect(typedValue({ type: 'dateMs' }, text)).toBe(text);
  });

  it('are searched by name, printed by name, and kept by id', () => {
    for (const text of [
      'permit:lock',
      'depth:2.5',
      'depth<-3',
      'depth:2..2.5',
      'cleared:2026-05',
      'has:drone',
      'release:"not asked"',
      'anchorage:50.412,-3.518,2km',
    ]) {
      const { tree, issues } = parseQuery(text, registry);
      expect([text, issues]).toEqual([text, []]);
      const printed = printQuery(tree, registry);
      expect([text, parseQuery(printed, registry).tree]).toEqual([text, tree]);
      expect(loadQuery(JSON.parse(JSON.stringify(saveQuery(tree))), registry)).toEqual(tree);
      expect(() => loadQuery(saveQuery(tree))).toThrow('a field that is gone');
    }
    expect(printQuery(parseQuery('permit:lock', registry).tree, registry)).toBe('permit:lock');
    expect(parseQuery('permit:lock').issues).toMatchObject([{ code: 'unknown-field', name: 'permit' }]);
    expect(parseQuery('premit:x', registry).issues).toMatchObject([{ nearest: 'permit' }]);
    expect(parseQuery('depth:deep', registry).issues).toMatchObject([{ expected: 'a number such as 12 or 2.5' }]);
    expect(parseQuery('release:lost', registry).issues).toMatchObject([{ code: 'bad-value' }]);
  });

  it('that are places are found by their distance, each by its own', () => {
    const index = new LibraryIndex(registry);
    index.upsert([
      { id: 1, values: { position: '50.4120, -3.5180', shop_anchorage: '51.0000, -3.0000' } },
      { id: 2, values: { shop_anchorage: '50.4120, -3.5180' } },
      { id: 3, values: {} },
    ]);
    const count = (text: string) => index.count(parseQuery(text, registry).tree);
    expect(count('near:50.412,-3.518,2km')).toBe(1);
    expect(count('anchorage:50.412,-3.518,2km')).toBe(1);
    expect(count('near:50.412,-3.518,2km anchorage:51,-3,2km')).toBe(1);
    expect(count('has:anchorage')).toBe(2);
    // The map is of where things were recorded.
    expect(index.map({ tree: EVERYTHING, box: null, columns: 4 }).placed).toBe(1);
  });

  it('are found and sorted by the index, which learns of them while it runs', () => {
    const index = new LibraryIndex();
    index.setFields(registry);
    const day = Date.UTC(2026, 4, 12);
    index.upsert([
      { id: 1, values: { shop_permit: 'Lock side', shop_depth: 2.5, shop_formats: ['asked', 'not asked'] } },
      { id: 2, values: { shop_permit: 'Weir', shop_depth: -1, shop_cleared: day, shop_release: 'asked' } },
      { id: 3, values: { title: 'Lock', shop_depth: 10, shop_release: 'not asked' } },
    ]);
    const find = (text: string) =>
      index.search({
        tree: parseQuery(text, registry).tree,
        sort: { field: 'shop_depth', descending: false },
        offset: 0,
        limit: 9,
      }).ids;
    expect(find('')).toEqual([2, 1, 3]);
    expect(find('lock')).toEqual([1, 3]);
    expect(find('depth:2.5')).toEqual([1]);
    expect(find('depth<2.5')).toEqual([2]);
    expect(find('depth:2.4..10')).toEqual([1, 3]);
    expect(find('cleared:2026-05')).toEqual([2]);
    expect(find('no:cleared')).toEqual([1, 3]);
    // One of a list, and each of several, is meant as a whole.
    expect(find('release:asked')).toEqual([2]);
    expect(find('formats:asked')).toEqual([1]);
    // What the list has lost is still counted and found by what is offered for it.
    const shorter = new FieldRegistry([field('release', 'choice', { choices: ['asked'] })]);
    index.setFields(shorter);
    const [offered] = index.facets({ tree: EVERYTHING, fields: ['shop_release'], limit: 9 });
    const said = offered?.groups.map(({ label, test }) => {
      const text = test ? printQuery({ kind: 'field', field: 'shop_release', test }, shorter) : '';
      const read = parseQuery(text, shorter);
      const row = criteriaOf(read.tree, shorter);
      expect(treeOfCriteria(row, shorter)).toEqual(read.tree);
      return [label, text, index.count(read.tree), read.issues.length];
    });
    expect(said).toEqual([
      ['asked', 'release:asked', 1, 0],
      ['not asked', 'release="not asked"', 1, 0],
      ['', 'no:release', 1, 0],
    ]);
    expect(parseQuery('release:"not asked"', shorter).issues).toMatchObject([{ code: 'bad-value' }]);
    index.setFields(new FieldRegistry([field('permit', 'text')]));
    expect(find('lock')).toEqual([3]);
  });

  const whole: NewShopField = {
    ...{ label: 'Release', type: 'choice', group: 'rights', help: '', choices: ['asked'], range: null },
    ...{ unit: '', plain: true, retired: false, standard: '' },
  };
  it.each<[Partial<NewShopField>, string]>([
    [{ label: '' }, 'The field needs a name.'],
    [{ label: '42' }, 'The name needs a letter: searches write the field by it.'],
    [{ choices: [] }, 'A list needs at least one choice.'],
    [{ choices: ['Asked', 'asked '] }, 'Two choices are the same but for case or accents.'],
    [{ choices: ['a, b'] }, 'A choice has no comma: lists are typed with commas.'],
    [{ type: 'tags' as never }, 'That is no type of field.'],
    [{ range: [3, 2] }, 'The least is not more than the most.'],
    [{ group: ' ' }, 'The field needs a group.'],
    [{ standard: 'dc contributor' }, 'A property is written as dc:contributor.'],
  ])('a definition with %j is refused: %s', (change, words) => {
    expect(() => shopFieldSchema.validateSync({ ...whole, ...change })).toThrow(words);
    expect(shopFieldSchema.validateSync(whole)).toEqual(whole);
  });

  it('that are lists say so in the same way as those built in', () => {
    const choices = (id: string): Field['choices'] => registry.byId(id)?.choices;
    expect(choices('shop_drone')).toEqual(['yes', 'no']);
    expect(choices('shop_release')).toEqual(['not asked', 'asked', 'signed']);
    expect(choices('shop_permit')).toBeUndefined();
  });
});
