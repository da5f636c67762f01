import { existsSync } from 'node:fs';
import { link, mkdir, readdir, rename, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { disturbShelves, makeDemoMedia, pathOf, piecesOf, readScript, type DemoScript } from '@larder/demo';
import { shopFieldSchema } from '@larder/core/fields';
import { markerSchema } from '@larder/core/markers';
import { markingSchema } from '@larder/core/markings';
import { tagChangeSchema, tagSetSchema } from '@larder/core/tags';
import {
  addLiveBin,
  addMarkers,
  addMarking,
  addProject,
  addShopField,
  addTag,
  addTagSet,
  addStorage,
  addStringOut,
  addCustomWords,
  AssetRow,
  editAssets,
  ensurePerson,
  freezeInto,
  JobRow,
  queueRecognition,
  queueScan,
  readFields,
  SimulatedVolumes,
  StorageRow,
  suggestedWords,
  VOLUME_FILE,
  watchStorages,
  type SimulatedPlaces,
} from '@larder/server';
import { layArchive, setUpArchive, tapesOf } from './demo-archive';
import { dist, ROOT, type Home } from './home';
import { Library } from './library';
import { Steps } from './progress';

/** Of made-up people only, and printed on the sign-in screen. */
export const DEMO_PASSWORD = 'slow-water';
export const DEMO_SCRIPT = join(ROOT, 'packages/demo/script/slow-water.yaml');
const POLL_MS = 300;

export const demoScript = (): DemoScript => readScript(DEMO_SCRIPT);

/** Pristine media, made once and kept, and the shelves that the library sees, which people tidy up. */
const mediaOf = (home: Home) => home.at('demo', 'media');
const shelvesOf = (home: Home) => home.at('demo', 'shelves');
/** Card readers that are clicks in the settings; see SimulatedVolumes. */
const volumesOf = (home: Home): SimulatedPlaces => ({
  drawer: home.at('demo', 'drawer'),
  slots: home.at('demo', 'slots'),
  slotNames: ['reader 1', 'reader 2'],
});
const readyFile = (home: Home) => home.at('demo', 'ready');

/** Starts the demo library; the first time it is made, and an interrupted first time is begun again from the media that exist. */
export async function startDemo(home: Home, port: number): Promise<Library> {
  const steps = new Steps();
  const options = { home, port, demoPassword: DEMO_PASSWORD, volumes: volumesOf(home) };
  const script = demoScript();
  home.prepare();
  setUpArchive(home, script);
  if (existsSync(readyFile(home))) {
    const library = await Library.open(options);
    library.startWorkers();
    await library.startServer();
    return library;
  }
  steps.begin('Drawing, speaking and playing the demo media');
  await makeDemoMedia({
    scriptPath: DEMO_SCRIPT,
    script,
    root: mediaOf(home),
    makerScript: dist('demo-maker.mjs'),
    onProgress: (done, total) => steps.progress(done, total),
  });
  steps.end(`${piecesOf(script).length} pieces`);
  const { drawer, slots } = volumesOf(home);
  const made = [shelvesOf(home), tapesOf(home), drawer, slots, home.at('database'), home.at('renditions')];
  for (const half of made) await rm(half, { recursive: true, force: true });
  await linkAll(mediaOf(home), shelvesOf(home));
  await layVolumes(script, shelvesOf(home), drawer);

  const library = await steps.run('Starting the database', () => Library.open(options));
  try {
    await fill(library, script, shelvesOf(home), volumesOf(home), steps);
    await writeFile(readyFile(home), '');
    await library.startServer();
    return library;
  } catch (error) {
    await library.stop();
    throw error;
  }
}

/** The same files under a second name: quick, and no second copy on the disk. */
async function linkAll(from: string, to: string): Promise<void> {
  await mkdir(to, { recursive: true });
  for (const entry of await readdir(from, { withFileTypes: true })) {
    if (entry.isDirectory()) await linkAll(join(from, entry.name), join(to, entry.name));
    else await link(join(from, entry.name), join(to, entry.name));
  }
}

/** Puts the volumes into the drawer, each with its identity on it. */
async function layVolumes(script: DemoScript, shelves: string, drawer: string): Promise<void> {
  await mkdir(drawer, { recursive: true });
  for (const { folder, managed, volume } of script.storages) {
    if (managed) await mkdir(join(shelves, folder), { recursive: true });
    if (!volume) continue;
    await writeFile(join(shelves, folder, VOLUME_FILE), `${volume}\n`);
    await rename(join(shelves, folder), join(drawer, folder));
  }
}

/** Makes a volume known to the library by plugging it in for a moment. */
async function introduce(
  db: Parameters<typeof addStorage>[0],
  manager: number,
  { name, folder }: DemoScript['storages'][number],
  places: SimulatedPlaces,
): Promise<void> {
  const volumes = new SimulatedVolumes(places);
  const [slot = ''] = places.slotNames;
  await volumes.put(folder, slot);
  await addStorage(db, manager, { name, rootPath: join(places.slots, slot, folder), kind: 'removable' });
  await volumes.put(folder, null);
}

/** Catalogues the shelves, lets people log, and then lets them tidy up. */
async function fill(
  library: Library,
  script: DemoScript,
  shelves: string,
  volumes: SimulatedPlaces,
  steps: Steps,
): Promise<void> {
  await library.withModels(async (db) => {
    const people = new Map<string, number>();
    for (const { login, name, role } of script.people)
      people.set(login, (await ensurePerson(login, name, role, DEMO_PASSWORD)).id);
    const [manager, logger] = [people.get('maren') ?? 1, people.get('tobin') ?? 1];
    for (const storage of script.storages) {
      const { name, folder, managed = false } = storage;
      if (storage.volume) await introduce(db, manager, storage, volumes);
      else await addStorage(db, manager, { name, rootPath: join(shelves, folder), managed });
    }
    library.startWorkers();

    const scanAll = async () => {
      await watchStorages(db);
      for (const { id } of await StorageRow.findAll({ where: { state: 'online' } })) await queueScan(id, manager);
    };
    steps.begin('Scanning the storages');
    await scanAll();
    await jobsDone(steps, ['scan']);
    steps.end(`${await AssetRow.count()} assets catalogued`);
    steps.begin('Making posters, filmstrips, waveforms and proxies');
    await jobsDone(steps, ['poster', 'renditions']);
    steps.end();

    steps.begin('Writing down what is said');
    await addCustomWords(db, manager, (await suggestedWords(script.names)).words);
    const spoken = spokenFiles(script);
    const speaking = (await AssetRow.findAll()).filter(({ name }) => spoken.has(name)).map(({ id }) => id);
    await queueRecognition(db, manager, speaking);
    await jobsDone(steps, ['recognise']);
    steps.end(`${speaking.length} recordings`);

    await steps.run('Writing what was shot to tape', () =>
      layArchive(library.options.home, script, mediaOf(library.options.home)),
    );
    await steps.run('Logging, tidying up and unplugging a drive', async () => {
      await logAll(db, script, shelves, manager, logger);
      await disturbShelves(script, shelves);
      await scanAll();
      await jobsDone(steps, ['scan', 'poster', 'renditions']);
    });
  });
}

/** Names of the files in which somebody speaks. */
const spokenFiles = (script: DemoScript): ReadonlySet<string> =>
  new Set(
    piecesOf(script).flatMap(({ piece }) => ('says' in piece && piece.says && 'file' in piece ? [piece.file] : [])),
  );

async function jobsDone(steps: Steps, kinds: readonly string[]): Promise<void> {
  for (;;) {
    const total = await JobRow.count({ where: { kind: [...kinds] as never } });
    const open = await JobRow.count({ where: { kind: [...kinds] as never, state: ['queued', 'running'] } });
    steps.progress(total - open, total);
    if (open === 0) return;
    await new Promise((resolve) => setTimeout(resolve, POLL_MS));
  }
}

async function logAll(
  db: Parameters<typeof editAssets>[0],
  script: DemoScript,
  shelves: string,
  manager: number,
  logger: number,
): Promise<void> {
  for (const { tags, ...set } of script.tagSets) {
    const setId = await addTagSet(db, manager, tagSetSchema.validateSync(set));
    for (const name of tags) await addTag(db, manager, tagChangeSchema.validateSync({ name, setId }));
  }
  const assets = new Map((await AssetRow.findAll()).map((asset) => [asset.path, asset]));
  const pathIn = (piece: Parameters<typeof pathOf>[2]) => {
    const whole = piece.type === 'sequence' ? { ...piece, piece: { ...piece.piece, frames: 1 } } : piece;
    const storage = script.storages.find((each) => each.name === piece.piece.storage);
    return pathOf(shelves, script, whole).slice(join(shelves, storage?.folder ?? '').length + 1);
  };
  for (const [index, piece] of piecesOf(script).entries()) {
    const asset = assets.get(pathIn(piece));
    const { log } = piece.piece;
    if (!asset || !log) continue;
    const { tags = [], ...said } = log;
    const place = 'place' in piece.piece ? script.called[piece.piece.place] : undefined;
    const set = { ...said, ...(place ? { place } : {}) };
    await editAssets(db, index % 3 === 0 ? manager : logger, {
      assetIds: [asset.id],
      seenRevision: Number.MAX_SAFE_INTEGER,
      set,
      addTags: [...tags],
      removeTags: [],
    });
  }
  for (const { file, set } of script.markers) {
    const asset = [...assets.values()].find(({ name }) => name === file);
    const markers = set.map((marker) => markerSchema.validateSync(marker));
    if (asset) await addMarkers(db, logger, asset.id, markers);
  }
  for (const field of script.fields) await addShopField(db, manager, shopFieldSchema.validateSync(field));
  for (const marking of script.markings)
    await addMarking(db, await readFields(db), manager, markingSchema.validateSync(marking));
  const fields = await readFields(db);
  const named = (clips: readonly string[]): number[] =>
    clips.flatMap((file) => [...assets.values()].find((asset) => asset.name === file)?.id ?? []);
  for (const { clips, name } of script.bins) await freezeInto(db, manager, { name, parentId: null }, named(clips));
  for (const bin of script.liveBins) await addLiveBin(db, fields, manager, bin);
  for (const { name, description, counting, stringOuts } of script.projects) {
    const project = await addProject(db, manager, { name, description, counting: counting as '25' });
    for (const out of stringOuts) {
      await addStringOut(db, manager, { name: out.name, projectId: project.id, assetIds: named(out.clips) });
    }
  }
}
