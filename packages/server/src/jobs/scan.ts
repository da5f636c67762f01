import { access, constants } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { UniqueConstraintError } from 'sequelize';
import type { ScanResult } from '@larder/contract';
import { fingerprint, withFile } from '../media/file-source';
import { probeItem, type Probed } from '../media/probe';
import { ToolError } from '../media/run';
import { listFolder } from '../media/walk';
import type { KnownState, ShelfItem } from '@larder/core/shelf';
import { write } from '../store/change-feed';
import { select } from '../store/database';
import { notFound, refused } from '../store/errors';
import { AssetRow, StorageRow } from '../store/models';
import { scanFolders } from '../store/scans';
import { knownIn, type KnownFile } from '../store/shelf-digest';
import { lookAtStorage } from '../store/storages';
import { assetColumns, pathHash, recognitionsOn, renditionJobs, saidColumns } from './catalogue';
import { enqueue } from './queue';
import { wordJobError, type JobContext } from './context';
import { lookOver, type Differing, type Look } from './scan-look';

/** New assets written in one transaction: few enough that they show up while the scan runs. */
const BATCH = 40;
/** Changes of state written in one transaction. */
const STATES = 1000;
/** Paths kept in a scan's result; counts are always whole. */
const LISTED = 1000;

/** A file, with what it says of itself or why it cannot be read. */
interface Found {
  readonly item: ShelfItem;
  readonly probed: Probed | { readonly reason: string };
}

interface Change {
  readonly file: KnownFile;
  readonly state: KnownState;
  readonly modifiedMs: number;
}

type Counts = { -readonly [Key in Exclude<keyof ScanResult, 'foundAgain' | 'unreadableFolders' | 'remark'>]: number };

/** Walks a storage, catalogues what is new, and notes what changed, went or came back. Reads only. */
export const scanStorage = (context: JobContext): Promise<Record<string, unknown>> => look(context, true);

/** As `scanStorage`, and leaves what is new. */
export const checkPresence = (context: JobContext): Promise<Record<string, unknown>> => look(context, false);

async function look(context: JobContext, catalogues: boolean): Promise<Record<string, unknown>> {
  const storage = await StorageRow.findByPk(Number(context.job.payload['storageId']));
  if (!storage) throw notFound('storage');
  await access(storage.rootPath, constants.R_OK).catch(() => {
    throw refused(
      `${storage.rootPath} cannot be read: the storage is not mounted, or the server may not look into it.`,
    );
  });
  return { ...(await new Scan(context, storage, catalogues).run()) };
}

const shortened = (folder: string): string => (folder.length > 120 ? `…${folder.slice(-119)}` : folder);

class Scan {
  private readonly counts: Counts = { seen: 0, added: 0, unchanged: 0, changed: 0, missing: 0, back: 0, unreadable: 0 };
  private readonly foundAgain: string[] = [];
  /** A folder is read up to three times, and told once. */
  private readonly unreadableFolders = new Set<string>();
  private unnameable: Look['unnameable'] = [];
  private changes: Change[] = [];

  constructor(
    private readonly context: JobContext,
    private readonly storage: StorageRow,
    private readonly catalogues: boolean,
  ) {}

