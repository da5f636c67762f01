import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { Undone } from '@larder/contract';
import { write, type Writing } from './change-feed';
import { fromJson, select } from './database';
import { putValuesBack } from './edits';
import { notFound, refused, RequestError } from './errors';
import { putMarkersBack } from './markers';
import { putPostersBack } from './posters';
import { putRelinksBack, RELINK_ACTIONS } from './relink';
import { putSubclipsBack } from './subclips';
import { isRetagging, putRetaggedBack } from './tag-merges';
import { putTranscriptsBack, putWordsBack } from './transcripts';

interface Entry {
  readonly entityId: number;
  readonly before: object;
  readonly after: object;
  readonly personId: number | null;
  readonly entity: string;
  readonly action: string;
  readonly atMs: number;
}

type StepKind = 'undo' | 'redo' | 'lost';

/** What can be undone: changes that a person made to what is said of assets, their tags, poster frames, markers, subclips, transcripts and links. */
const ACTIONS = [
  ...['edit', 'retag', 'poster', 'marker', 'subclip', 'remove-subclip', 'correct', 'transcript'],
  ...RELINK_ACTIONS,
];

/**
 * Takes back a change of a person, as a new write, where it still stands: the one of that group, or their last. Throws `conflict` or
 * `refused` where anybody has changed it since; then it is passed over from now on, so that what came before it can still be undone.
 */
export async function undoChange(db: Sequelize, personId: number, group?: string): Promise<Undone> {
  const of = group ?? (await lastStanding(db, personId))?.group;
  if (of === undefined) throw refused('There is nothing of yours to undo.');
  if ((await lastStep(db, personId, of)) === 'undo') throw refused('This is undone already.');
  return take(db, personId, 'undo', of, of);
}

/** Does again what a person has undone last, unless they have changed something since. */
export async function redoChange(db: Sequelize, personId: number): Promise<Undone> {
  const [undo] = await select<{ of: string; made: string; revision: number }>(
    db,
    `SELECT u.of_group AS \`of\`, u.made_group AS made, u.made_revision AS revision FROM undo_step u
     WHERE u.person_id = :personId AND u.kind = 'undo' AND NOT EXISTS (SELECT 1 FROM undo_step l WHERE l.of_group = u.of_group AND l.person_id = u.person_id AND l.id > u.id) ORDER BY u.id DESC LIMIT 1`,
    { personId },
  );
  const last = await lastStanding(db, personId);
  if (!undo || (last && last.revision > undo.revision)) throw refused('There is nothing of yours to do again.');
  return take(db, personId, 'redo', undo.of, undo.made);
}

/** Writes the opposite of a write. `of` is the change that it is about, `opposite` the write to be turned round. */
async function take(
  db: Sequelize,
  personId: number,
  kind: 'undo' | 'redo',
  of: string,
  opposite: string,
): Promise<Undone> {
  try {
    const { value, revision, group, changed } = await write(db, personId, async (writing) => {
      const entries = await entriesOf(db, opposite, writing.transaction);
      await putBack(db, writing, personId, entries);
      return entries;
    });
    await note(db, personId, kind, of, group, revision);
    return { revision, group, changed, of, ...describe(value) };
  } catch (error) {
    if (error instanceof RequestError && (error.error.code === 'conflict' || error.error.code === 'refused'))
      await note(db, personId, 'lost', of, null, 0);
    throw error;
  }
}

async function entriesOf(db: Sequelize, group: string, transaction: Transaction): Promise<Entry[]> {
  const rows = await select<Entry>(
    db,
    'SELECT entity_id AS entityId, before_values AS `before`, after_values AS `after`, person_id AS personId, entity, action, at_ms AS atMs FROM change_feed WHERE change_group = :group ORDER BY revision',
    { group },
    transaction,
  );
  if (rows.length === 0) throw notFound('change');
  return rows.map((row) => ({ ...row, before: fromJson<object>(row.before), after: fromJson<object>(row.after) }));
}

