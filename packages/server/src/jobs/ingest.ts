import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import { UniqueConstraintError } from 'sequelize';
import { ingestSettingsSchema, placeItem, type IngestSettings, type Placing, type TwinWay } from '@larder/core/ingest';
import { folderOf, isMediaName, type ShelfItem } from '@larder/core/shelf';
import { countingForRate } from '@larder/core/timecode';
import type { ScanFolder } from '@larder/contract';
import { ManagedStore } from '../media/managed-store';
import { probeItem, type Probed } from '../media/probe';
import { spaceAt } from '../media/volume';
import { binAt, putIntoBin } from '../store/bins';
import { write, type Writing } from '../store/change-feed';
import { isDatabaseGone, select } from '../store/database';
import { notFound, refused } from '../store/errors';
import { changeItem, hashedFiles, ingestRows, noteItems, type HashedFile, type IngestRow } from '../store/ingest-items';
import { addLocation } from '../store/locations';
import { AssetRow, RenditionRow, StorageRow } from '../store/models';
import { putTags, tagIds } from '../store/tags';
import { findTwin, type TwinFound } from '../store/twins';
import { lookAtStorage, storageToCopyTo } from '../store/storages';
import { assetColumns, MEZZANINE_PRIORITY, pathHash, recognitionsOn, renditionJobs, saidColumns } from './catalogue';
import { wordJobError, type JobContext } from './context';
import { itemsWanted } from './ingest-items';
import { nameAt, nameFor } from './ingest-names';
import { corrected } from './corrections';
import { writeManifest } from './manifest';
import { enqueue, type NewJob } from './queue';
import { noteFixity } from '../store/fixity';

/** What an ingest is asked, as its job keeps it. */
export interface IngestPayload {
  /** The storage that things come from; null for what was uploaded. */
  readonly storageId: number | null;
  /** The folder of an upload below the upload root. */
  readonly upload: string | null;
  readonly paths: readonly string[];
  readonly folders: readonly ScanFolder[];
  readonly settings: IngestSettings;
  readonly twins: readonly { readonly path: string; readonly way: TwinWay }[];
}

/** What a system says of a disk, or of somebody's share of it, that holds no more. */
const FULL: ReadonlySet<string> = new Set(['ENOSPC', 'EDQUOT']);

type Facts = Probed | { readonly reason: string } | { readonly document: true };

/** Brings files into the library as somebody has decided. Begun again, it goes on with what is not done yet. */
export async function ingest(context: JobContext): Promise<Record<string, unknown>> {
  const payload = context.job.payload as unknown as IngestPayload;
  const settings = await ingestSettingsSchema.validate(payload.settings);
  const source = payload.storageId === null ? null : await StorageRow.findByPk(payload.storageId);
  if (payload.storageId !== null && !source) throw notFound('storage');
  const root = source?.rootPath ?? context.uploads.folder(payload.upload ?? '');
  const target = settings.way === 'copy' ? await targetOf(settings) : null;
  return new Ingest(context, { ...payload, settings }, { root, storage: source }, target).run();
}

async function targetOf({ destination }: IngestSettings): Promise<StorageRow> {
  if (!destination) throw notFound('storage to copy to');
  return storageToCopyTo(destination.storageId);
}

interface SourceOf {
  readonly root: string;
  readonly storage: StorageRow | null;
}

class Ingest {
  private readonly taken = new Set<string>();
  private readonly counts = { done: 0, skipped: 0, failed: 0 };
  private readonly settings: IngestSettings;
  private doneBytes = 0;
  private number = 0;

  constructor(
    private readonly context: JobContext,
    private readonly payload: IngestPayload,
    private readonly source: SourceOf,
    private readonly target: StorageRow | null,
  ) {
    this.settings = payload.settings;
  }

