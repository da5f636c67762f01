/** A file as a folder lists it. */
export interface FileEntry {
  readonly name: string;
  readonly bytes: number;
  readonly modifiedMs: number;
}

/** One thing on a storage as a person thinks of it: a file with what belongs to it, or the files of an image sequence. */
export interface ShelfItem {
  /** Path from the storage's root, with `/`; for an image sequence that of its first file. */
  readonly path: string;
  readonly name: string;
  readonly bytes: number;
  readonly modifiedMs: number;
  readonly files: number;
  readonly sequence: ImageSequence | null;
  /** Names of the files that go with it. */
  readonly sidecars: readonly string[];
}

export interface ImageSequence {
  readonly prefix: string;
  readonly padding: number;
  readonly first: number;
  readonly last: number;
  readonly extension: string;
  /** Ranges of numbers that are not there, first and last of each inclusive, ascending. */
  readonly gaps: readonly Gap[];
}

export type Gap = readonly [first: number, last: number];

export interface FolderItems {
  /** In the order of their paths. */
  readonly items: readonly ShelfItem[];
  /** Names of files that are neither footage nor sound, nor go with any. */
  readonly others: readonly string[];
}

const MEDIA =
  /\.(mov|mp4|m4v|mxf|mkv|webm|avi|mpg|mpeg|m2t|m2ts|mts|ts|wav|bwf|rf64|aif|aiff|flac|mp3|m4a|ogg|opus|png|jpg|jpeg|tif|tiff|dpx|exr|webp|bmp)$/i;
const PICTURE = /^(.*?)(\d{3,10})\.(png|jpg|jpeg|tif|tiff|dpx|exr|bmp)$/i;
/** Folders and files of operating systems, never footage; besides these all that begin with a dot. */
export const SYSTEM_NAMES = [
  '$RECYCLE.BIN',
  'System Volume Information',
  'Thumbs.db',
  'lost+found',
  '__MACOSX',
  '@eaDir',
] as const;
const SYSTEM: ReadonlySet<string> = new Set(SYSTEM_NAMES.map((name) => name.toLowerCase()));
/** What cameras and people lay beside a clip under its name; common practice, no source. */
const SIDECAR = /^(.*)\.(xmp|xml|thm|srt|vtt|ttml|cdl|cube|txt|md5|xxh64|json|csv)$/i;
/** Fewer pictures with consecutive numbers than this are stills. */
const SEQUENCE_FILES = 3;
/** A longer hole in the numbers parts two sequences; so does one longer than all that came before it. */
const LONGEST_GAP = 100;

export const isSystemName = (name: string): boolean => name.startsWith('.') || SYSTEM.has(name.toLowerCase());
export const isMediaName = (name: string): boolean => MEDIA.test(name);
const stemOf = (name: string): string => name.replace(/\.[^.]*$/, '').toLowerCase();
const byName = (a: { readonly name: string }, b: { readonly name: string }): number => (a.name < b.name ? -1 : 1);

/**
 * What the files of one folder are to a person. Numbered pictures in a row are one item, short gaps and all; other names, other
 * paddings and long gaps part them.
 * A sidecar goes with the clip whose name it bears, with or without the clip's own ending.
 */
export function itemsOf(entries: readonly FileEntry[], folder: string): FolderItems {
  const at = (name: string) => (folder ? `${folder}/${name}` : name);
  const media = entries.filter(({ name }) => isMediaName(name)).sort(byName);
  const sequences = sequencesOf(media);
  const inSequence = new Set(sequences.flatMap(({ parts }) => parts.map(({ name }) => name)));
  const singles = media.filter(({ name }) => !inSequence.has(name));
  const { sidecars, others } = sidecarsOf(entries, singles);
  const items = [
    ...singles.map(({ name, bytes, modifiedMs }): ShelfItem => ({
      path: at(name),
      name,
      bytes,
      modifiedMs,
      files: 1,
      sequence: null,
      sidecars: sidecars.get(name) ?? [],
    })),
    ...sequences.map(({ parts, sequence }): ShelfItem => ({
      path: at(parts[0]?.name ?? ''),
      name: nameOf(sequence),
      bytes: parts.reduce((sum, entry) => sum + entry.bytes, 0),
      modifiedMs: Math.max(...parts.map((entry) => entry.modifiedMs)),
      files: parts.length,
      sequence,
      sidecars: [],
    })),
  ];
  return { items: items.sort((a, b) => (a.path < b.path ? -1 : 1)), others };
}

