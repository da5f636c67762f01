import { access, constants } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { UniqueConstraintError, type Sequelize } from 'sequelize';
import type { ScanFolder, ScanResult } from '@larder/contract';
import { fingerprint, withFile } from '../media/file-source';
import { probeItem, type Probed } from '../media/probe';
import { ToolError } from '../media/run';
import { walk, whereabouts } from '../media/walk';
import { covers, folderOf, type KnownState, type ShelfItem } from '@larder/core/shelf';
import { write } from '../store/change-feed';
import { select } from '../store/database';
import { notFound, refused } from '../store/errors';
import { AssetRow, StorageRow } from '../store/models';
import { scanFolders } from '../store/shelf';
import { lookAtStorage } from '../store/storages';
import { assetColumns, renditionJobs } from './catalogue';
import { enqueue } from './queue';
import { wordJobError, type JobContext } from './context';

/** New assets written in one transaction: few enough that they show up while the scan runs. */
const BATCH = 40;
/** Paths kept in a scan's result; counts are always whole. */
const LISTED = 1000;

interface Known {
  readonly id: number;
  /** Where an asset's file lies a second time; null for its first place. */
  readonly locationId: number | null;
  readonly path: string;
  readonly bytes: number;
  readonly modifiedMs: number;
  readonly fingerprint: string | null;
  readonly shelfState: KnownState;
}

/** A file, with what it says of itself or why it cannot be read. */
interface Found {
  readonly item: ShelfItem;
  readonly probed: Probed | { readonly reason: string };
}

type Counts = { -readonly [Key in Exclude<keyof ScanResult, 'foundAgain' | 'unreadableFolders' | 'remark'>]: number };

/** Walks a storage, catalogues what is new, and notes what changed, went or came back. Reads only. */
export async function scanStorage(context: JobContext): Promise<Record<string, unknown>> {
  const storage = await StorageRow.findByPk(Number(context.job.payload['storageId']));
  if (!storage) throw notFound('storage');
  await access(storage.rootPath, constants.R_OK).catch(() => {
    throw refused(
      `${storage.rootPath} cannot be read: the storage is not mounted, or the server may not look into it.`,
    );
  });
  return { ...(await new Scan(context, storage).run()) };
}

const shortened = (folder: string): string => (folder.length > 120 ? `…${folder.slice(-119)}` : folder);

class Scan {
  private readonly counts: Counts = { seen: 0, added: 0, unchanged: 0, changed: 0, missing: 0, back: 0, unreadable: 0 };
  private readonly foundAgain: string[] = [];
  private readonly unreadableFolders: string[] = [];
  private readonly unnameable: { folder: string; things: number }[] = [];
  private readonly folders: readonly ScanFolder[];

  constructor(
    private readonly context: JobContext,
    private readonly storage: StorageRow,
  ) {
    this.folders = scanFolders(context.job.payload);
  }

  async run(): Promise<ScanResult> {
    const mine = (await knownFiles(this.context.db, this.storage.id)).filter(({ path }) => this.isMine(folderOf(path)));
    const known = new Map(mine.map((file) => [file.path, file]));
    const found = await this.find();
    const whole = this.folders.some(({ path, deep }) => path === '' && deep);
    const bare = found.length === 0 && known.size > 0;
    if (bare && (whole || (await lookAtStorage(this.storage.rootPath, true)) === 'offline'))
      throw refused(
        `${this.storage.rootPath} is empty although ${known.size} files are catalogued in it: probably it is not mounted. Nothing was marked missing.`,
      );
    this.counts.seen = found.length;
    this.context.report({ done: 0, total: found.length, message: null });

    const here = new Set(found.map((item) => item.path));
    const gone = mine.filter((file) => !here.has(file.path) && !this.isUnreadable(folderOf(file.path)));
    await this.markGone(gone);
    const fresh = await this.compare(found, known);
    await this.catalogue(fresh);
    return {
      ...this.counts,
      foundAgain: this.foundAgain.slice(0, LISTED),
      unreadableFolders: this.unreadableFolders.slice(0, LISTED),
      remark: this.remark(),
    };
  }

