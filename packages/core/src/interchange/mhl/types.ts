/** The hash algorithms of ASC MHL 2.0, by the names of their elements. */
export const HASH_ELEMENTS = ['md5', 'sha1', 'xxh64', 'xxh128', 'xxh3', 'c4'] as const;
export type HashElement = (typeof HASH_ELEMENTS)[number];
/** `original`: never hashed before; `verified`: equal to an earlier generation; `failed`: not equal. */
export const HASH_ACTIONS = ['original', 'verified', 'failed'] as const;
export type HashAction = (typeof HASH_ACTIONS)[number];

export interface HashEntry {
  /** From the folder that the list is of, with `/`. */
  readonly path: string;
  readonly bytes: number;
  readonly modifiedMs: number;
  readonly hashes: readonly {
    readonly element: HashElement;
    /** As printed: hexadecimal in lower case, or the C4 ID. */
    readonly value: string;
    readonly action: HashAction;
    readonly atMs: number;
  }[];
}

export const PROCESSES = ['in-place', 'transfer', 'flatten'] as const;

/** One generation: what one run hashed. */
export interface HashList {
  readonly createdMs: number;
  readonly hostName: string;
  readonly tool: { readonly name: string; readonly version: string };
  readonly process: (typeof PROCESSES)[number];
  /** Patterns of what is never hashed. */
  readonly ignored: readonly string[];
  readonly entries: readonly HashEntry[];
}

/** A line of the chain file, which holds every generation of a folder. */
export interface ChainLink {
  readonly generation: number;
  readonly path: string;
  readonly c4: string;
}

export type MhlIssue =
  | { readonly code: 'not-xml' }
  | { readonly code: 'not-mhl'; readonly found: string }
  | { readonly code: 'version'; readonly found: string }
  | { readonly code: 'entry'; readonly index: number; readonly what: 'path' | 'size' | 'hash' };

/** The folder of a history, and its chain file. */
export const HISTORY_FOLDER = 'ascmhl';
export const CHAIN_FILE = 'ascmhl_chain.xml';
export const LIST_NAMESPACE = 'urn:ASC:MHL:v2.0';
export const CHAIN_NAMESPACE = 'urn:ASC:MHL:DIRECTORY:v2.0';