const nameOf = ({ prefix, padding, first, last, extension }: ImageSequence): string => {
  const pad = (number: number) => String(number).padStart(padding, '0');
  return `${prefix}[${pad(first)}-${pad(last)}].${extension}`;
};

interface Run {
  readonly parts: readonly (FileEntry & { readonly number: number })[];
  readonly sequence: ImageSequence;
}

function sequencesOf(media: readonly FileEntry[]): Run[] {
  const runs = new Map<string, (FileEntry & { number: number })[]>();
  for (const entry of media) {
    const match = PICTURE.exec(entry.name);
    if (!match) continue;
    const [, prefix = '', digits = '', extension = ''] = match;
    const key = `${prefix}\n${digits.length}\n${extension}`;
    const run = runs.get(key) ?? [];
    run.push({ ...entry, number: Number(digits) });
    runs.set(key, run);
  }
  return [...runs].flatMap(([key, run]) => {
    const [prefix = '', padding = '', extension = ''] = key.split('\n');
    return runsOf(run)
      .filter((parts) => parts.length >= SEQUENCE_FILES)
      .map((parts): Run => ({
        parts,
        sequence: {
          prefix,
          padding: Number(padding),
          first: parts[0]?.number ?? 0,
          last: parts.at(-1)?.number ?? 0,
          extension,
          gaps: gapsOf(parts),
        },
      }));
  });
}

function runsOf<T extends { number: number }>(run: readonly T[]): T[][] {
  const parts: T[][] = [];
  for (const entry of [...run].sort((a, b) => a.number - b.number)) {
    const part = parts.at(-1);
    const hole = entry.number - (part?.at(-1)?.number ?? entry.number) - 1;
    if (part && hole <= Math.min(LONGEST_GAP, part.length)) part.push(entry);
    else parts.push([entry]);
  }
  return parts;
}

const gapsOf = (parts: readonly { readonly number: number }[]): Gap[] =>
  parts.flatMap(({ number }, index): Gap[] => {
    const before = parts[index - 1]?.number ?? number - 1;
    return number > before + 1 ? [[before + 1, number - 1]] : [];
  });

/** How many pictures a sequence would have if none were missing: the frames it plays for. */
export const framesOf = ({ first, last }: ImageSequence): number => last - first + 1;

/** The name of the file that a frame of a sequence is in. */
export const fileOf = ({ prefix, padding, extension }: ImageSequence, number: number): string =>
  `${prefix}${String(number).padStart(padding, '0')}.${extension}`;

/** `clip.xmp` and `clip.mov.xmp` go with `clip.mov`; where several clips share a stem, with the first by name. */
function sidecarsOf(
  entries: readonly FileEntry[],
  singles: readonly FileEntry[],
): { sidecars: Map<string, string[]>; others: string[] } {
  const strangers = entries.filter(({ name }) => !isMediaName(name)).sort(byName);
  const owners = new Map<string, string>();
  // Most folders of cards hold clips and nothing else.
  if (strangers.length > 0)
    for (const { name } of singles.toReversed()) owners.set(stemOf(name), name).set(name.toLowerCase(), name);
  const sidecars = new Map<string, string[]>();
  const others: string[] = [];
  for (const { name } of strangers) {
    const stem = SIDECAR.exec(name)?.[1]?.toLowerCase();
    const owner = stem === undefined ? undefined : owners.get(stem);
    if (owner === undefined) others.push(name);
    else sidecars.set(owner, [...(sidecars.get(owner) ?? []), name]);
  }
  return { sidecars, others };
}