  async run(): Promise<Record<string, unknown>> {
    await this.refuseIfGone('Nothing was begun');
    const items = await itemsWanted(this.context, this.source.root, this.payload);
    await noteItems(this.context.db, this.context.job.id, items);
    const rows = await ingestRows(this.context.db, this.context.job.id);
    const byPath = new Map(items.map((item) => [item.path, item]));
    const total = rows.reduce((sum, row) => sum + this.weight(row.bytes), 0);
    await this.refuseIfFull(rows);
    // What came in before an interruption has its names, and so has what goes with it.
    for (const { to } of await hashedFiles(this.context.db, this.context.job.id)) this.taken.add(to.toLowerCase());
    this.context.report({ done: 0, total, message: null });
    for (const row of rows) {
      this.number += 1;
      const item = byPath.get(row.path);
      if (row.toPath) this.taken.add(row.toPath.toLowerCase());
      if (row.state !== 'done' && row.state !== 'skipped') await this.bringIn(row, item);
      else this.counts[row.state] += 1;
      this.doneBytes += this.weight(row.bytes);
      this.context.report({ done: this.doneBytes, attempts: 1 });
    }
    if (this.target && this.settings.destination)
      await writeManifest(this.context, this.target.rootPath, this.settings.destination.folder);
    if (this.payload.upload !== null && this.counts.failed === 0) await this.context.uploads.drop(this.payload.upload);
    return { ...this.counts, remark: this.remark() };
  }

  /** Every byte of a copy is read or written twice; what is used in place is hardly touched. */
  private weight(bytes: number): number {
    return this.target ? bytes : 1;
  }

  private remark(): string | null {
    const { done, skipped, failed } = this.counts;
    return failed + skipped === 0
      ? null
      : [`${done} came in`, skipped > 0 ? `${skipped} skipped` : '', failed > 0 ? `${failed} failed` : '']
          .filter(Boolean)
          .join(', ');
  }

  private async refuseIfGone(what: string): Promise<void> {
    const { storage, root } = this.source;
    const there = storage
      ? (await lookAtStorage(root, false, storage.volume)) === 'online'
      : (await stat(root).catch(() => null)) !== null;
    if (!there)
      throw refused(
        `${storage?.name ?? 'The upload'} went away. ${what}; mount it again and resume, and it goes on from here.`,
      );
  }

  private async refuseToGoOn(error: unknown): Promise<void> {
    const sofar = `${this.counts.done + this.counts.skipped} things are in`;
    if (FULL.has((error as NodeJS.ErrnoException).code ?? ''))
      throw refused(
        `“${this.target?.name ?? ''}” is full. ${sofar}; free some space and resume, and it goes on from here.`,
      );
    await this.refuseIfGone(sofar);
  }

  private async refuseIfFull(rows: readonly IngestRow[]): Promise<void> {
    if (!this.target) return;
    const needed = rows
      .filter(({ state }) => state !== 'done' && state !== 'skipped')
      .reduce((sum, row) => sum + row.bytes, 0);
    const { freeBytes } = await spaceAt(this.target.rootPath);
    if (freeBytes !== null && freeBytes < needed)
      throw refused(
        `“${this.target.name}” has ${gigabytes(freeBytes)} free and ${gigabytes(needed)} are needed. Nothing was copied; free some space and resume.`,
      );
  }

  private async bringIn(row: IngestRow, item: ShelfItem | undefined): Promise<void> {
    const { db, signal } = this.context;
    signal.throwIfAborted();
    try {
      if (!item) throw refused('It is not there any more.');
      await changeItem(db, row.id, { state: 'working' });
      await this.bringInItem(row, item);
    } catch (error) {
      signal.throwIfAborted();
      // Begun again when it is back, the item is done then.
      if (isDatabaseGone(error)) throw error;
      // A volume that was pulled, or is full, is no fault of the file; the next one would fare no better.
      await this.refuseToGoOn(error).catch(async (ended: unknown) => {
        await changeItem(db, row.id, { state: 'waiting' });
        throw ended;
      });
      this.counts.failed += 1;
      await changeItem(db, row.id, { state: 'failed', message: wordJobError(error) });
    }
  }

  private async bringInItem(row: IngestRow, item: ShelfItem): Promise<void> {
    const { db } = this.context;
    const facts = await this.factsOf(item);
    const twin = await this.twinOf(item, facts);
    const way = twin ? this.twinWay(item.path) : null;
    if (twin && way === 'skip') {
      this.counts.skipped += 1;
      return changeItem(db, row.id, {
        state: 'skipped',
        assetId: twin.assetId,
        message: `The library has it: ${twin.at}.`,
      });
    }
    const placing = this.target ? this.place(item, facts, row.toPath) : null;
    const hashes = placing ? await this.copy(row, placing) : [];
    const at = placing && this.target ? { storage: this.target, path: placing.to } : null;
    await this.catalogue(row, item, facts, way === 'location' ? twin : null, at, hashes);
    this.counts.done += 1;
  }