  /** Everything in the folders asked for; one that cannot be read is noted, and the scan goes on. */
  private async find(): Promise<ShelfItem[]> {
    const found = new Map<string, ShelfItem>();
    for (const { path, deep } of this.folders) {
      const where = await whereabouts(this.storage.rootPath, path);
      if (where === 'outside') throw refused(`${path} lies outside the storage: a link leads out of it.`);
      // A folder that is gone has nothing in it; its files are missing.
      if (where === 'nowhere') continue;
      for await (const items of walk(this.storage.rootPath, path, {
        deep,
        signal: this.context.signal,
        onUnreadable: (folder, error) => {
          // The storage itself is no part that could be passed over.
          if (folder === '') throw error;
          this.unreadableFolders.push(folder);
        },
        onUnnameable: (folder, things) => void this.unnameable.push({ folder, things }),
      })) {
        for (const item of items) found.set(item.path, item);
        this.context.report({ done: 0, total: null, message: `${found.size} files found so far` });
      }
    }
    return [...found.values()];
  }

  private isMine(folder: string): boolean {
    return this.folders.some((each) => covers(each, folder));
  }

  /** What lies in a folder that could not be read is not known to be gone. */
  private isUnreadable(folder: string): boolean {
    return this.unreadableFolders.some((path) => covers({ path, deep: true }, folder));
  }

  private remark(): string | null {
    return [this.wordUnreadable(), this.wordUnnameable()].filter(Boolean).join(' ') || null;
  }

  private wordUnreadable(): string {
    const [folder, ...more] = this.unreadableFolders;
    if (folder === undefined) return '';
    return more.length === 0
      ? `The folder ${shortened(folder)} could not be read; the rest was scanned.`
      : `${more.length + 1} folders could not be read, such as ${shortened(folder)}; the rest was scanned.`;
  }

  private wordUnnameable(): string {
    const things = this.unnameable.reduce((sum, each) => sum + each.things, 0);
    if (things === 0) return '';
    const where = this.unnameable[0]?.folder ? `, such as in ${shortened(this.unnameable[0].folder)}` : '';
    return `${things === 1 ? 'One name is' : `${things} names are`} not UTF-8${where}, and cannot be opened; rename what bears such a name and scan again.`;
  }

  private async markGone(files: readonly Known[]): Promise<void> {
    this.counts.missing = files.length;
    await this.setStates(
      files.filter((file) => file.shelfState !== 'missing').map((file) => ({ file, state: 'missing' as const })),
    );
  }

  /** Compares what was found with the catalogue and gives what is new to it. Unchanged size and time is an unchanged file. */
  private async compare(found: readonly ShelfItem[], known: ReadonlyMap<string, Known>): Promise<ShelfItem[]> {
    const fresh: ShelfItem[] = [];
    const states: { file: Known; state: KnownState }[] = [];
    for (const item of found) {
      this.context.signal.throwIfAborted();
      const file = known.get(item.path);
      if (!file) {
        fresh.push(item);
        continue;
      }
      const untouched = file.bytes === item.bytes && file.modifiedMs === item.modifiedMs;
      const same = untouched || (file.bytes === item.bytes && (await this.printOf(item)) === file.fingerprint);
      const state: KnownState = same ? 'online' : 'changed';
      if (same) this.counts[file.shelfState === 'online' ? 'unchanged' : 'back'] += 1;
      else this.counts.changed += 1;
      if (file.shelfState !== state) states.push({ file, state });
    }
    await this.setStates(states);
    this.context.report({ done: found.length - fresh.length });
    return fresh;
  }

  private async printOf(item: ShelfItem): Promise<string | null> {
    return withFile(join(this.storage.rootPath, item.path), fingerprint).catch(() => null);
  }

  private async setStates(changes: readonly { readonly file: Known; readonly state: KnownState }[]): Promise<void> {
    if (changes.length === 0) return;
    const now = Date.now();
    await write(this.context.db, this.context.job.personId, async ({ transaction, log }) => {
      for (const state of ['online', 'missing', 'changed'] as const) {
        const files = changes.filter((change) => change.state === state).map(({ file }) => file);
        const ids = files.filter(({ locationId }) => locationId === null).map(({ id }) => id);
        const others = files.flatMap(({ locationId }) => locationId ?? []);
        if (ids.length > 0)
          await AssetRow.update({ shelfState: state, stateSinceMs: now }, { where: { id: ids }, transaction });
        if (others.length > 0)
          await this.context.db.query(
            'UPDATE asset_location SET shelf_state = :state, state_since_ms = :now WHERE id IN (:others)',
            { replacements: { state, now, others }, transaction },
          );
      }
      for (const { file, state } of changes)
        log({
          action: 'scan',
          entity: 'asset',
          entityId: file.id,
          before: { state: file.shelfState },
          after: { state },
        });
    });
  }

