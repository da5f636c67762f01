/** Where a file lies: a storage, and a path in it with `/` between folders. */
export interface Place {
  readonly storageId: number;
  readonly path: string;
}

/** What became of all files in a folder, with all below it: they lie in another, under the same names but for what the rule says. */
export interface MoveRule {
  readonly from: { readonly storageId: number; readonly folder: string };
  readonly to: { readonly storageId: number; readonly folder: string };
  /** What their extension became, without the dot; null where it is the same. */
  readonly extension: { readonly from: string; readonly to: string } | null;
  /** What was put before and behind their names. */
  readonly before: string;
  readonly behind: string;
}

interface Name {
  readonly stem: string;
  readonly extension: string;
}

function nameIn(path: string): Name {
  const name = path.slice(path.lastIndexOf('/') + 1);
  const dot = name.lastIndexOf('.');
  // What ends with a dot has no extension.
  return dot > 0 && dot < name.length - 1
    ? { stem: name.slice(0, dot), extension: name.slice(dot + 1) }
    : { stem: name, extension: '' };
}

const folderIn = (path: string): string[] => path.split('/').slice(0, -1);

/** What explains that the file of one place lies at another; null where its name has become quite another. */
export function ruleOf(from: Place, to: Place): MoveRule | null {
  const [old, now] = [nameIn(from.path), nameIn(to.path)];
  const at = now.stem.indexOf(old.stem);
  if (at < 0) return null;
  const [oldFolders, nowFolders] = [folderIn(from.path), folderIn(to.path)];
  while (oldFolders.length > 0 && nowFolders.length > 0 && oldFolders.at(-1) === nowFolders.at(-1)) {
    oldFolders.pop();
    nowFolders.pop();
  }
  return {
    from: { storageId: from.storageId, folder: oldFolders.join('/') },
    to: { storageId: to.storageId, folder: nowFolders.join('/') },
    extension: old.extension === now.extension ? null : { from: old.extension, to: now.extension },
    before: now.stem.slice(0, at),
    behind: now.stem.slice(at + old.stem.length),
  };
}

/** Where a file lies by a rule; null for what the rule says nothing of. */
export function placeBy({ before, behind, extension, from, to }: MoveRule, place: Place): Place | null {
  if (place.storageId !== from.storageId) return null;
  const inside = from.folder === '' ? '' : `${from.folder}/`;
  if (!place.path.startsWith(inside)) return null;
  const name = nameIn(place.path);
  if (extension && extension.from !== name.extension) return null;
  const folders = [...(to.folder === '' ? [] : [to.folder]), ...folderIn(place.path.slice(inside.length))];
  const ending = extension?.to ?? name.extension;
  const file = `${before}${name.stem}${behind}${ending === '' ? '' : `.${ending}`}`;
  const path = [...folders, file].join('/');
  return { storageId: to.storageId, path };
}

export const ruleKey = ({ before, behind, extension, from, to }: MoveRule): string =>
  JSON.stringify([
    from.storageId,
    from.folder,
    to.storageId,
    to.folder,
    extension?.from,
    extension?.to,
    before,
    behind,
  ]);

/** A rule with what it explains, by the caller's keys. */
export interface Explained<Key> {
  readonly rule: MoveRule;
  readonly keys: readonly Key[];
}

/** One that explains a single file is no rule. */
const LEAST_EXPLAINED = 2;

/** The rules that explain where many files went, each with what it explains: that which explains most first. */
export function rulesIn<Key>(
  moves: readonly { readonly key: Key; readonly from: Place; readonly to: Place }[],
): Explained<Key>[] {
  const found = new Map<string, { rule: MoveRule; keys: Key[] }>();
  for (const { from, key, to } of moves) {
    const rule = ruleOf(from, to);
    if (!rule) continue;
    const known = found.get(ruleKey(rule));
    if (known) known.keys.push(key);
    else found.set(ruleKey(rule), { rule, keys: [key] });
  }
  return [...found.values()]
    .filter(({ keys }) => keys.length >= LEAST_EXPLAINED)
    .sort((a, b) => b.keys.length - a.keys.length);
}
