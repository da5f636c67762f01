import type { Asset } from '@larder/contract';
import { assetsById } from '../store/assets';
import { readFields } from '../store/shop-fields';
import { sidecarOf } from '../store/sidecars';
import type { JobContext } from './context';

const BATCH = 200;

/** Below the storage's name as the original lies there; a subclip beside its whole, under its own name too. */
function placeOf({ storage, path, parentId, name, id }: Asset): string[] {
  const parts = path.split('/');
  const file = parts.pop() ?? '';
  return [storage, ...parts, parentId === null ? `${file}.xmp` : `${file} ${name} ${id}.xmp`];
}

/** Writes the sidecars of some assets into the export folder. Taken up again, it writes them all anew, as they are by then. */
export async function writeSidecars(context: JobContext): Promise<Record<string, unknown>> {
  const { db, job, signal, report, exports } = context;
  const ids = job.payload['assetIds'] as readonly number[];
  const fields = await readFields(db);
  let written = 0;
  for (let start = 0; start < ids.length; start += BATCH) {
    for (const asset of await assetsById(db, ids.slice(start, start + BATCH))) {
      signal.throwIfAborted();
      await exports.put(job.id, placeOf(asset), await sidecarOf(db, asset, fields));
      written += 1;
      report({ done: written, total: ids.length });
    }
  }
  report({ done: written, total: written });
  return { written, remark: `In ${exports.folder(job.id)}` };
}
