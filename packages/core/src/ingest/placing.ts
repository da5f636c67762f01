import { fileOf, folderOf, type ShelfItem } from '../shelf';

/** A file that is to be copied, by its path on the one storage and on the other. */
export interface Placed {
  readonly from: string;
  readonly to: string;
}

export interface Placing {
  /** The path of the item itself where it goes; for a sequence that of its first file. */
  readonly to: string;
  /** Everything that goes with it, itself first. */
  readonly files: readonly Placed[];
}

const inFolder = (folder: string, name: string): string => [folder, name].filter(Boolean).join('/');

/** All files that an item is made of, with what goes with it, by their paths. */
export function filesOf(item: ShelfItem): string[] {
  const { sequence } = item;
  const folder = folderOf(item.path);
  const own = sequence
    ? Array.from({ length: sequence.last - sequence.first + 1 }, (_unused, index) => sequence.first + index)
        .filter((number) => !sequence.gaps.some(([first, last]) => number >= first && number <= last))
        .map((number) => inFolder(folder, fileOf(sequence, number)))
    : [item.path];
  return [...own, ...item.sidecars.map((name) => inFolder(folder, name))];
}

/**
 * Where the files of an item go: into the folder of its own name below `into`, under its own name or a new one, which what goes
 * with it takes over. `taken` holds paths in lower case that are given away already, and gets those of this item.
 * @param stem the new name without its ending; null to keep the name
 */
export function placeItem(item: ShelfItem, into: string, stem: string | null, taken: Set<string>): Placing {
  const folder = inFolder(into, folderOf(item.path));
  const place = (newStem: string | null): Placed[] =>
    filesOf(item).map((from) => ({ from, to: inFolder(folder, renamed(item, nameOf(from), newStem)) }));
  let files = place(stem);
  // The name has to be free for everything that goes with it.
  for (let number = 2; stem !== null && files.some(({ to }) => taken.has(to.toLowerCase())); number += 1)
    files = place(`${stem}-${number}`);
  for (const { to } of files) taken.add(to.toLowerCase());
  return { to: files[0]?.to ?? inFolder(folder, nameOf(item.path)), files };
}

const nameOf = (path: string): string => path.slice(path.lastIndexOf('/') + 1);

/** The name of one of an item's files when the item is called otherwise. */
function renamed({ path, sequence }: ShelfItem, old: string, stem: string | null): string {
  if (stem === null) return old;
  if (sequence) return `${stem}.${old.slice(sequence.prefix.length)}`;
  const own = nameOf(path).replace(/\.[^.]*$/, '');
  return old.toLowerCase().startsWith(own.toLowerCase()) ? stem + old.slice(own.length) : `${stem}.${old}`;
}
