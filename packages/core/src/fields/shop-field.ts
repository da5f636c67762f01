import { array, boolean, number, object, string, type InferType } from 'yup';
import { FIELDS, type Field, type FieldType } from './built-in';
import { fold, words } from './fold';
import { NAME_LIMIT, trimmed } from './schema';

/** What a shop's own field may be; the first is offered first. */
export const SHOP_FIELD_TYPES = [
  'text',
  'longText',
  'number',
  'dateMs',
  'yesNo',
  'choice',
  'choices',
  'names',
  'position',
  'timecode',
  'url',
] as const satisfies readonly FieldType[];
export type ShopFieldType = (typeof SHOP_FIELD_TYPES)[number];

export const SHOP_TYPE_LABELS: Readonly<Record<ShopFieldType, string>> = {
  text: 'Text, one line',
  longText: 'Long text',
  number: 'Number',
  dateMs: 'Date',
  yesNo: 'Yes or no',
  choice: 'One of a list',
  choices: 'Several of a list',
  names: 'People',
  position: 'Place, in degrees',
  timecode: 'Timecode',
  url: 'Web address',
};

const LABEL_LIMIT = 60;
const CHOICES_LIMIT = 300;
export const takesChoices = (type: FieldType): boolean => type === 'choice' || type === 'choices';

const line = (label: string, limit: number) =>
  trimmed()
    .max(limit, `${label} has at most ${limit} characters.`)
    .matches(/^[^\n\r\t]*$/, `${label} is one line.`);

const choicesSchema = array(
  line('A choice', NAME_LIMIT)
    .min(1, 'A choice needs at least one character.')
    .matches(/^[^,]*$/, 'A choice has no comma: lists are typed with commas.')
    .required(),
)
  .max(CHOICES_LIMIT, `At most ${CHOICES_LIMIT} choices.`)
  .test('different', 'Two choices are the same but for case or accents.', (choices = []) => {
    const folded = choices.map((choice) => words(choice).join(' '));
    return new Set(folded).size === folded.length;
  })
  .default([]);

/** A field that the shop defines. Type and key are its own for good; all else may change. */
export const shopFieldSchema = object({
  label: line('The name', LABEL_LIMIT)
    .test(
      'letters',
      'The name needs a letter: searches write the field by it.',
      (label = '') => label === '' || /\p{L}/u.test(label),
    )
    .required('The field needs a name.'),
  type: string<ShopFieldType>().oneOf(SHOP_FIELD_TYPES, 'That is no type of field.').required(),
  /** A group built in, or a title of the shop's own. */
  group: line('The group', LABEL_LIMIT).min(1, 'The field needs a group.').required('The field needs a group.'),
  help: line('The help', 300).default(''),
  choices: choicesSchema.when('type', ([type], schema) =>
    takesChoices(type as FieldType) ? schema.min(1, 'A list needs at least one choice.') : schema,
  ),
  range: array(number().required())
    .length(2, 'From the least to the most.')
    .test(
      'way-round',
      'The least is not more than the most.',
      (range) => !range || Number(range[0]) <= Number(range[1]),
    )
    .nullable()
    .default(null),
  unit: line('The unit', 12).default(''),
  /** Plain words of a search look into it. */
  plain: boolean().default(true),
  retired: boolean().default(false),
  /** The property of an XMP namespace that it stands for, as `dc:contributor`; empty for one of the library's own. */
  standard: line('The property', 80)
    .matches(/^([A-Za-z][\w-]*:[A-Za-z][\w-]*)?$/, 'A property is written as dc:contributor.')
    .default(''),
}).noUnknown();

export type NewShopField = InferType<typeof shopFieldSchema>;

/** A shop's field as it is kept: `key` is how searches write it. */
export interface ShopField extends Omit<NewShopField, 'range'> {
  readonly key: string;
  readonly range: readonly [least: number, most: number] | null;
}

const TAKEN = new Set((FIELDS as readonly Field[]).flatMap(({ id, aliases = [] }) => [id, ...aliases]));
/** Words of the search language that would be read otherwise. */
const RESERVED = new Set(['has', 'no', 'or', 'and', 'not']);

/** A key for a new field, from its name: letters and digits without gaps, unlike any that is taken. */
export function newKey(label: string, taken: Iterable<string>): string {
  const used = new Set([...taken, ...TAKEN, ...RESERVED]);
  const base =
    fold(label)
      .replace(/[^\p{L}\p{N}]+/gu, '')
      .slice(0, 30) || 'field';
  for (let n = 1; ; n += 1) {
    const key = n === 1 ? base : `${base}${n}`;
    if (!used.has(key)) return key;
  }
}
