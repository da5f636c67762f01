import { basename } from 'node:path';
import type { FileFacts, UsedRange } from '@larder/core/relink';
import { folderOf, type ShelfItem } from '@larder/core/shelf';
import { probeItem } from '../media/probe';
import { factsOf } from '../store/file-facts';
import { write } from '../store/change-feed';
import { refused, RequestError } from '../store/errors';
import { queueVerify } from '../store/fixity';
import type { StorageRow } from '../store/models';
import { relink, type Link } from '../store/relink';
import { acceptedOf, noteTrouble, noteVerified, type Accepted } from '../store/relink-plans';
import { semblancesOf } from '../store/semblances';
import { lookAtStorage } from '../store/storages';
import { usedRanges } from '../store/usage';
import { wordJobError, type JobContext } from './context';
import { footageIn, linkTo, placeKey, ruledOutBy, storageThere } from './relink-files';

/**
 * Carries out what is accepted in a plan. Every file is opened first, since it may have changed after it was proposed. Then all links are
 * mended in one step, or none: where a file is gone or cannot stand in any more, that is noted in the plan and nothing is relinked.
 */
export async function mend(context: JobContext): Promise<Record<string, unknown>> {
  const { db, job, report, signal } = context;
  const planId = Number(job.payload['planId']);
  const accepted = await acceptedOf(db, planId);
  report({ done: 0, total: accepted.length });
  const ids = accepted.map(({ assetId }) => assetId);
  const owners = accepted.flatMap(({ takesIn }) => takesIn ?? []);
  const [lost, used, semblances] = await Promise.all([
    factsOf(db, ids),
    usedRanges(db, ids),
    semblancesOf(db, [...ids, ...owners]),
  ]);
  const folders = new Folders();
  const taken = new Map<string, number>();
  const links: Link[] = [];
  const troubles = new Map<number, string>();
  for (const [at, each] of accepted.entries()) {
    signal.throwIfAborted();
    try {
      const other = taken.get(placeKey(each));
      if (other !== undefined)
        throw refused(`${basename(each.path)} is accepted for another one too, asset #${other}.`);
      taken.set(placeKey(each), each.assetId);
      const facts = lost.get(each.assetId);
      if (!facts) throw refused('The asset has been taken away.');
      const semblance = semblances.get(each.assetId) ?? null;
      // It was looked at when it was catalogued; that it is still that file, is told by what is read of it now.
      const found = semblances.get(each.takesIn ?? 0) ?? null;
      links.push(
        await opened(
          each,
          { ...facts, semblance },
          { folders, semblance: found, used: used.get(each.assetId) ?? null, signal },
        ),
      );
    } catch (error) {
      signal.throwIfAborted();
      await refuseIfAway(await folders.storage(each.storageId));
      troubles.set(each.assetId, error instanceof RequestError ? error.message : wordJobError(error));
    }
    report({ done: at + 1 });
  }
  if (troubles.size > 0) {
    await noteTrouble(db, planId, troubles);
    const [first] = troubles.values();
    throw refused(
      `Nothing was relinked: ${troubles.size} of ${accepted.length} cannot be mended as planned, such as: ${first ?? ''} They are not accepted any more; mend again for the others.`,
    );
  }
  signal.throwIfAborted();
  const {
    group,
    revision,
    value: folded,
  } = await write(db, job.personId, async (writing) => {
    await noteVerified(db, planId, links, writing.transaction);
    return relink(db, writing, links, { askedMs: job.createdMs });
  });
  // Where all bytes were read once, they are read again; that may take hours, and nobody waits for it.
  const known = links.flatMap(({ assetId, likeness }) =>
    likeness === 'exact' && lost.get(assetId)?.checksum ? [assetId] : [],
  );
  if (known.length > 0) await queueVerify(job.personId, { assetIds: known }, { moved: true });
  return { group, revision, mended: links.length, folded };
}

/** The folders that were looked into, so that each is listed once as long as one file of it follows the other. */
class Folders {
  private readonly storages = new Map<number, Promise<StorageRow>>();
  private last = { key: '', items: Promise.resolve<ReadonlyMap<string, ShelfItem>>(new Map()) };

  storage(id: number): Promise<StorageRow> {
    const known = this.storages.get(id) ?? storageThere(id);
    this.storages.set(id, known);
    return known;
  }

  async item(storage: StorageRow, path: string): Promise<ShelfItem | undefined> {
    const key = `${storage.id}/${folderOf(path)}`;
    if (this.last.key !== key) {
      const items = footageIn(storage, folderOf(path));
      this.last = { key, items: items.then((all) => new Map(all.map((item) => [item.path, item]))) };
    }
    return (await this.last.items).get(path);
  }
}

interface Opening {
  readonly folders: Folders;
  /** What the file looks and sounds like, as far as that is known. */
  readonly semblance: FileFacts['semblance'];
  readonly used: UsedRange | null;
  readonly signal: AbortSignal;
}

async function opened(
  { assetId, path, storageId, takesIn }: Accepted,
  lost: FileFacts,
  { folders, semblance = null, signal, used }: Opening,
): Promise<Link> {
  const storage = await folders.storage(storageId);
  const item = await folders.item(storage, path);
  if (!item) throw refused(`${basename(path)} is not in ${storage.name} any more.`);
  const probed = await probeItem(storage.rootPath, item, signal);
  const { blockedBy, ...link } = linkTo({ assetId, facts: lost, used }, { storageId, item, probed }, { semblance });
  if (blockedBy.length > 0)
    throw refused(`${basename(path)} cannot stand in for ${basename(lost.path)}: its ${ruledOutBy(blockedBy)} it out.`);
  return { ...link, takesIn };
}

/** What is on a volume that was pulled is not gone: the work ends, and the plan stays as it is. */
async function refuseIfAway({ name, rootPath, volume }: StorageRow): Promise<void> {
  if ((await lookAtStorage(rootPath, true, volume)) === 'offline')
    throw refused(`“${name}” went away. Nothing was relinked. Mount it again, and mend again.`);
}
