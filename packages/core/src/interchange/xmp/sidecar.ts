import {
  readerOf,
  tagSchema,
  valueText,
  type FieldChanges,
  type FieldRegistry,
  type SettableField,
  type SetValue,
} from '../../fields';
import { XmpPacket, type PropertyForm } from './packet';

/** Namespaces of ISO 16684-1 and of those who added to it, by the prefixes that the registry of fields names them with. */
const NAMESPACES: Readonly<Record<string, string>> = {
  dc: 'http://purl.org/dc/elements/1.1/',
  xmp: 'http://ns.adobe.com/xap/1.0/',
  xmpDM: 'http://ns.adobe.com/xmp/1.0/DynamicMedia/',
  aux: 'http://ns.adobe.com/exif/1.0/aux/',
  Iptc4xmpExt: 'http://iptc.org/std/Iptc4xmpExt/2008-02-29/',
};
/** What no standard has a property for. */
const OWN = { prefix: 'larder', uri: 'urn:neat-larder:fields:1' } as const;

/** Forms that the standard asks for where the type of the field does not give them: ISO 16684-1, 8.3. */
const FORMS: Readonly<Record<string, PropertyForm>> = {
  'dc:title': 'alt',
  'dc:description': 'alt',
  'dc:rights': 'alt',
  'dc:language': 'bag',
};
const TAGS = { prefix: 'dc', name: 'subject', uri: NAMESPACES['dc'] ?? '' } as const;

interface Place {
  readonly prefix: string;
  readonly uri: string;
  readonly name: string;
  readonly form: PropertyForm;
}

const isList = ({ type }: SettableField): boolean => type === 'names' || type === 'choices';

/** Where a field's value is written: the standard's property if its namespace is known, else one of the library's own. */
function placeOf(field: SettableField): Place {
  const property = field.standard?.xmp ?? '';
  const [prefix = '', name] = property.split(':');
  const uri = NAMESPACES[prefix];
  const form = FORMS[property] ?? (isList(field) ? 'bag' : 'text');
  return uri !== undefined && name !== undefined ? { prefix, uri, name, form } : { ...OWN, name: field.id, form };
}

/** What people have said of an asset. */
export interface SidecarSaid {
  readonly values: FieldChanges;
  readonly tags: readonly string[];
}

/**
 * A sidecar with all that people have said, as ISO 16684-1 has it. `before` is the sidecar that there was: what it says in other
 * properties is kept. What XML cannot hold (control characters) is left out.
 */
export function writeSidecar({ values, tags }: SidecarSaid, fields: FieldRegistry, before: string | null): string {
  const packet = (before === null ? null : XmpPacket.parse(before)) ?? XmpPacket.empty();
  packet.set([
    ...fields.settable.map((field) => ({ ...placeOf(field), value: written(values[field.id] ?? null, field) })),
    { ...TAGS, form: 'bag' as const, value: tags },
  ]);
  return packet.print();
}

const written = (value: SetValue, { type }: SettableField): string | readonly string[] =>
  typeof value === 'object' && value !== null ? value : valueText(value, type);

/** What a sidecar says in the library's fields. Only what it says: a field that it is silent about is not in `set`. */
export interface SidecarRead {
  readonly set: FieldChanges;
  /** Null if it says nothing of tags. */
  readonly tags: readonly string[] | null;
  /** In words: what a field does not take. */
  readonly issues: readonly string[];
}

/** Null if the text is no metadata packet. */
export function readSidecar(text: string, fields: FieldRegistry): SidecarRead | null {
  const packet = XmpPacket.parse(text);
  if (!packet) return null;
  const said = new Map(packet.properties().map(({ uri, name, value }) => [`${uri} ${name}`, value]));
  const set: FieldChanges = {};
  const issues: string[] = [];
  for (const field of fields.settable) {
    const { uri, name } = placeOf(field);
    const value = said.get(`${uri} ${name}`);
    if (value === undefined || value.length === 0) continue;
    const line = typeof value === 'string' ? value : value.join(', ');
    try {
      set[field.id] = readerOf(field, fields)(line);
    } catch (error) {
      issues.push(`${field.label}: ${(error as Error).message}`);
    }
  }
  const subject = said.get(`${TAGS.uri} ${TAGS.name}`);
  const words = subject === undefined ? null : typeof subject === 'string' ? [subject] : subject;
  const tags = words?.map((word) => word.trim()).filter((word) => tagSchema.isValidSync(word)) ?? null;
  for (const word of words ?? [])
    if (!tagSchema.isValidSync(word.trim())) issues.push(`“${word.slice(0, 60)}” cannot be a tag.`);
  return { set, tags, issues };
}
