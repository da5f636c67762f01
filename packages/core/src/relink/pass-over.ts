import { fold } from '../fields';

/**
 * Folders in which nobody keeps originals, by their names: what programs made for themselves, and what was thrown away. What belongs to
 * operating systems is never walked anyway. Common practice, no source.
 */
export const PASSED_OVER = ['*cache*', 'render*', 'preview*', 'trash', 'recycle*', 'deleted', 'temp', 'tmp'] as const;

/**
 * Whether a name is one where `*` stands for any letters and `?` for one, whatever their case. It goes back to the last `*` only, so
 * that it ends after as many steps as both are long together; packages for this make regular expressions, which a hostile pattern keeps
 * busy for ever (`picomatch` 4 with thirty times `*a`).
 */
export function isNamed(name: string, pattern: string): boolean {
  const [letters, wanted] = [[...fold(name)], [...fold(pattern)]];
  let [at, star, from] = [0, -1, 0];
  for (let n = 0; n < letters.length;) {
    if (wanted[at] === '*') [star, from, at] = [at, n, at + 1];
    else if (at < wanted.length && (wanted[at] === '?' || wanted[at] === letters[n])) [at, n] = [at + 1, n + 1];
    else if (star < 0) return false;
    else [at, n, from] = [star + 1, from + 1, from + 1];
  }
  return wanted.slice(at).every((letter) => letter === '*');
}

/** Whether a folder is passed over, by its path: its own name, or that of one that it lies in, is one of these. */
export function passesOver(patterns: readonly string[]): (folder: string) => boolean {
  const wanted = patterns.map((pattern) => pattern.trim()).filter((pattern) => pattern !== '');
  return (folder) => folder.split('/').some((name) => wanted.some((pattern) => isNamed(name, pattern)));
}
