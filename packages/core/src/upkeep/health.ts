import { gathered } from '../gather';
import { folderOf } from '../shelf';

/** An original that is not as it was catalogued. */
export interface LostFile {
  readonly assetId: number;
  readonly storageId: number;
  readonly path: string;
  readonly state: 'missing' | 'changed';
  /** Milliseconds since 1970. */
  readonly sinceMs: number;
}

export const USE_KINDS = ['string-out', 'bin'] as const;
export type UseKind = (typeof USE_KINDS)[number];

/** Something that makes use of an asset. */
export interface Use {
  readonly kind: UseKind;
  readonly id: number;
  readonly name: string;
}

/** A folder in which something is lost. */
export interface LostFolder {
  readonly storageId: number;
  readonly folder: string;
  readonly missing: number;
  readonly changed: number;
  /** Since when the first of them is. */
  readonly sinceMs: number;
  /** What breaks with it: string-outs first, since they are what is handed over. */
  readonly uses: readonly Use[];
}

/** The folders in which something is lost, worst first: those that most depends on, then those with most of it, then the oldest. */
export function lostFolders(lost: readonly LostFile[], usesOf: ReadonlyMap<number, readonly Use[]>): LostFolder[] {
  const folders = gathered(lost, ({ path, storageId }) => `${storageId}/${folderOf(path)}`);
  return [...folders.values()].map((files) => lostFolder(files, usesOf)).sort(worstFirst);
}

function lostFolder(files: readonly LostFile[], usesOf: ReadonlyMap<number, readonly Use[]>): LostFolder {
  const [first] = files as [LostFile];
  const uses = new Map(files.flatMap(({ assetId }) => (usesOf.get(assetId) ?? []).map((use) => [keyOf(use), use])));
  return {
    ...{ storageId: first.storageId, folder: folderOf(first.path) },
    missing: files.filter(({ state }) => state === 'missing').length,
    changed: files.filter(({ state }) => state === 'changed').length,
    sinceMs: files.reduce((least, { sinceMs }) => Math.min(least, sinceMs), Infinity),
    uses: usesInOrder([...uses.values()]),
  };
}

/** As people read them: what is handed over first, and by name. */
export const usesInOrder = (uses: readonly Use[]): Use[] =>
  uses.toSorted((a, b) => USE_KINDS.indexOf(a.kind) - USE_KINDS.indexOf(b.kind) || (a.name < b.name ? -1 : 1));

const keyOf = ({ id, kind }: Use): string => `${kind} ${id}`;
const usedAs = (uses: readonly Use[], kind: UseKind): number => uses.filter((use) => use.kind === kind).length;

/** Orders lists of what depends on something, that which more depends on first: string-outs, then bins. */
export const mostUsedFirst = (a: readonly Use[], b: readonly Use[]): number =>
  usedAs(b, 'string-out') - usedAs(a, 'string-out') || usedAs(b, 'bin') - usedAs(a, 'bin');

const worstFirst = (a: LostFolder, b: LostFolder): number =>
  mostUsedFirst(a.uses, b.uses) ||
  b.missing + b.changed - (a.missing + a.changed) ||
  a.sinceMs - b.sinceMs ||
  a.storageId - b.storageId ||
  (a.folder < b.folder ? -1 : 1);
