import { fold } from '../fields';

/** The name of a file with its extension. */
export const nameOf = (path: string): string => path.slice(path.lastIndexOf('/') + 1);

/** The name of a file without its extension, in folded letters. */
export const stemOf = (path: string): string => withoutExtension(fold(nameOf(path)));

/**
 * What programs add to a name when they make another file of the same: a version, a copy's number, or what it is for. Common practice,
 * no source.
 */
const ADDED =
  /(?:[\s_.-]+(?:v\d{1,3}|copy|copy[\s_-]*\d+|proxy|mezz(?:anine)?|transcoded?|h26[45]|conv(?:erted)?|rewrap(?:ped)?|sub\d+)|\s*\(\d+\))$/i;

/** So many additions are taken off a name at most. */
const MOST_ADDED = 4;

const withoutExtension = (name: string): string => name.replace(/(?<=.)\.[^.]*$/, '');

/** As `stemOf`, without what may have been added to it. */
export const bareOf = (path: string): string => withoutAdded(stemOf(path));

/** With what the names of all files of the same begin, in the letters of this one. */
export const beginningOf = (path: string): string => withoutAdded(withoutExtension(nameOf(path)));

function withoutAdded(whole: string): string {
  let stem = whole;
  for (let n = 0; n < MOST_ADDED; n += 1) {
    const shorter = stem.replace(ADDED, '');
    if (shorter === stem || shorter === '') return stem;
    stem = shorter;
  }
  return stem;
}

const foldersOf = (path: string): readonly string[] => fold(path).split('/').slice(0, -1);

/** How many of the last folders of two paths are the same. */
export function tailOf(a: string, b: string): number {
  const [one, other] = [foldersOf(a), foldersOf(b)];
  let same = 0;
  while (same < one.length && same < other.length && one.at(-1 - same) === other.at(-1 - same)) same += 1;
  return same;
}