async function putBack(db: Sequelize, writing: Writing, personId: number, entries: readonly Entry[]): Promise<void> {
  if (entries.some((entry) => entry.personId !== personId)) throw refused('Only your own changes can be undone.');
  const all = (...actions: string[]) =>
    entries.every(({ entity, action }) => entity === 'asset' && actions.includes(action));
  if (all('edit', 'undo')) return putValuesBack(db, writing, entries);
  if (all('poster')) return putPostersBack(db, writing, entries);
  if (all('marker')) return putMarkersBack(db, writing, entries);
  if (all('subclip', 'remove-subclip', 'restore-subclip')) return putSubclipsBack(db, writing, entries);
  if (entries.every(({ action }) => RELINK_ACTIONS.some((each) => each === action)))
    return putRelinksBack(db, writing, entries);
  if (all('correct')) return putWordsBack(db, writing, personId, entries);
  if (all('transcript')) return putTranscriptsBack(db, writing, personId, entries);
  if (isRetagging(entries)) return putRetaggedBack(db, writing, entries);
  throw refused('This change cannot be undone.');
}

/** What was changed, for wording: of how many assets, in which fields, and when. */
const describe = (entries: readonly Entry[]): Pick<Undone, 'action' | 'fields' | 'assets' | 'atMs'> => {
  const ofAssets = entries.filter(({ entity }) => entity === 'asset');
  return {
    action: (ofAssets[0] ?? entries[0])?.action ?? '',
    fields: [...new Set(ofAssets.flatMap(({ before, after }) => [...Object.keys(before), ...Object.keys(after)]))],
    assets: new Set(ofAssets.map(({ entityId }) => entityId)).size,
    atMs: entries[0]?.atMs ?? 0,
  };
};

async function note(
  db: Sequelize,
  personId: number,
  kind: StepKind,
  of: string,
  made: string | null,
  revision: number,
): Promise<void> {
  await db.query(
    'INSERT INTO undo_step (person_id, kind, of_group, made_group, made_revision) VALUES (:personId, :kind, :of, :made, :revision)',
    { replacements: { personId, kind, of, made, revision }, type: QueryTypes.INSERT },
  );
}

/** What a person's undo and redo did last about a change of theirs; null for nothing yet. */
async function lastStep(db: Sequelize, personId: number, group: string): Promise<StepKind | null> {
  const [step] = await select<{ kind: StepKind }>(
    db,
    'SELECT kind FROM undo_step WHERE of_group = :group AND person_id = :personId ORDER BY id DESC LIMIT 1',
    { group, personId },
  );
  return step?.kind ?? null;
}

interface Standing {
  readonly group: string;
  readonly revision: number;
  readonly atMs: number;
  /** When it was asked for: before it was written, where a job did it. */
  readonly askedMs: number;
}

/**
 * The change that a person asked for last of those that stand: neither undone nor found to be past undoing, and not itself an undo. What
 * a job wrote an hour after it was asked for is older to them than what they typed meanwhile.
 */
async function lastStanding(db: Sequelize, personId: number): Promise<Standing | null> {
  const passed = [''];
  let last: Standing | null = null;
  for (;;) {
    const [row] = await select<Standing>(
      db,
      `SELECT change_group AS \`group\`, revision, at_ms AS atMs, CAST(COALESCE(JSON_VALUE(after_values, '$.askedMs'), at_ms) AS UNSIGNED) AS askedMs FROM change_feed FORCE INDEX (by_person)
       WHERE person_id = :personId AND entity = 'asset' AND action IN (:actions) AND change_group NOT IN (:passed) ORDER BY revision DESC LIMIT 1`,
      { personId, actions: ACTIONS, passed },
    );
    // What was written before that was asked for before it too.
    if (!row || (last && row.atMs <= last.askedMs)) return last;
    const [made] = await select(db, 'SELECT id FROM undo_step WHERE made_group = :group', { group: row.group });
    const step = await lastStep(db, personId, row.group);
    if (!made && (step === null || step === 'redo') && row.askedMs > (last?.askedMs ?? 0)) last = row;
    passed.push(row.group);
  }
}
