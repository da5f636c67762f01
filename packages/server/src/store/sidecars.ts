import { readFile, stat } from 'node:fs/promises';
import { dirname, join, parse } from 'node:path';
import type { Sequelize } from 'sequelize';
import type { FieldChanges, FieldRegistry } from '@larder/core/fields';
import { readSidecar, writeSidecar } from '@larder/core/interchange/xmp';
import { fieldValues, type Asset, type Written } from '@larder/contract';
import { editAssets } from './edits';
import { refused } from './errors';
import { originalPath } from './locations';

const MOST_BYTES = 2_000_000;

/** The sidecar that lies beside an original, under its name with the ending added or in place of its own; null without one. */
async function besideOriginal(db: Sequelize, asset: Asset): Promise<string | null> {
  const path = await originalPath(db, asset).catch(() => null);
  if (path === null || asset.parentId !== null) return null;
  for (const candidate of [`${path}.xmp`, join(dirname(path), `${parse(path).name}.xmp`)]) {
    const facts = await stat(candidate).catch(() => null);
    if (facts?.isFile() && facts.size <= MOST_BYTES) return readFile(candidate, 'utf8');
  }
  return null;
}

/** All that people have said of an asset as an XMP sidecar, with what the one beside the original says in other properties. */
export async function sidecarOf(db: Sequelize, asset: Asset, fields: FieldRegistry): Promise<string> {
  const values = fieldValues(asset);
  const said: FieldChanges = Object.fromEntries(fields.settable.map(({ id }) => [id, values[id] ?? null]));
  return writeSidecar({ values: said, tags: asset.tags }, fields, await besideOriginal(db, asset));
}

/** Says of an asset what a sidecar says; its tags are added. What its fields do not take is told, and the rest is kept. */
export async function saySidecar(
  db: Sequelize,
  personId: number,
  assetId: number,
  text: string,
  fields: FieldRegistry,
): Promise<Written & { issues: readonly string[] }> {
  const read = readSidecar(text, fields);
  if (!read) throw refused('That is no XMP sidecar.');
  const written = await editAssets(db, personId, {
    assetIds: [assetId],
    // Whoever reads a sidecar in means it, whatever was said before.
    seenRevision: Number.MAX_SAFE_INTEGER,
    set: read.set,
    addTags: [...(read.tags ?? [])],
    removeTags: [],
  });
  return { ...written, issues: read.issues };
}
