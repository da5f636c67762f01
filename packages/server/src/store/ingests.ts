import { QueryTypes, type Sequelize } from 'sequelize';
import type { IngestSettings } from '@larder/core/ingest';
import type { Ingest, Job, NewPreset, NewWatch, Preset, WatchFolder } from '@larder/contract';
import type { IngestPayload } from '../jobs/ingest';
import { enqueueOne } from '../jobs/queue';
import { write } from './change-feed';
import { fromJson, select } from './database';
import { notFound, refused } from './errors';
import { PresetRow, StorageRow, WatchRow } from './models';

const INGEST_PRIORITY = 40;

/** A copy can only go where a manager has said that copies may go. */
async function checkDestination({ way, destination }: IngestSettings): Promise<void> {
  if (way !== 'copy') return;
  const target = destination && (await StorageRow.findByPk(destination.storageId));
  if (!target) throw refused('Choose a storage to copy to.');
  if (!target.managed)
    throw refused(`The library may not copy to “${target.name}”. A manager can allow it on the Storage page.`);
}

const named = (things: readonly string[]): string =>
  [things[0] ?? '', things.length > 1 ? `and ${things.length - 1} more` : ''].filter(Boolean).join(' ');

/** Queues an ingest from a storage. */
export async function queueIngest(
  storageId: number,
  personId: number | null,
  { paths, folders, settings, twins }: Ingest,
): Promise<Job> {
  const storage = await StorageRow.findByPk(storageId);
  if (!storage) throw notFound('storage');
  await checkDestination(settings);
  const payload: IngestPayload = { storageId, upload: null, paths, folders, settings, twins };
  return enqueueOne({
    kind: 'ingest',
    subject: `${storage.name}/${named([...folders.map(({ path }) => path), ...paths])}`.slice(0, 500),
    payload: { ...payload },
    unit: settings.way === 'copy' ? 'bytes' : 'files',
    priority: INGEST_PRIORITY,
    personId,
    storageId,
  });
}

/** Queues what somebody has uploaded. It has to be copied somewhere, since the upload's own folder is only on the way. */
export async function queueUpload(personId: number, upload: string, settings: IngestSettings): Promise<Job> {
  if (settings.way !== 'copy') throw refused('Choose a storage that the upload goes to.');
  await checkDestination(settings);
  const payload: IngestPayload = {
    storageId: null,
    upload,
    paths: [],
    folders: [{ path: '', deep: true }],
    settings,
    twins: [],
  };
  return enqueueOne({
    kind: 'ingest',
    subject: 'Upload',
    payload: { ...payload },
    unit: 'bytes',
    priority: INGEST_PRIORITY,
    personId,
    storageId: settings.destination?.storageId ?? null,
  });
}

export async function listPresets(db: Sequelize): Promise<Preset[]> {
  const rows = await select<Omit<Preset, 'settings'> & { settings: unknown }>(
    db,
    'SELECT r.id, r.name, r.settings, p.name AS `by` FROM preset r LEFT JOIN person p ON p.id = r.person_id ORDER BY r.name',
  );
  return rows.map((row) => ({ ...row, settings: fromJson<IngestSettings>(row.settings) }));
}

/** Makes a preset, or with a number changes that one. */
export async function savePreset(
  db: Sequelize,
  personId: number,
  { name, settings }: NewPreset,
  id: number | null,
): Promise<{ id: number }> {
  const { value } = await write(db, personId, async ({ transaction, log }) => {
    const namesake = await PresetRow.findOne({ where: { name }, transaction });
    if (namesake && namesake.id !== id) throw refused(`There is already a preset called “${name}”.`);
    const values = { name, settings, personId, updatedMs: Date.now() };
    const row =
      id === null
        ? await PresetRow.create(values, { transaction })
        : await PresetRow.findByPk(id, { transaction, lock: true });
    if (!row) throw notFound('preset');
    if (id !== null) await row.update(values, { transaction });
    log({ action: id === null ? 'add' : 'change', entity: 'preset', entityId: row.id, after: { name } });
    return { id: row.id };
  });
  return value;
}

export async function removePreset(db: Sequelize, personId: number, id: number): Promise<void> {
  await write(db, personId, async ({ transaction, log }) => {
    if (await WatchRow.findOne({ where: { presetId: id }, transaction }))
      throw refused('A watch folder uses this preset. Give it another one first.');
    const gone = await PresetRow.destroy({ where: { id }, transaction });
    if (gone === 0) throw notFound('preset');
    log({ action: 'remove', entity: 'preset', entityId: id });
  });
}

export async function listWatches(): Promise<WatchFolder[]> {
  const rows = await WatchRow.findAll({ order: ['id'] });
  return rows.map(({ id, storageId, folder, presetId, active, quietSeconds }) => ({
    id,
    storageId,
    folder,
    presetId,
    active: Boolean(active),
    quietSeconds,
  }));
}

/** Makes a watch folder, or with a number changes that one. */
export async function saveWatch(
  db: Sequelize,
  personId: number,
  watch: NewWatch,
  id: number | null,
): Promise<{ id: number }> {
  const { value } = await write(db, personId, async ({ transaction, log }) => {
    const { storageId, folder, presetId } = watch;
    if (!(await StorageRow.findByPk(storageId, { transaction }))) throw notFound('storage');
    if (!(await PresetRow.findByPk(presetId, { transaction }))) throw notFound('preset');
    const same = await WatchRow.findOne({ where: { storageId, folder }, transaction });
    if (same && same.id !== id) throw refused('That folder is watched already.');
    const row =
      id === null
        ? await WatchRow.create({ ...watch, personId }, { transaction })
        : await WatchRow.findByPk(id, { transaction, lock: true });
    if (!row) throw notFound('watch folder');
    if (id !== null) await row.update({ ...watch }, { transaction });
    log({ action: id === null ? 'add' : 'change', entity: 'watch', entityId: row.id, after: { ...watch } });
    return { id: row.id };
  });
  return value;
}

export async function removeWatch(db: Sequelize, personId: number, id: number): Promise<void> {
  await write(db, personId, async ({ transaction, log }) => {
    await db.query('DELETE FROM watch_folder WHERE id = :id', {
      replacements: { id },
      type: QueryTypes.DELETE,
      transaction,
    });
    log({ action: 'remove', entity: 'watch', entityId: id });
  });
}