  private async factsOf(item: ShelfItem): Promise<Facts> {
    if (!isMediaName(item.path)) return { document: true };
    try {
      const probed = await probeItem(this.source.root, item, this.context.signal);
      if (probed.facts.kind === 'unreadable') return { reason: 'It holds neither picture nor sound.' };
      const facts = corrected(probed.facts, this.settings.corrections);
      const { reel, scene } = this.settings.fields;
      return { ...probed, facts: { ...facts, reel: reel || facts.reel, scene: scene || facts.scene } };
    } catch (error) {
      this.context.signal.throwIfAborted();
      if (isDatabaseGone(error)) throw error;
      return { reason: wordJobError(error).replaceAll(`${join(this.source.root, item.path)}: `, '') };
    }
  }

  /** The same file at the same place is no twin; it is in the library already. */
  private async twinOf(item: ShelfItem, facts: Facts): Promise<TwinFound | null> {
    if (!('facts' in facts)) return null;
    const { rate, dropFrame, durationFrames, startFrame } = facts.facts;
    const twin = await findTwin(this.context.db, {
      name: item.name,
      bytes: item.bytes,
      fingerprint: facts.fingerprint,
      counting: rate && countingForRate(rate, dropFrame),
      durationFrames,
      startFrame,
    });
    return twin && twin.at === `${this.source.storage?.name ?? ''}/${item.path}` ? null : twin;
  }

  private twinWay(path: string): TwinWay {
    return this.payload.twins.find((each) => each.path === path)?.way ?? this.settings.twins;
  }

  private nameOf(item: ShelfItem, facts: Facts): string | null {
    const { naming } = this.settings;
    return naming === '' ? null : nameFor(naming, item, 'facts' in facts ? facts.facts : null, this.number);
  }

  private place(item: ShelfItem, facts: Facts, decided: string | null): Placing {
    const into = this.settings.destination?.folder ?? '';
    // What was decided before an interruption holds; its own name is not in its way.
    if (decided) this.taken.delete(decided.toLowerCase());
    return placeItem(item, into, this.nameOf(item, facts), this.taken);
  }

  private async copy(row: IngestRow, placing: Placing): Promise<HashedFile[]> {
    const { db, signal } = this.context;
    await changeItem(db, row.id, { state: 'working', toPath: placing.to });
    const store = new ManagedStore(this.target?.rootPath ?? '');
    const hashes: HashedFile[] = [];
    let seen = 0;
    for (const { from, to } of placing.files) {
      const copied = await store.copy(join(this.source.root, from), to, {
        signal,
        bytes: (more) => {
          seen += more;
          this.context.report({ done: this.doneBytes + Math.min(row.bytes, Math.floor(seen / 2)) });
        },
      });
      hashes.push({ to, ...copied, atMs: Date.now() });
    }
    return hashes;
  }

  /** The catalogue's entry, and everything that was said of it, in one write: all of it or nothing. */
  private async catalogue(
    row: IngestRow,
    item: ShelfItem,
    facts: Facts,
    sameAs: TwinFound | null,
    at: { readonly storage: StorageRow; readonly path: string } | null,
    hashes: readonly HashedFile[],
  ): Promise<void> {
    const { db, job } = this.context;
    const storageId = at?.storage.id ?? this.source.storage?.id;
    if (storageId === undefined) throw refused('What is uploaded has to be copied to a storage.');
    const here: ShelfItem = at
      ? { ...item, path: at.path, name: at.path === item.path ? item.name : nameAt(item, at.path) }
      : item;
    await write(db, job.personId, async (writing) => {
      const { transaction, log } = writing;
      const known = sameAs?.assetId ?? (await this.ownerOf(storageId, here.path, writing));
      const assetId = known ?? (await this.create(storageId, here, facts, writing));
      // It was in the library already: what was asked for is added to it, and nothing of it is changed.
      const message =
        known !== null && !sameAs ? 'It was in the library already; bin, tags and mezzanine were added.' : null;
      if (known !== null) await this.addMezzanine(known, writing);
      if (sameAs) await addLocation(db, assetId, storageId, here, transaction);
      // The card that it was copied from is then known too, and not new any more.
      if (at && this.source.storage) await addLocation(db, assetId, this.source.storage.id, item, transaction);
      if (hashes[0] && at)
        await noteFixity(
          db,
          {
            assetId,
            storageId,
            path: at.path,
            outcome: 'first',
            xxh64: hashes[0].xxh64,
            bytes: hashes[0].bytes,
            personId: job.personId,
          },
          transaction,
        );
      await this.describe(assetId, item, writing);
      await changeItem(
        db,
        row.id,
        { state: 'done', assetId, message, ...(hashes.length > 0 ? { hashes } : {}) },
        transaction,
      );
      log({ action: 'ingest', entity: 'asset', entityId: assetId, after: { path: here.path } });
    }).catch((error: unknown) => {
      // A scan has catalogued it in the same moment.
      if (error instanceof UniqueConstraintError) throw refused('It was being catalogued by somebody else; try again.');
      throw error;
    });
  }