  private async catalogue(fresh: readonly ShelfItem[]): Promise<void> {
    const before = this.counts.seen - fresh.length;
    let done = 0;
    const queue = [...fresh];
    let batch: Found[] = [];
    let writing = Promise.resolve();
    const flush = () => {
      const full = batch;
      batch = [];
      // One after the other, while the probing goes on.
      writing = writing.then(() => this.add(full));
    };
    const prober = async () => {
      for (let item = queue.shift(); item; item = queue.shift()) {
        this.context.signal.throwIfAborted();
        // Into the batch of the moment after the probe: the one before it may have been written already.
        const probed = await this.probe(item);
        batch.push({ item, probed });
        done += 1;
        this.context.report({ done: before + done });
        if (batch.length >= BATCH) flush();
      }
    };
    await Promise.all(Array.from({ length: Math.max(2, availableParallelism()) }, prober));
    flush();
    await writing;
  }

  /** What a file says of itself, or why it cannot be read; one bad file never ends a scan. */
  private async probe(item: ShelfItem): Promise<Probed | { reason: string }> {
    const path = join(this.storage.rootPath, item.path);
    try {
      const probed = await probeItem(this.storage.rootPath, item, this.context.signal);
      return probed.facts.kind === 'unreadable' ? { reason: 'It holds neither picture nor sound.' } : probed;
    } catch (error) {
      if (error instanceof ToolError && error.reason === 'cancelled') throw error;
      return { reason: wordJobError(error).replaceAll(`${path}: `, '') };
    }
  }

  private async add(batch: readonly Found[]): Promise<void> {
    if (batch.length === 0) return;
    const lost = await this.lostPrints(batch.flatMap(({ probed }) => ('reason' in probed ? [] : [probed.fingerprint])));
    const fresh = batch.filter(({ item, probed }) => {
      const again = !('reason' in probed) && lost.has(`${probed.fingerprint} ${item.bytes}`);
      if (again) this.foundAgain.push(item.path);
      return !again;
    });
    const rows = await this.create(fresh).catch(async (error: unknown) => {
      if (!(error instanceof UniqueConstraintError)) throw error;
      // Another scan has catalogued some of these meanwhile; what it has is let be.
      const known = new Set((await knownFiles(this.context.db, this.storage.id)).map((file) => file.path));
      return this.create(fresh.filter(({ item }) => !known.has(item.path)));
    });
    this.counts.added += rows.length;
    this.counts.unreadable += rows.filter((row) => row.kind === 'unreadable').length;
  }

  private async create(fresh: readonly Found[]): Promise<AssetRow[]> {
    const now = Date.now();
    const { value } = await write(this.context.db, this.context.job.personId, async ({ transaction, log }) => {
      const made: AssetRow[] = [];
      // One by one: only so does each row come back with the number it was given.
      for (const { item, probed } of fresh)
        made.push(await AssetRow.create(assetColumns(this.storage.id, item, probed, now), { transaction }));
      await enqueue(made.flatMap(renditionJobs), transaction);
      for (const row of made)
        log({ action: 'catalogue', entity: 'asset', entityId: row.id, after: { path: row.path } });
      return made;
    });
    return value;
  }

  /** Which of these are byte for byte a missing asset's file: cataloguing one would make a second asset of the same recording. */
  private async lostPrints(prints: readonly string[]): Promise<Set<string>> {
    if (prints.length === 0) return new Set();
    const rows = await select<{ fingerprint: string; bytes: number }>(
      this.context.db,
      `SELECT fingerprint, bytes FROM asset WHERE fingerprint IN (:prints) AND shelf_state = 'missing'`,
      { prints },
    );
    return new Set(rows.map((row) => `${row.fingerprint} ${row.bytes}`));
  }
}

const knownFiles = (db: Sequelize, storageId: number): Promise<Known[]> =>
  select<Known>(
    db,
    `SELECT id, NULL AS locationId, path, bytes, modified_ms AS modifiedMs, fingerprint, shelf_state AS shelfState FROM asset WHERE storage_id = :storageId
     UNION ALL SELECT l.asset_id, l.id, l.path, l.bytes, l.modified_ms, a.fingerprint, l.shelf_state FROM asset_location l JOIN asset a ON a.id = l.asset_id WHERE l.storage_id = :storageId`,
    { storageId },
  );
