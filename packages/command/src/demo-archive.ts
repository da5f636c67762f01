import { link, mkdir, writeFile } from 'node:fs/promises';
import { writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { writeArchive, type ArchivedFile } from '@larder/core/interchange/archive';
import { countingForRate, rational } from '@larder/core/timecode';
import type { DemoScript, Taped } from '@larder/demo';
import { AssetRow, hashPath, StorageRow, type ArchiveChoice } from '@larder/server';
import { dist, type Home } from './home';
import { ARCHIVE_FILE } from './library';

/** The shelf with the tapes, and its catalogue beside them. */
export const tapesOf = (home: Home): string => home.at('demo', 'tapes');
const catalogueOf = (home: Home): string => join(tapesOf(home), 'catalogue.csv');

/** Has the library fetch from the demo's tapes. Written at each start, since the program lies where this was built. */
export function setUpArchive(home: Home, { archive }: DemoScript): void {
  const { bytesPerSecond, name, secondsToLoad } = archive;
  const choice: ArchiveChoice = {
    ...{ name, catalogue: catalogueOf(home), program: process.execPath },
    arguments: [
      ...[dist('tape-shelf.mjs'), tapesOf(home), String(secondsToLoad), String(bytesPerSecond)],
      ...['{tape}', '{path}', '{to}'],
    ],
  };
  writeFileSync(home.at(ARCHIVE_FILE), JSON.stringify(choice, null, 2));
}

/** Writes what is catalogued to tape, as the script says, and a catalogue of the tapes. Files are second names of the pristine ones. */
export async function layArchive(home: Home, { archive, storages }: DemoScript, media: string): Promise<void> {
  const ids = new Map((await StorageRow.findAll()).map(({ id, name }) => [name, id]));
  const files: ArchivedFile[] = [];
  for (const taped of archive.tapes) {
    const folder = storages.find(({ name }) => name === taped.storage)?.folder ?? '';
    const assets = await AssetRow.findAll({ where: { storageId: ids.get(taped.storage) ?? 0 }, order: ['path'] });
    for (const asset of assets.filter(({ path, files: parts }) => parts === 1 && path.startsWith(`${taped.folder}/`))) {
      const [from, to] = [join(media, folder, asset.path), join(tapesOf(home), taped.tape, asset.path)];
      await mkdir(dirname(to), { recursive: true });
      await link(from, to);
      files.push(await archivedAs(taped, asset, to));
    }
  }
  await writeFile(catalogueOf(home), writeArchive(files));
}

async function archivedAs({ tape }: Taped, asset: AssetRow, at: string): Promise<ArchivedFile> {
  const { bytes, dropFrame, durationFrames, path, rateDen, rateNum, reel, startFrame } = asset;
  const nothing = { modifiedMs: null, fingerprint: null, width: null, height: null, channels: null, shotMs: null };
  const checksum = await hashPath(at, { signal: new AbortController().signal, bytes: () => undefined });
  const counting = rateNum && rateDen ? countingForRate(rational(rateNum, rateDen), Boolean(dropFrame)) : null;
  return {
    ...{ id: `${tape}/${path}`, tape },
    facts: { ...nothing, path, bytes, checksum, counting, durationFrames, startFrame, reel },
  };
}
