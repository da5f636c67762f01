import { basename } from 'node:path';
import { nameBy, readNaming } from '@larder/core/ingest';
import { folderOf, type ShelfItem } from '@larder/core/shelf';
import { countingForRate, formatTimecode } from '@larder/core/timecode';
import type { MediaFacts } from '../media/facts';

/** The name that a pattern gives something, without its ending. @param n how manieth it is, from 1 */
export function nameFor(naming: string, item: ShelfItem, facts: MediaFacts | null, n: number): string {
  const counting = facts?.rate ? countingForRate(facts.rate, facts.dropFrame) : null;
  const start = facts?.startFrame ?? null;
  return nameBy(readNaming(naming).pattern, {
    name: item.sequence ? item.sequence.prefix.replace(/[ _.-]+$/, '') : item.name.replace(/\.[^.]*$/, ''),
    folder: basename(folderOf(item.path)) || null,
    reel: facts?.reel ?? null,
    scene: facts?.scene ?? null,
    take: facts?.take ?? null,
    date: facts?.shotMs ? new Date(facts.shotMs).toISOString().slice(0, 10) : null,
    timecode: counting && start !== null ? formatTimecode(start, counting) : null,
    rate: counting?.id ?? null,
    n,
  });
}

/** The name of a copy that was given another one. */
export function nameAt(item: ShelfItem, path: string): string {
  const name = basename(path);
  if (!item.sequence) return name;
  const digits = /(\d+)\.[^.]+$/.exec(name)?.[1] ?? '';
  const last = String(item.sequence.last).padStart(digits.length, '0');
  return name.replace(new RegExp(`${digits}(\\.[^.]+)$`), `[${digits}-${last}]$1`);
}
