import { XMLParser } from 'fast-xml-parser';

/** A property as `prefix:name`, with its value; lists are joined, structures are told by their parts. */
export interface XmpProperty {
  readonly name: string;
  readonly value: string;
}

const BEGIN = '<x:xmpmeta';
const END = '</x:xmpmeta>';
const MOST = 500;
const LONGEST_VALUE = 2000;
/** Parts of the notation itself, which say nothing of the file. */
const SYNTAX = /^(xmlns(:|$)|rdf:(about|parseType|resource|type|ID|nodeID|datatype)$|xml:|x:xmptk$)/;

/** The first packet in the bytes of a file, found by its own marks as the standard intends; null if there is none. */
export function findXmp(bytes: Uint8Array): string | null {
  const text = new TextDecoder('latin1').decode(bytes);
  const start = text.indexOf(BEGIN);
  const end = start < 0 ? -1 : text.indexOf(END, start);
  return end < 0 ? null : new TextDecoder('utf-8').decode(bytes.subarray(start, end + END.length));
}

type Node = Readonly<Record<string, unknown>>;
const isNode = (value: unknown): value is Node => typeof value === 'object' && value !== null && !Array.isArray(value);
const listed = (value: unknown): readonly unknown[] =>
  Array.isArray(value) ? (value as unknown[]) : value === undefined ? [] : [value];

/** Reads a packet. Empty if it is none; one with a document type is refused, since its entities could grow without bound. */
export function readXmp(document: string): readonly XmpProperty[] {
  if (/<!DOCTYPE/i.test(document)) return [];
  let root: Node;
  try {
    root = new XMLParser({
      ignoreAttributes: false,
      attributeNamePrefix: '@',
      textNodeName: '#',
      parseTagValue: false,
      parseAttributeValue: false,
    }).parse(document) as Node;
  } catch {
    return [];
  }
  const meta = isNode(root['x:xmpmeta']) ? root['x:xmpmeta'] : root;
  const rdf = isNode(meta) && isNode(meta['rdf:RDF']) ? meta['rdf:RDF'] : {};
  const found: XmpProperty[] = [];
  for (const description of listed(rdf['rdf:Description'])) if (isNode(description)) collect(description, '', found);
  return found.slice(0, MOST);
}

function collect(node: Node, before: string, found: XmpProperty[]): void {
  for (const [key, value] of Object.entries(node)) {
    const name = key.replace(/^@/, '');
    if (SYNTAX.test(name) || name === '#') continue;
    for (const each of listed(value)) {
      const said = textOf(each);
      if (said !== null) found.push({ name: before + name, value: said.slice(0, LONGEST_VALUE) });
      else if (isNode(each))
        collect(isNode(each['rdf:Description']) ? each['rdf:Description'] : each, `${before}${name}/`, found);
    }
  }
}

/** The text of a simple value, an alternative or a list; null for a structure. */
function textOf(value: unknown): string | null {
  if (typeof value === 'string') return value.trim();
  if (!isNode(value)) return null;
  for (const list of ['rdf:Alt', 'rdf:Seq', 'rdf:Bag']) {
    const items = isNode(value[list]) ? listed(value[list]['rdf:li']) : null;
    if (items) {
      const said = items.map(textOf);
      return said.every((each) => each !== null) ? said.join(', ') : null;
    }
  }
  return typeof value['#'] === 'string' ? value['#'].trim() : null;
}
