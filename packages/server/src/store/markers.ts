import { isDeepStrictEqual } from 'node:util';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { Marker, NewMarker } from '@larder/core/markers';
import type { Written } from '@larder/contract';
import { write, type Writing } from './change-feed';
import { select } from './database';
import { notFound, refused } from './errors';

/** More on one asset would be a transcript. */
const MOST = 20_000;

type MarkerRow = NewMarker & { readonly id: number; readonly assetId: number; readonly personId: number | null };

const COLUMNS =
  'm.id, m.asset_id AS assetId, m.kind, m.start_at AS start, m.end_at AS end, m.name, m.note, m.colour, m.person_id AS personId';

const SELECT_MARKERS =
  'SELECT m.id, m.asset_id AS assetId, m.kind, m.start_at AS start, m.end_at AS end, m.name, m.note, m.colour, p.name AS `by` FROM marker m LEFT JOIN person p ON p.id = m.person_id WHERE m.asset_id IN (:assetIds) ORDER BY m.asset_id, m.start_at, m.id';

/** By assets, all of their markers in the order of their places. */
export async function markersOn(
  db: Sequelize,
  assetIds: readonly number[],
): Promise<ReadonlyMap<number, readonly Marker[]>> {
  const markers = new Map<number, Marker[]>();
  if (assetIds.length === 0) return markers;
  for (const { assetId, ...marker } of await select<Marker & { assetId: number }>(db, SELECT_MARKERS, { assetIds })) {
    const own = markers.get(assetId);
    if (own) own.push(marker);
    else markers.set(assetId, [marker]);
  }
  return markers;
}

export const markersOf = (db: Sequelize, assetId: number): Promise<readonly Marker[]> =>
  markersOn(db, [assetId]).then((markers) => markers.get(assetId) ?? []);

const rowsOf = (db: Sequelize, ids: readonly number[], transaction: Transaction): Promise<MarkerRow[]> =>
  ids.length === 0
    ? Promise.resolve([])
    : select<MarkerRow>(
        db,
        `SELECT ${COLUMNS} FROM marker m WHERE m.id IN (:ids) ORDER BY m.id FOR UPDATE`,
        { ids },
        transaction,
      );

/** Refuses places that the asset does not have. */
async function within(
  db: Sequelize,
  assetId: number,
  markers: readonly NewMarker[],
  transaction: Transaction,
): Promise<void> {
  const [asset] = await select<{ frames: number | null; ms: number | null }>(
    db,
    'SELECT duration_frames AS frames, duration_ms AS ms FROM asset WHERE id = :assetId FOR UPDATE',
    { assetId },
    transaction,
  );
  if (!asset) throw notFound('asset');
  const length = asset.frames ?? asset.ms;
  if (length === null) throw refused('This asset has no length in time, so no place for a marker.');
  if (markers.some(({ start, end }) => start >= length || (end ?? 0) > length))
    throw refused('The marker would stand after the end of the asset.');
}

/** Says in the feed what became of the markers of one asset; the search index reads the asset again. */
function tell({ log }: Writing, assetId: number, before: readonly MarkerRow[], after: readonly MarkerRow[]): void {
  log({ action: 'marker', entity: 'asset', entityId: assetId, before: { markers: before }, after: { markers: after } });
}

async function insert(db: Sequelize, rows: readonly MarkerRow[], transaction: Transaction): Promise<void> {
  if (rows.length === 0) return;
  await db.query(
    'INSERT INTO marker (id, asset_id, kind, start_at, end_at, name, note, colour, person_id) VALUES :rows',
    {
      replacements: {
        rows: rows.map((row) => [
          ...[row.id || null, row.assetId, row.kind, row.start, row.end],
          ...[row.name, row.note, row.colour, row.personId],
        ]),
      },
      transaction,
      type: QueryTypes.INSERT,
    },
  );
}

/** Sets markers on one asset, as one write; their ids are in the order of the markers. */
export async function addMarkers(
  db: Sequelize,
  personId: number,
  assetId: number,
  markers: readonly NewMarker[],
): Promise<Written & { ids: readonly number[] }> {
  const { value, revision, group, changed } = await write(db, personId, (writing) =>
    setOn(db, writing, personId, assetId, markers),
  );
  return { revision, group, changed, ids: value };
}

