import { randomUUID } from 'node:crypto';
import type { Sequelize, Transaction } from 'sequelize';
import { placeOfMs } from '@larder/core/dialogue';
import type { RunMarker, StringOut } from '@larder/core/sequence';
import { countingById, type Counting } from '@larder/core/timecode';
import type { Asset, NewProject, NewStringOut, Project, SaveStringOut, StringOutFull } from '@larder/contract';
import { assetsById, mediaOf } from './assets';
import { write } from './change-feed';
import { notFound, refused, RequestError } from './errors';
import { brokenUses } from './health';
import { removeListedClips } from './listed-clips';
import { PersonRow, ProjectRow, StringOutRow } from './models';

/** String-outs begin at the first hour, as programmes do: common practice, no source. */
const START_HOURS = 1;

const countingNamed = (id: string): Counting => {
  const counting = countingById(id);
  if (!counting) throw new Error(`a row names the counting ${id}, which is not in the table`);
  return counting;
};

const fullOf = ({
  id,
  projectId,
  name,
  counting,
  startFrame,
  version,
  items,
  markers,
}: StringOutRow): StringOutFull => ({
  ...{ id, projectId, name, counting, startFrame, version, items, markers },
});

export async function listProjects(db: Sequelize): Promise<Project[]> {
  const [projects, outs, people, broken] = await Promise.all([
    ProjectRow.findAll({ order: [['id', 'DESC']] }),
    StringOutRow.findAll({ order: ['name', 'id'] }),
    PersonRow.findAll(),
    brokenUses(db),
  ]);
  return projects.map((project) => ({
    id: project.id,
    name: project.name,
    description: project.description,
    counting: project.counting,
    by: people.find((person) => person.id === project.personId)?.name ?? null,
    createdMs: project.createdMs,
    broken: new Set(
      outs.filter((out) => out.projectId === project.id).flatMap(({ id }) => [...(broken['string-out'].get(id) ?? [])]),
    ).size,
    stringOuts: outs
      .filter((out) => out.projectId === project.id)
      .map((out) => ({
        id: out.id,
        projectId: out.projectId,
        name: out.name,
        counting: out.counting,
        items: out.items.length,
        broken: broken['string-out'].get(out.id)?.size ?? 0,
        updatedMs: out.updatedMs,
      })),
  }));
}

export async function addProject(
  db: Sequelize,
  personId: number,
  { name, description, counting }: NewProject,
): Promise<Project> {
  const { value } = await write(db, personId, async ({ transaction, log }) => {
    const row = await ProjectRow.create(
      { name, description, counting, personId, createdMs: Date.now() },
      { transaction },
    );
    log({ action: 'add', entity: 'project', entityId: row.id, after: { name } });
    return row;
  });
  const made = (await listProjects(db)).find((project) => project.id === value.id);
  if (!made) throw notFound('project');
  return made;
}

/** Refuses what cannot stand in a string-out: without moving picture, or beyond the end of its media. */
function checkItems(
  items: SaveStringOut['items'],
  assets: readonly Asset[],
  known: ReadonlySet<string> = new Set(),
): void {
  const byId = new Map(assets.map((asset) => [asset.id, asset]));
  if (new Set(items.map((item) => item.id)).size !== items.length)
    throw refused('Two items of the string-out carry the same id.');
  for (const item of items) {
    const asset = byId.get(item.assetId);
    // What was in it before may stay even when its asset is gone: the conform check tells.
    if (!asset && known.has(item.id)) continue;
    const media = asset && mediaOf(asset);
    if (!media)
      throw refused(
        `${asset?.name ?? `Asset #${item.assetId}`} has no moving picture and cannot go into a string-out.`,
      );
    if (item.out <= item.in) throw refused(`${media.name}: the out is not after the in.`);
    if (item.out > media.durationFrames && !known.has(item.id))
      throw refused(`${media.name} has ${media.durationFrames} frames; the out is at ${item.out}.`);
  }
}

function checkMarkers(items: SaveStringOut['items'], markers: SaveStringOut['markers']): void {
  const there = new Set(items.map((item) => item.id));
  if (markers.some(({ itemId }) => !there.has(itemId)))
    throw refused('A marker stands on a clip that is not in the string-out.');
  if (new Set(markers.map((marker) => marker.id)).size !== markers.length)
    throw refused('Two markers of the string-out carry the same id.');
}

/** Who set a marker is not theirs to say who send it. */
async function signedMarkers(
  markers: SaveStringOut['markers'],
  known: readonly RunMarker[],
  personId: number,
  transaction: Transaction,
): Promise<RunMarker[]> {
  const by = new Map(known.map((marker) => [marker.id, marker.by]));
  const name = (await PersonRow.findByPk(personId, { transaction }))?.name ?? null;
  return markers.map((marker) => ({ ...marker, by: by.get(marker.id) ?? name }));
}

