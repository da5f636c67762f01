import type { Sequelize } from 'sequelize';
import type { Written } from '@larder/contract';
import { write } from './change-feed';
import { fromJson, select } from './database';
import { putValuesBack } from './edits';
import { notFound, refused } from './errors';
import { putMarkersBack } from './markers';
import { putSubclipsBack } from './subclips';

interface Entry {
  readonly entityId: number;
  readonly before: object;
  readonly after: object;
  readonly personId: number | null;
  readonly entity: string;
  readonly action: string;
}

/** Takes back one earlier change of a person, as a new write, where it still stands; refuses where anybody has changed it since. */
export async function undoChange(db: Sequelize, personId: number, group: string): Promise<Written> {
  const {
    revision,
    group: made,
    changed,
  } = await write(db, personId, async (writing) => {
    const entries = (
      await select<Entry>(
        db,
        'SELECT entity_id AS entityId, before_values AS `before`, after_values AS `after`, person_id AS personId, entity, action FROM change_feed WHERE change_group = :group ORDER BY revision',
        { group },
        writing.transaction,
      )
    ).map((entry) => ({ ...entry, before: fromJson<object>(entry.before), after: fromJson<object>(entry.after) }));
    if (entries.length === 0) throw notFound('change');
    if (entries.some((entry) => entry.personId !== personId)) throw refused('Only your own changes can be undone.');
    const all = (...actions: string[]) =>
      entries.every(({ entity, action }) => entity === 'asset' && actions.includes(action));
    if (all('edit', 'undo')) return putValuesBack(db, writing, entries);
    if (all('marker')) return putMarkersBack(db, writing, entries);
    if (all('subclip')) return putSubclipsBack(db, writing, entries);
    throw refused('This change cannot be undone.');
  });
  return { revision, group: made, changed };
}
