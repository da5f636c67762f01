import type { Asset } from '@larder/contract';
import { semblanceOf } from '../media/semblance';
import { assetsById } from '../store/assets';
import { countUncompared, noteSemblance, uncompared } from '../store/semblances';
import type { JobContext } from './context';

/** So many are asked for at once. */
const AT_ONCE = 100;

/** Notes what an asset looks and sounds like, from its renditions. */
export const compare = async (
  { db, signal, store }: Pick<JobContext, 'db' | 'signal' | 'store'>,
  asset: Asset,
): Promise<void> => noteSemblance(db, asset, await semblanceOf(asset, store, signal));

/** Compares what has its renditions and was not compared yet. What was compared before this was interrupted is not done again. */
export async function compareAll(context: JobContext): Promise<Record<string, unknown>> {
  const { db, report, signal } = context;
  const total = await countUncompared(db);
  let [done, last] = [0, 0];
  report({ done, total });
  for (;;) {
    const ids = (await uncompared(db, last, AT_ONCE)).map(({ id }) => id);
    if (ids.length === 0) return { compared: done };
    for (const asset of await assetsById(db, ids)) {
      signal.throwIfAborted();
      await compare(context, asset);
      report({ done: (done += 1), total: Math.max(total, done) });
    }
    last = ids.at(-1) ?? last;
  }
}