/** A new string-out from whole clips in the order given; what has no moving picture is left out. */
export async function addStringOut(
  db: Sequelize,
  personId: number,
  { name, projectId, assetIds = [], parts = [], handlesMs = 0 }: NewStringOut,
): Promise<StringOutFull> {
  const project = await ProjectRow.findByPk(projectId);
  if (!project) throw notFound('project');
  const assets = await assetsById(db, assetIds);
  const whole = assets.flatMap((asset) => {
    const media = mediaOf(asset);
    // A subclip is cut as the stretch of its whole that it is.
    const { parentId, inPlace } = asset;
    return media
      ? [{ id: randomUUID(), assetId: parentId ?? asset.id, in: inPlace, out: inPlace + media.durationFrames }]
      : [];
  });
  const items = [...whole, ...(await itemsOfParts(db, parts, handlesMs))];
  if (assetIds.length + parts.length > 0 && items.length === 0)
    throw refused('None of these has a moving picture, so there is nothing to cut.');
  const startFrame = START_HOURS * 3600 * countingNamed(project.counting).nominal;
  const { value } = await write(db, personId, async ({ transaction, log }) => {
    const row = await StringOutRow.create(
      { projectId, name, counting: project.counting, startFrame, items, personId, updatedMs: Date.now() },
      { transaction },
    );
    log({ action: 'add', entity: 'string-out', entityId: row.id, after: { name, items: items.length } });
    return row;
  });
  return fullOf(value);
}

/** Stretches of assets as they are cut: in whole frames, with their handles so far as there is anything, and none twice. */
export async function itemsOfParts(
  db: Sequelize,
  parts: NonNullable<NewStringOut['parts']>,
  handlesMs: number,
): Promise<StringOut['items'][number][]> {
  const assets = new Map(
    (await assetsById(db, [...new Set(parts.map(({ assetId }) => assetId))])).map((asset) => [asset.id, asset]),
  );
  const items: StringOut['items'][number][] = [];
  for (const { assetId, endMs, startMs } of parts) {
    const asset = assets.get(assetId);
    const media = asset && mediaOf(asset);
    if (!asset || !media) continue;
    const inside = (frame: number) => Math.min(Math.max(0, frame), media.durationFrames);
    const from = inside(placeOfMs(startMs - handlesMs, asset.rate));
    const to = inside(placeOfMs(endMs + handlesMs, asset.rate) + 1);
    if (to <= from) continue;
    const item = {
      ...{ id: randomUUID(), assetId: asset.parentId ?? asset.id },
      ...{ in: asset.inPlace + from, out: asset.inPlace + to },
    };
    const last = items.at(-1);
    if (last?.assetId === item.assetId && item.in <= last.out && item.in >= last.in)
      items[items.length - 1] = { ...last, out: Math.max(last.out, item.out) };
    else items.push(item);
  }
  return items;
}

export async function findStringOut(id: number): Promise<StringOutFull> {
  const row = await StringOutRow.findByPk(id);
  if (!row) throw notFound('string-out');
  return fullOf(row);
}

/** Saves a string-out over the version it was opened at; if it has been saved since, nothing is written and that is said. */
export async function saveStringOut(
  db: Sequelize,
  personId: number,
  id: number,
  { name, version, items, markers }: SaveStringOut,
): Promise<StringOutFull> {
  const assets = await assetsById(db, [...new Set(items.map((item) => item.assetId))]);
  const { value } = await write(db, personId, async ({ transaction, log }) => {
    const row = await StringOutRow.findByPk(id, { transaction, lock: true });
    if (!row) throw notFound('string-out');
    if (row.version !== version) {
      const by = row.personId === null ? null : await PersonRow.findByPk(row.personId, { transaction });
      throw new RequestError({ code: 'newer-version', what: 'string-out', by: by?.name ?? null });
    }
    checkItems(items, assets, new Set(row.items.map((item) => item.id)));
    checkMarkers(items, markers);
    const before = { name: row.name, items: row.items, markers: row.markers };
    const signed = await signedMarkers(markers, row.markers, personId, transaction);
    await row.update(
      { name, items, markers: signed, version: version + 1, personId, updatedMs: Date.now() },
      { transaction },
    );
    log({ action: 'save', entity: 'string-out', entityId: id, before, after: { name, items, markers: signed } });
    return row;
  });
  return fullOf(value);
}

/** Takes a string-out away, and what is known of clips only since it was read from a list. */
export async function removeStringOut(db: Sequelize, personId: number, id: number): Promise<void> {
  await write(db, personId, async (writing) => {
    const { log, transaction } = writing;
    const row = await StringOutRow.findByPk(id, { transaction, lock: true });
    if (!row) throw notFound('string-out');
    log({
      action: 'remove',
      entity: 'string-out',
      entityId: id,
      before: {
        name: row.name,
        projectId: row.projectId,
        counting: row.counting,
        items: row.items,
        markers: row.markers,
      },
    });
    await row.destroy({ transaction });
    await removeListedClips(
      db,
      writing,
      row.items.map(({ assetId }) => assetId),
    );
  });
}

/** The string-out in core's terms, with the assets it is made of. */
export async function loadStringOut(
  db: Sequelize,
  id: number,
): Promise<{ stringOut: StringOut; markers: readonly RunMarker[]; assets: Map<number, Asset> }> {
  const { name, counting, startFrame, items, markers } = await findStringOut(id);
  const assets = await assetsById(db, [...new Set(items.map((item) => item.assetId))]);
  return {
    stringOut: { title: name, counting: countingNamed(counting), startFrame, items },
    markers,
    assets: new Map(assets.map((asset) => [asset.id, asset])),
  };
}
