import {
  readerOf,
  tagSchema,
  valueText,
  type FieldChanges,
  type FieldRegistry,
  type SettableField,
  type SetValue,
} from '../../fields';
import { readPosition } from '../../position';
import { XmpPacket, type PropertyForm } from './packet';

/** Namespaces of ISO 16684-1 and of those who added to it, by the prefixes that the registry of fields names them with. */
const NAMESPACES: Readonly<Record<string, string>> = {
  dc: 'http://purl.org/dc/elements/1.1/',
  xmp: 'http://ns.adobe.com/xap/1.0/',
  xmpDM: 'http://ns.adobe.com/xmp/1.0/DynamicMedia/',
  aux: 'http://ns.adobe.com/exif/1.0/aux/',
  exif: 'http://ns.adobe.com/exif/1.0/',
  Iptc4xmpCore: 'http://iptc.org/std/Iptc4xmpCore/1.0/xmlns/',
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
    ...fields.settable.flatMap((field) => {
      const value = values[field.id] ?? null;
      return field.id === 'position' ? gpsOf(value) : [{ ...placeOf(field), value: written(value, field) }];
    }),
    { ...TAGS, form: 'bag' as const, value: tags },
  ]);
  return packet.print();
}

/** Degrees and minutes with their side, as Exif 2.3 (CIPA DC-010) has them in XMP: `50,24.720000N`. */
function gpsText(degrees: number, [positive, negative]: readonly [string, string]): string {
  // To a tenth of a metre: six places of a degree are more than five of a minute.
  const minutes = Math.round(Math.abs(degrees) * 60 * 1e6) / 1e6;
  return `${Math.floor(minutes / 60)},${(minutes % 60).toFixed(6)}${degrees < 0 ? negative : positive}`;
}

const GPS = { prefix: 'exif', uri: NAMESPACES['exif'] ?? '', form: 'text' } as const;

function gpsOf(value: SetValue) {
  const position = typeof value === 'string' ? readPosition(value) : null;
  return [
    { ...GPS, name: 'GPSLatitude', value: position ? gpsText(position.latitude, ['N', 'S']) : '' },
    { ...GPS, name: 'GPSLongitude', value: position ? gpsText(position.longitude, ['E', 'W']) : '' },
  ];
}

/** Degrees, minutes and perhaps seconds between commas, and a side; null if it is none. */
function gpsDegrees(text: string): string | null {
  const match = /^(\d{1,3}),(\d{1,2}(?:\.\d+)?)(?:,(\d{1,2}(?:\.\d+)?))?([NSEW])$/i.exec(text.trim());
  return match && `${match[1]}°${match[2]}′${match[3] ?? 0}″${match[4]}`;
}

/** What the two GPS properties say together, as a person would type it. */
function gpsSaid(said: ReadonlyMap<string, string | readonly string[]>): string | null {
  const [latitude, longitude] = ['GPSLatitude', 'GPSLongitude'].map((name) => {
    const text = said.get(`${GPS.uri} ${name}`);
    return typeof text === 'string' ? gpsDegrees(text) : null;
  });
  return latitude && longitude ? `${latitude} ${longitude}` : null;
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
    const value = (field.id === 'position' ? gpsSaid(said) : said.get(`${uri} ${name}`)) ?? '';
    if (value.length === 0) continue;
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
