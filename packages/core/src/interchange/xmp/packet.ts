import { XMLBuilder, XMLParser } from 'fast-xml-parser';

/** One property of a packet, by the address of its namespace; a list for an alternative, bag or sequence. */
export interface PacketProperty {
  readonly uri: string;
  readonly name: string;
  readonly value: string | readonly string[];
}

/** How a property is written: as a text, in the language that counts where none is named, or as a list without order. */
export type PropertyForm = 'text' | 'alt' | 'bag';

type Attributes = Record<string, string>;
/** A node as the parser keeps it in order: one key for the element, its children, and the attributes beside it. */
type Node = Record<string, unknown> & { ':@'?: Attributes };

const RDF = 'http://www.w3.org/1999/02/22-rdf-syntax-ns#';
const ATTRIBUTE = '@';
/** Entities stay as they are written, so that what nobody here knows is written back letter by letter. */
const OPTIONS = {
  preserveOrder: true,
  ignoreAttributes: false,
  attributeNamePrefix: ATTRIBUTE,
  textNodeName: '#text',
  commentPropName: '#comment',
  cdataPropName: '#cdata',
  processEntities: false,
  parseTagValue: false,
  parseAttributeValue: false,
  trimValues: false,
} as const;

const EMPTY = `<?xpacket begin="\uFEFF" id="W5M0MpCehiHzreSzNTczkc9d"?>
<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="${RDF}"></rdf:RDF></x:xmpmeta>
<?xpacket end="w"?>
`;

const ENTITIES: Readonly<Record<string, string>> = { amp: '&', lt: '<', gt: '>', quot: '"', apos: "'" };
const decoded = (text: string): string =>
  text.replace(/&(?:#(\d{1,7})|#x([\da-f]{1,6})|(amp|lt|gt|quot|apos));/gi, (whole, digits, hex, name) => {
    if (name) return ENTITIES[String(name).toLowerCase()] ?? whole;
    const code = digits ? Number(digits) : Number.parseInt(String(hex), 16);
    return code > 0x10ffff ? whole : String.fromCodePoint(code);
  });
/** What XML 1.0 cannot hold at all is left out; a carriage return would be read as a line feed if it were not written by its number. */
const encoded = (text: string): string =>
  text
    // eslint-disable-next-line no-control-regex -- these are the characters in question
    .replace(/[\u0000-\u0008\u000B\u000C\u000E-\u001F\uFFFE\uFFFF]/g, '')
    .replace(/[&<>\r]/g, (sign) => (sign === '&' ? '&amp;' : sign === '<' ? '&lt;' : sign === '>' ? '&gt;' : '&#13;'));

const tagOf = (node: Node): string => Object.keys(node).find((key) => key !== ':@') ?? '';
const childrenOf = (node: Node): Node[] => {
  const children = node[tagOf(node)];
  return Array.isArray(children) ? (children as Node[]) : [];
};
const textOf = (node: Node): string =>
  childrenOf(node)
    .map((child) => {
      const tag = tagOf(child);
      if (tag === '#text') return decoded(String(child['#text']));
      return tag === '#cdata'
        ? childrenOf(child)
            .map((each) => String(each['#text']))
            .join('')
        : '';
    })
    .join('');

/** Prefixes with the addresses that they stand for here. */
type Scope = ReadonlyMap<string, string>;
function within(scope: Scope, node: Node): Scope {
  const own = Object.entries(node[':@'] ?? {}).filter(([name]) => name.startsWith(`${ATTRIBUTE}xmlns:`));
  if (own.length === 0) return scope;
  return new Map([
    ...scope,
    ...own.map(([name, uri]) => [name.slice(`${ATTRIBUTE}xmlns:`.length), decoded(uri)] as const),
  ]);
}
function resolved(scope: Scope, name: string): { readonly uri: string; readonly name: string } {
  const [prefix = '', local] = name.split(':');
  return local === undefined ? { uri: '', name } : { uri: scope.get(prefix) ?? prefix, name: local };
}

/** A metadata packet as ISO 16684-1 has it, to be read, and written again with all of it that nobody here knows. */
export class XmpPacket {
  private constructor(private readonly nodes: Node[]) {}

  /** Null for a text that is no packet, or one with a document type, whose entities could grow without bound. */
  static parse(text: string): XmpPacket | null {
    if (/<!DOCTYPE/i.test(text)) return null;
    try {
      const packet = new XmpPacket(new XMLParser(OPTIONS).parse(text.replace(/^\uFEFF/, '')) as Node[]);
      return packet.descriptions().root ? packet : null;
    } catch {
      return null;
    }
  }

  static empty(): XmpPacket {
    return new XmpPacket(new XMLParser(OPTIONS).parse(EMPTY) as Node[]);
  }

