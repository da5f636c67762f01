import { XMLParser } from 'fast-xml-parser';
import {
  HASH_ACTIONS,
  HASH_ELEMENTS,
  PROCESSES,
  type ChainLink,
  type HashAction,
  type HashEntry,
  type HashList,
  type MhlIssue,
} from './types';

type Node = Readonly<Record<string, unknown>>;

function parse(document: string, list: readonly string[]): Node | null {
  // A document type could define entities that grow without bound.
  if (/<!DOCTYPE/i.test(document)) return null;
  try {
    return new XMLParser({
      ignoreAttributes: false,
      attributeNamePrefix: '@',
      textNodeName: '#',
      parseTagValue: false,
      parseAttributeValue: false,
      trimValues: true,
      removeNSPrefix: true,
      htmlEntities: true,
      isArray: (name) => list.includes(name),
    }).parse(document) as Node;
  } catch {
    return null;
  }
}

const node = (value: unknown): Node => (typeof value === 'object' && value !== null ? (value as Node) : {});
/** The text of an element, with or without attributes. */
const text = (value: unknown): string => (typeof value === 'string' ? value : '');
const said = (value: unknown): string => text(value) || text(node(value)['#']);
const moment = (value: unknown): number => Date.parse(text(value)) || 0;
const listed = (value: unknown): readonly unknown[] => (Array.isArray(value) ? (value as unknown[]) : []);

/** Reads one generation; what cannot be used of it is said, and the rest stands. Null if it is no hash list at all. */
export function readHashList(document: string): {
  readonly list: HashList | null;
  readonly issues: readonly MhlIssue[];
} {
  const parsed = parse(document, ['hash', 'pattern', ...HASH_ELEMENTS]);
  if (!parsed) return { list: null, issues: [{ code: 'not-xml' }] };
  const root = parsed['hashlist'];
  if (root === undefined) {
    const found = Object.keys(parsed).find((name) => !name.startsWith('?')) ?? '';
    return { list: null, issues: [{ code: 'not-mhl', found }] };
  }
  const version = text(node(root)['@version']);
  if (!version.startsWith('2.')) return { list: null, issues: [{ code: 'version', found: version }] };
  const issues: MhlIssue[] = [];
  const { creatorinfo, processinfo, hashes } = node(root);
  const entries = listed(node(hashes)['hash']).flatMap((each, index) => entryOf(node(each), index, issues));
  const process = said(node(processinfo)['process']);
  const tool = node(creatorinfo)['tool'];
  return {
    list: {
      createdMs: moment(said(node(creatorinfo)['creationdate'])),
      hostName: said(node(creatorinfo)['hostname']),
      tool: { name: said(tool), version: text(node(tool)['@version']) },
      process: PROCESSES.find((known) => known === process) ?? 'in-place',
      ignored: listed(node(node(processinfo)['ignore'])['pattern']).map(said),
      entries,
    },
    issues,
  };
}

function entryOf(each: Node, index: number, issues: MhlIssue[]): HashEntry[] {
  const path = said(each['path']);
  if (path === '' || path.startsWith('/') || path.split('/').includes('..')) {
    issues.push({ code: 'entry', index, what: 'path' });
    return [];
  }
  const bytes = Number(node(each['path'])['@size'] ?? NaN);
  if (!Number.isSafeInteger(bytes) || bytes < 0) issues.push({ code: 'entry', index, what: 'size' });
  const hashes = HASH_ELEMENTS.flatMap((element) =>
    listed(each[element]).map((hash) => ({
      element,
      value: said(hash),
      action: (HASH_ACTIONS as readonly unknown[]).includes(node(hash)['@action'])
        ? (node(hash)['@action'] as HashAction)
        : 'original',
      atMs: moment(node(hash)['@hashdate']),
    })),
  );
  if (hashes.length === 0) {
    issues.push({ code: 'entry', index, what: 'hash' });
    return [];
  }
  return [
    {
      path,
      bytes: Number.isSafeInteger(bytes) ? bytes : 0,
      modifiedMs: moment(node(each['path'])['@lastmodificationdate']),
      hashes,
    },
  ];
}

/** The generations that a folder has had, oldest first; none if the file is no chain. */
export function readChain(document: string): readonly ChainLink[] {
  const root = node(parse(document, ['hashlist'])?.['ascmhldirectory']);
  return listed(root['hashlist'])
    .map((each) => ({
      generation: Number(node(each)['@sequencenr']),
      path: said(node(each)['path']),
      c4: said(node(each)['c4']),
    }))
    .filter(({ generation, path }) => Number.isSafeInteger(generation) && generation > 0 && path !== '');
}
