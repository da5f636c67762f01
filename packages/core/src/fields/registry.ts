import type { ObjectSchema } from 'yup';
import {
  FIELD_GROUPS,
  FIELDS,
  GROUP_LABELS,
  isNumericType,
  YES_NO,
  type Field,
  type FieldGroup,
  type FieldId,
  type SettableFieldId,
  type ShopFieldId,
} from './built-in';
import { changesSchemaOf, type FieldChanges } from './schema';
import type { ShopField } from './shop-field';

export type RegisteredField = Field & { readonly id: FieldId };
export type SettableField = Field & { readonly id: SettableFieldId };

export const shopFieldId = (key: string): ShopFieldId => `shop_${key}`;

/** A shop's field in the form that all fields have. Its key is how searches name it. */
function registered({ key, range, unit, standard, retired, ...field }: ShopField): RegisteredField {
  return {
    id: shopFieldId(key),
    aliases: [key],
    label: field.label,
    type: field.type,
    group: field.group,
    help: field.help,
    editable: true,
    ...(field.plain ? { plain: true } : {}),
    ...(field.type === 'number' ? { decimals: true, range: range ?? [-1e12, 1e12] } : {}),
    ...(unit ? { unit } : {}),
    ...(standard ? { standard: { xmp: standard } } : {}),
    ...(retired ? { retired: true } : {}),
    ...(field.type === 'yesNo' ? { choices: YES_NO } : field.choices.length > 0 ? { choices: field.choices } : {}),
  };
}

/** By their ids, fields built in that plain words look into, or not, other than they do by themselves. */
export type PlainChoice = Readonly<Partial<Record<FieldId, boolean>>>;

/** Whether plain words could look into it: it says words, and not only that something is so. */
export const mayBePlain = ({ type }: Pick<Field, 'type'>): boolean =>
  !isNumericType(type) && type !== 'position' && type !== 'yesNo';

function chosen(field: RegisteredField, plain: boolean | undefined): RegisteredField {
  if (plain === undefined || plain === (field.plain === true) || !mayBePlain(field)) return field;
  const { plain: _before, ...rest } = field;
  return plain ? { ...rest, plain } : rest;
}

const isSettable = (field: RegisteredField): field is RegisteredField & { id: SettableFieldId } =>
  field.editable === true && field.type !== 'tags';

/** All fields of one library: those built in, then the shop's own. Made anew whenever the shop's change. */
export class FieldRegistry {
  /** In the order in which screens show them. */
  readonly all: readonly RegisteredField[];
  /** Those that are set as a whole, retired ones among them: what was said in them can still be put back. */
  readonly settable: readonly SettableField[];
  /** Plain words of a search look into these. */
  readonly plain: readonly FieldId[];
  /** Every name under which the search language knows a field. */
  readonly names: readonly string[];
  /** What may be said in the settable fields, each on its own optional. */
  readonly changes: ObjectSchema<FieldChanges>;
  private readonly byName = new Map<string, RegisteredField>();
  private readonly ids: ReadonlyMap<string, RegisteredField>;

  /**
   * @param markings the names of those that the library has; without any, nothing is marked by hand
   * @param plain where plain words look, as far as that was chosen; fields of the shop say it themselves
   */
  constructor(shop: readonly ShopField[] = [], markings: readonly string[] = [], plain: PlainChoice = {}) {
    const builtIn = (FIELDS as readonly RegisteredField[])
      .map((field) => chosen(field, plain[field.id]))
      .map((field) =>
        field.id !== 'marking'
          ? field
          : { ...field, choices: markings, ...(markings.length === 0 ? { retired: true as const } : {}) },
      );
    this.all = [...builtIn, ...shop.map(registered)];
    this.ids = new Map(this.all.map((field) => [field.id, field]));
    this.settable = this.all.filter(isSettable);
    this.plain = this.all.filter(({ plain }) => plain).map(({ id }) => id);
    // What is built in comes first: a field that a later release brings must not change its meaning by one of the shop's.
    for (const field of this.all)
      for (const name of [field.id, ...(field.aliases ?? [])]) if (!this.byName.has(name)) this.byName.set(name, field);
    this.names = [...this.byName.keys()];
    this.changes = changesSchemaOf(this.settable);
  }

  /** The field of that id or alias, in any case; undefined if there is none. */
  named(name: string): RegisteredField | undefined {
    return this.byName.get(name.toLowerCase());
  }

  byId(id: string): RegisteredField | undefined {
    return this.ids.get(id);
  }

  /** How the search language writes a field. */
  nameOf(id: FieldId): string {
    const alias = this.byId(id)?.aliases?.[0];
    return id.startsWith('shop_') && alias && this.named(alias)?.id === id ? alias : id;
  }

  labelOf(id: string): string {
    return this.byId(id)?.label ?? id;
  }

  /** Groups in order, the shop's own after those that people log in and before those that come from the file. */
  get groups(): readonly { readonly id: string; readonly label: string }[] {
    const own = [...new Set(this.all.map(({ group }) => group))].filter((id) => !isBuiltInGroup(id));
    const built = (ids: readonly FieldGroup[]) => ids.map((id) => ({ id, label: GROUP_LABELS[id] }));
    const fromFile = FIELD_GROUPS.indexOf('picture');
    return [
      ...built(FIELD_GROUPS.slice(0, fromFile)),
      ...own.map((id) => ({ id, label: id })),
      ...built(FIELD_GROUPS.slice(fromFile)),
    ];
  }
}

const isBuiltInGroup = (id: string): boolean => (FIELD_GROUPS as readonly string[]).includes(id);

/** A library whose shop has defined no field. */
export const BUILT_IN = new FieldRegistry();