  private descriptions(): {
    readonly root: Node | null;
    readonly all: { readonly node: Node; readonly scope: Scope }[];
  } {
    const find = (nodes: readonly Node[], scope: Scope): { node: Node; scope: Scope } | null => {
      for (const node of nodes) {
        const inner = within(scope, node);
        const { uri, name } = resolved(inner, tagOf(node));
        if (uri === RDF && name === 'RDF') return { node, scope: inner };
        if (tagOf(node) === 'x:xmpmeta') return find(childrenOf(node), inner);
      }
      return null;
    };
    const found = find(this.nodes, new Map());
    if (!found) return { root: null, all: [] };
    const all = childrenOf(found.node)
      .map((node) => ({ node, scope: within(found.scope, node) }))
      .filter(({ node, scope }) => {
        const { uri, name } = resolved(scope, tagOf(node));
        return uri === RDF && name === 'Description';
      });
    return { root: found.node, all };
  }

  /** What the packet says, but for structures. */
  properties(): PacketProperty[] {
    return this.descriptions().all.flatMap(({ node, scope }) => [
      ...Object.entries(node[':@'] ?? {})
        .map(([key, value]) => [key.slice(ATTRIBUTE.length), value] as const)
        .filter(([name]) => name.includes(':') && !name.startsWith('xmlns:') && !name.startsWith('rdf:'))
        .map(([name, value]) => ({ ...resolved(scope, name), value: decoded(value) })),
      ...childrenOf(node)
        .filter((child) => !tagOf(child).startsWith('#'))
        .flatMap((child): PacketProperty[] => {
          const inner = within(scope, child);
          const value = valueOf(child, inner);
          return value === null ? [] : [{ ...resolved(inner, tagOf(child)), value }];
        }),
    ]);
  }

  /** Says properties in place of whatever it said of them; those of an empty list or text are only taken out. */
  set(said: readonly (PacketProperty & { readonly prefix: string; readonly form: PropertyForm })[]): void {
    const wanted = new Set(said.map(({ uri, name }) => `${uri} ${name}`));
    const { root, all } = this.descriptions();
    if (!root) throw new Error('a packet without its root');
    for (const { node, scope } of all) {
      const is = (name: string, inner: Scope): boolean => {
        const known = resolved(inner, name);
        return wanted.has(`${known.uri} ${known.name}`);
      };
      for (const key of Object.keys(node[':@'] ?? {}))
        if (is(key.slice(ATTRIBUTE.length), scope)) delete (node[':@'] as Attributes)[key];
      node[tagOf(node)] = childrenOf(node).filter((child) => !is(tagOf(child), within(scope, child)));
    }
    const emptied = new Set(all.map(({ node }) => node).filter(isEmpty));
    root[tagOf(root)] = childrenOf(root).filter((node) => !emptied.has(node));
    const saying = said.filter(({ value }) => value.length > 0);
    if (saying.length === 0) return;
    const description: Node = {
      'rdf:Description': saying.map(elementOf),
      ':@': {
        [`${ATTRIBUTE}xmlns:rdf`]: RDF,
        [`${ATTRIBUTE}rdf:about`]: '',
        ...Object.fromEntries(saying.map(({ prefix, uri }) => [`${ATTRIBUTE}xmlns:${prefix}`, uri])),
      },
    };
    root[tagOf(root)] = [...childrenOf(root), description];
  }

  print(): string {
    return new XMLBuilder({ ...OPTIONS, suppressEmptyNode: false }).build(this.nodes);
  }
}

/** A description that says nothing any more. */
const isEmpty = (node: Node): boolean =>
  childrenOf(node).every((child) => tagOf(child) === '#text' && textOf({ text: [child] }).trim() === '') &&
  Object.keys(node[':@'] ?? {}).every((key) => /^@(xmlns:|rdf:about$)/.test(key));

/** The text of a property, or the texts of its list; null for a structure. */
function valueOf(node: Node, scope: Scope): string | readonly string[] | null {
  const elements = childrenOf(node).filter((child) => !tagOf(child).startsWith('#'));
  const [list, ...others] = elements;
  if (!list) return textOf(node);
  const inner = within(scope, list);
  const { uri, name } = resolved(inner, tagOf(list));
  if (uri !== RDF || others.length > 0 || !['Alt', 'Bag', 'Seq'].includes(name)) return null;
  const items = childrenOf(list).filter((child) => !tagOf(child).startsWith('#'));
  if (items.some((item) => childrenOf(item).some((child) => !tagOf(child).startsWith('#')))) return null;
  if (name !== 'Alt') return items.map(textOf);
  const usual = items.find((item) => item[':@']?.[`${ATTRIBUTE}xml:lang`] === 'x-default') ?? items[0];
  return usual ? textOf(usual) : '';
}

function elementOf({
  prefix,
  name,
  form,
  value,
}: PacketProperty & { readonly prefix: string; readonly form: PropertyForm }): Node {
  const text = (said: string): Node[] => [{ '#text': encoded(said) }];
  const all = typeof value === 'string' ? [value] : value;
  const [first = ''] = all;
  switch (form) {
    case 'text':
      return { [`${prefix}:${name}`]: text(first) };
    case 'alt':
      return {
        [`${prefix}:${name}`]: [
          { 'rdf:Alt': [{ 'rdf:li': text(first), ':@': { [`${ATTRIBUTE}xml:lang`]: 'x-default' } }] },
        ],
      };
    case 'bag':
      return { [`${prefix}:${name}`]: [{ 'rdf:Bag': all.map((each) => ({ 'rdf:li': text(each) })) }] };
    default:
      return form satisfies never;
  }
}
