import type { FieldRegistry } from '@larder/core/fields';
import type { Undone } from '@larder/contract';
import { counted, formatMoment } from '../shared/format';

const FIELDS_NAMED = 3;
/** What is written where one asset is taken into another, or comes out of it again. */
const MERGING: ReadonlySet<string> = new Set(['fold', 'unfold', 'merge']);

/** What a change was that was made in another session, where nobody remembers what it was called. */
export function wordUndone({ action, fields, assets, atMs }: Undone, registry: FieldRegistry): string {
  const of = `${counted(assets, 'asset')}, ${formatMoment(atMs)}`;
  if (action === 'poster') return `poster frame of ${of}`;
  if (action === 'relink') return `links of ${of}`;
  if (MERGING.has(action)) return `merging of ${of}`;
  if (action === 'marker') return `markers of ${of}`;
  if (action === 'correct' || action === 'transcript') return `transcript of ${of}`;
  if (action.endsWith('subclip')) return counted(assets, 'subclip') + `, ${formatMoment(atMs)}`;
  const labels = fields.map((id) => registry.labelOf(id === 'tags' ? 'tag' : id));
  const named = labels.slice(0, FIELDS_NAMED).join(', ');
  return `${named}${labels.length > FIELDS_NAMED ? ' and more' : ''} of ${of}`;
}