  async run(): Promise<ScanResult> {
    const folders = scanFolders(this.context.job.payload);
    const look = await lookOver(this.context, this.storage, folders);
    const whole = folders.some(({ path, deep }) => path === '' && deep);
    if (look.seen === 0 && look.known > 0) await this.refuseIfBare(whole, look.known);
    for (const folder of look.unreadable) this.unreadableFolders.add(folder);
    this.unnameable = look.unnameable;
    this.counts.seen = look.seen;
    this.counts.unchanged = look.unchanged;
    this.context.report({ done: look.unchanged, total: look.seen, message: null });

    for (const folder of look.gone) await this.compare([], await this.knownIn(folder));
    let fresh = look.seen - look.unchanged;
    for (const { folder } of look.differing.filter(({ known }) => known)) {
      const items = await this.itemsIn(folder);
      if (items) fresh -= await this.compare(items, await this.knownIn(folder));
      this.context.report({ done: look.seen - fresh });
    }
    await this.setStates();
    // Only now that everybody knows what went: something new may be what went from elsewhere.
    if (this.catalogues) await this.catalogue(look.differing, look.seen - fresh);
    else this.context.report({ done: look.seen });
    // Not of interest to anybody who follows the library.
    if (whole) await StorageRow.update({ lookedMs: Date.now() }, { where: { id: this.storage.id } });
    return {
      ...this.counts,
      foundAgain: this.foundAgain.slice(0, LISTED),
      unreadableFolders: [...this.unreadableFolders].slice(0, LISTED),
      remark: this.remark(),
    };
  }

  private async refuseIfBare(whole: boolean, known: number): Promise<void> {
    if (whole || (await lookAtStorage(this.storage.rootPath, true)) === 'offline')
      throw refused(
        `${this.storage.rootPath} is empty although ${known} files are catalogued in it: probably it is not mounted. Nothing was marked missing.`,
      );
  }

  private knownIn(folder: string): Promise<KnownFile[]> {
    this.context.signal.throwIfAborted();
    return knownIn(this.context.db, this.storage.id, folder);
  }

  /** What lies in a folder now. One that cannot be read any more is noted, and its files are left as they stand. */
  private async itemsIn(folder: string): Promise<readonly ShelfItem[] | null> {
    this.context.signal.throwIfAborted();
    const listing = await listFolder(this.storage.rootPath, folder).catch((error: Error) => {
      if (folder === '') throw error;
      this.unreadableFolders.add(folder);
      return null;
    });
    return listing?.items ?? null;
  }