/** Sets markers on several assets, as one write. */
export async function addMarkersOn(
  db: Sequelize,
  personId: number,
  markers: readonly (NewMarker & { readonly assetId: number })[],
): Promise<Written> {
  // Always in this order, so that two who set some at once do not wait for each other.
  const assetIds = [...new Set(markers.map(({ assetId }) => assetId))].sort((a, b) => a - b);
  const { revision, group, changed } = await write(db, personId, async (writing) => {
    for (const each of assetIds) {
      const own = markers.filter(({ assetId }) => assetId === each).map(({ assetId: _, ...marker }) => marker);
      await setOn(db, writing, personId, each, own);
    }
  });
  return { revision, group, changed };
}

async function setOn(
  db: Sequelize,
  writing: Writing,
  personId: number,
  assetId: number,
  markers: readonly NewMarker[],
): Promise<number[]> {
  const { transaction } = writing;
  await within(db, assetId, markers, transaction);
  const [row] = await select<{ there: number }>(
    db,
    'SELECT COUNT(*) AS there FROM marker WHERE asset_id = :assetId',
    { assetId },
    transaction,
  );
  const there = Number(row?.there ?? 0);
  if (there + markers.length > MOST)
    throw refused(
      `An asset has at most ${MOST.toLocaleString('en')} markers, and there are ${there.toLocaleString('en')} on it already.`,
    );
  await insert(
    db,
    markers.map((marker) => ({ ...marker, id: 0, assetId, personId })),
    transaction,
  );
  // The rows of one INSERT have numbers in a row, and the database tells the first.
  const [made] = await select<{ id: number }>(db, 'SELECT LAST_INSERT_ID() AS id', {}, transaction);
  const rows = markers.map((marker, index) => ({ ...marker, id: Number(made?.id) + index, assetId, personId }));
  tell(writing, assetId, [], rows);
  return rows.map(({ id }) => id);
}

export async function changeMarker(db: Sequelize, personId: number, id: number, marker: NewMarker): Promise<Written> {
  const { revision, group, changed } = await write(db, personId, async (writing) => {
    const { transaction } = writing;
    const [before] = await rowsOf(db, [id], transaction);
    if (!before) throw notFound('marker');
    await within(db, before.assetId, [marker], transaction);
    await db.query(
      'UPDATE marker SET kind = :kind, start_at = :start, end_at = :end, name = :name, note = :note, colour = :colour WHERE id = :id',
      { replacements: { ...marker, id }, transaction, type: QueryTypes.UPDATE },
    );
    tell(writing, before.assetId, [before], [{ ...before, ...marker }]);
  });
  return { revision, group, changed };
}

export async function removeMarkers(db: Sequelize, personId: number, ids: readonly number[]): Promise<Written> {
  const { revision, group, changed } = await write(db, personId, async (writing) => {
    const rows = await rowsOf(db, ids, writing.transaction);
    if (rows.length === 0) throw notFound('marker');
    await remove(db, ids, writing.transaction);
    for (const assetId of new Set(rows.map((row) => row.assetId)))
      tell(
        writing,
        assetId,
        rows.filter((row) => row.assetId === assetId),
        [],
      );
  });
  return { revision, group, changed };
}

const remove = (db: Sequelize, ids: readonly number[], transaction: Transaction) =>
  db.query('DELETE FROM marker WHERE id IN (:ids)', { replacements: { ids }, transaction, type: QueryTypes.DELETE });

/** One side of a change of markers, as the feed has it. */
export interface MarkerSides {
  readonly entityId: number;
  readonly before: { readonly markers?: readonly MarkerRow[] };
  readonly after: { readonly markers?: readonly MarkerRow[] };
}

/** Puts the markers of some assets back as they were before a change; refuses where one is other than that change left it. */
export async function putMarkersBack(db: Sequelize, writing: Writing, changes: readonly MarkerSides[]): Promise<void> {
  const { transaction } = writing;
  for (const {
    entityId,
    before: { markers: before = [] },
    after: { markers: after = [] },
  } of changes) {
    const now = await rowsOf(
      db,
      after.map(({ id }) => id),
      transaction,
    );
    if (
      !isDeepStrictEqual(
        now.map((row) => ({ ...row })),
        after.toSorted((a, b) => a.id - b.id),
      )
    )
      throw refused('Somebody has changed or removed this marker since. Nothing was undone.');
    if (now.length > 0)
      await remove(
        db,
        now.map(({ id }) => id),
        transaction,
      );
    await insert(db, before, transaction);
    tell(writing, entityId, now, before);
  }
}
