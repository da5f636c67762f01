/** A file with its path below what was chosen or dropped. */
export interface Dropped {
  readonly file: File;
  readonly path: string;
}

const isSystem = (path: string): boolean =>
  path.split('/').some((step) => step.startsWith('.') || step === 'Thumbs.db');

/** Files chosen in a dialog; those of a folder bring their path along. */
export const chosenFiles = (files: Iterable<File>): Dropped[] =>
  [...files]
    .map((file) => ({ file, path: file.webkitRelativePath || file.name }))
    .filter(({ path }) => !isSystem(path));

const entriesOf = (folder: FileSystemDirectoryEntry): Promise<FileSystemEntry[]> => {
  const reader = folder.createReader();
  const all: FileSystemEntry[] = [];
  // A reader gives a hundred or so at a time, and none when it is through.
  const more = (): Promise<FileSystemEntry[]> =>
    new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject)).then((some) => {
      all.push(...some);
      return some.length > 0 ? more() : all;
    });
  return more();
};

async function below(entry: FileSystemEntry): Promise<Dropped[]> {
  const path = entry.fullPath.replace(/^\//, '');
  if (isSystem(path)) return [];
  if (entry.isDirectory) {
    const inner = await entriesOf(entry as FileSystemDirectoryEntry);
    return (await Promise.all(inner.map(below))).flat();
  }
  const file = await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject));
  return [{ file, path }];
}

/** Everything that was dropped, folders with all below them. */
export async function droppedFiles(transfer: DataTransfer): Promise<Dropped[]> {
  const entries = [...transfer.items].flatMap((item) => item.webkitGetAsEntry() ?? []);
  if (entries.length === 0) return chosenFiles(transfer.files);
  return (await Promise.all(entries.map(below))).flat();
}