  private remark(): string | null {
    return [this.wordUnreadable(), this.wordUnnameable(), this.wordFoundAgain()].filter(Boolean).join(' ') || null;
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

  private wordFoundAgain(): string {
    const [first, ...more] = this.foundAgain;
    if (first === undefined) return '';
    return more.length === 0
      ? `${shortened(first)} is the file of a missing asset; relink it in Upkeep.`
      : `${more.length + 1} files are those of missing assets, such as ${shortened(first)}; relink them in Upkeep.`;
  }

  /**
   * Compares what lies in a folder with what the catalogue has there, and gives how many of the things it knows. Unchanged size
   * and time is an unchanged file.
   */
  private async compare(items: readonly ShelfItem[], known: readonly KnownFile[]): Promise<number> {
    const here = new Map(items.map((item) => [item.path, item]));
    let met = 0;
    for (const file of known) {
      this.context.signal.throwIfAborted();
      const item = here.get(file.path);
      const state = item ? await this.stateOf(file, item) : 'missing';
      if (item) met += 1;
      if (!item) this.counts.missing += 1;
      else if (state === 'changed') this.counts.changed += 1;
      else this.counts[file.shelfState === 'online' ? 'unchanged' : 'back'] += 1;
      // Of the same bytes under another time only the time is new; noted, so that the next scan need not read them again.
      const modifiedMs = item && state === 'online' ? item.modifiedMs : file.modifiedMs;
      if (state !== file.shelfState || modifiedMs !== file.modifiedMs) this.changes.push({ file, state, modifiedMs });
      if (this.changes.length >= STATES) await this.setStates();
    }
    return met;
  }

  private async stateOf(file: KnownFile, item: ShelfItem): Promise<KnownState> {
    if (file.bytes !== item.bytes) return 'changed';
    const same = file.modifiedMs === item.modifiedMs || (await this.printOf(item)) === file.fingerprint;
    return same ? 'online' : 'changed';
  }

  private async printOf(item: ShelfItem): Promise<string | null> {
    return withFile(join(this.storage.rootPath, item.path), fingerprint).catch(() => null);
  }

  private async setStates(): Promise<void> {
    const changes = this.changes;
    this.changes = [];
    if (changes.length === 0) return;
    const now = Date.now();
    await write(this.context.db, this.context.job.personId, async ({ transaction, log }) => {
      for (const [isAsset, table] of [
        [true, 'asset'],
        [false, 'asset_location'],
      ] as const) {
        const mine = changes.filter(({ file }) => (file.locationId === null) === isAsset);
        if (mine.length === 0) continue;
        const keys = mine.map(({ file, state, modifiedMs }) => [file.locationId ?? file.id, state, modifiedMs]);
        await this.context.db.query(
          `UPDATE ${table} t JOIN (${keys.map((_key, n) => (n === 0 ? 'SELECT ? AS id, ? AS state, ? AS modified' : 'SELECT ?, ?, ?')).join(' UNION ALL ')}) c ON c.id = t.id
           SET t.state_since_ms = IF(t.shelf_state = c.state, t.state_since_ms, ?), t.shelf_state = c.state, t.modified_ms = c.modified`,
          { replacements: [...keys.flat(), now], transaction },
        );
      }
      for (const { file, state, modifiedMs } of changes)
        log({
          action: 'scan',
          entity: 'asset',
          entityId: file.id,
          before: { state: file.shelfState, modifiedMs: file.modifiedMs },
          after: { state, modifiedMs },
        });
    });
  }

  /** What is new in folders, one thing after the other. */
  private async *freshIn(folders: readonly Differing[]): AsyncGenerator<ShelfItem, void, void> {
    for (const { folder, known } of folders) {
      const items = await this.itemsIn(folder);
      const had = new Set(known ? (await this.knownIn(folder)).map(({ path }) => path) : []);
      for (const item of items ?? []) if (!had.has(item.path)) yield item;
    }
  }

  private async catalogue(folders: readonly Differing[], before: number): Promise<void> {
    let done = 0;
    const fresh = this.freshIn(folders);
    let batch: Found[] = [];
    let writing = Promise.resolve();
    /** One batch is written while the next is probed; who fills the next one waits, and hears if the first went wrong. */
    const flush = (): Promise<void> => {
      const [full, last] = [batch, writing];
      batch = [];
      writing = last.then(() => this.add(full));
      writing.catch(() => undefined);
      return last;
    };
    const prober = async () => {
      for (let next = await fresh.next(); !next.done; next = await fresh.next()) {
        this.context.signal.throwIfAborted();
        const item = next.value;
        // Into the batch of the moment after the probe: the one before it may have been written already.
        const probed = await this.probe(item);
        batch.push({ item, probed });
        done += 1;
        this.context.report({ done: before + done });
        if (batch.length >= BATCH) await flush();
      }
    };
    await Promise.all(Array.from({ length: Math.max(2, availableParallelism()) }, prober));
    await flush();
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
      const known = await this.cataloguedAmong(fresh.map(({ item }) => item.path));
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
        made.push(
          await AssetRow.create(
            {
              ...assetColumns(this.storage.id, item, probed, now),
              ...('facts' in probed ? saidColumns(probed.facts) : {}),
            },
            { transaction },
          ),
        );
      await enqueue([...made.flatMap(renditionJobs), ...recognitionsOn(this.storage, made)], transaction);
      for (const row of made)
        log({ action: 'catalogue', entity: 'asset', entityId: row.id, after: { path: row.path } });
      return made;
    });
    return value;
  }

  private async cataloguedAmong(paths: readonly string[]): Promise<Set<string>> {
    const rows = await select<{ path: string }>(
      this.context.db,
      'SELECT path FROM asset WHERE storage_id = :storageId AND path_hash IN (:hashes)',
      { storageId: this.storage.id, hashes: paths.map(pathHash) },
    );
    return new Set(rows.map(({ path }) => path));
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
