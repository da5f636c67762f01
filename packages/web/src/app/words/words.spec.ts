import { FieldRegistry, type NewShopField } from '@larder/core/fields';
import type { ShopFieldRow } from '@larder/contract';
import { asset } from '../../../test/assets';
import { LibraryServer } from '../../../test/library';
import { Refusal, Screen, until } from '../../../test/screen';

/** A library with fields of its own. */
class WordsServer extends LibraryServer {
  own: ShopFieldRow[] = [];

  constructor() {
    super([asset(1), asset(2)]);
    this.on('fields', () => ({ fields: this.own }));
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