  private async ownerOf(storageId: number, path: string, { transaction }: Writing): Promise<number | null> {
    const [row] = await select<{ id: number }>(
      this.context.db,
      `SELECT id FROM asset WHERE storage_id = :storageId AND path_hash = :hash
       UNION SELECT asset_id FROM asset_location WHERE storage_id = :storageId AND path_hash = :hash`,
      { storageId, hash: pathHash(path) },
      transaction,
    );
    return row?.id ?? null;
  }

  private async create(storageId: number, item: ShelfItem, facts: Facts, { transaction }: Writing): Promise<number> {
    const now = Date.now();
    const { fields, corrections } = this.settings;
    const columns =
      'document' in facts
        ? { ...assetColumns(storageId, item, { reason: '' }, now), kind: 'document' as const, reason: null }
        : assetColumns(storageId, item, facts, now);
    const said = 'document' in facts || 'reason' in facts ? {} : saidColumns(facts.facts);
    const named = !this.target && this.settings.naming !== '' ? this.nameOf(item, facts) : null;
    const asset = await AssetRow.create(
      {
        ...columns,
        ...said,
        title: fields.title || named,
        ...(fields.description ? { description: fields.description } : {}),
        ...(fields.notes ? { notes: fields.notes } : {}),
        alpha: corrections.alpha,
      },
      { transaction },
    );
    const storage = this.target?.id === storageId ? this.target : this.source.storage;
    const recognitions = recognitionsOn(this.settings.recognises ? this.settings : storage, [asset]);
    await enqueue([...renditionJobs(asset), ...recognitions, ...this.mezzanineJob(asset)], transaction);
    return asset.id;
  }

  private async addMezzanine(assetId: number, { transaction }: Writing): Promise<void> {
    const asset = await AssetRow.findByPk(assetId, { transaction });
    const has = await RenditionRow.findOne({ where: { assetId, kind: 'mezzanine' }, transaction });
    if (asset && !has) await enqueue(this.mezzanineJob(asset), transaction);
  }

  private mezzanineJob({ id, name, kind }: AssetRow): NewJob[] {
    const { mezzanine } = this.settings;
    if (mezzanine === 'none' || !['video', 'sequence', 'audio'].includes(kind)) return [];
    const unit = kind === 'audio' ? '' : 'frames';
    const payload = { assetId: id, codec: mezzanine };
    return [{ kind: 'mezzanine', subject: name, payload, assetId: id, unit, priority: MEZZANINE_PRIORITY }];
  }

  /** Tags and bins; also of what the library had already. */
  private async describe(assetId: number, item: ShelfItem, writing: Writing): Promise<void> {
    const { bin, tags } = this.settings;
    const { db } = this.context;
    await putTags(db, [assetId], await tagIds(db, tags, writing.transaction), writing.transaction);
    if (bin.id === null && bin.name === '' && !bin.mirror) return;
    const top = bin.name === '' ? bin.id : await binAt(bin.id, [bin.name], this.context.job.personId, writing);
    const steps = bin.mirror ? folderOf(item.path).split('/').filter(Boolean) : [];
    const binId = await binAt(top, steps, this.context.job.personId, writing);
    if (binId !== null) await putIntoBin(this.context.db, binId, [assetId], writing);
  }
}

const gigabytes = (bytes: number): string => `${(bytes / 1e9).toFixed(bytes < 1e10 ? 2 : 0)} GB`;
