import type { Sequelize } from 'sequelize';
import type { FieldRegistry } from '@larder/core/fields';
import { foldTag } from '@larder/core/tags';
import { readSidecar } from '@larder/core/interchange/xmp';
import type { Job, ReadSidecars, SidecarsRead } from '@larder/contract';
import { enqueueOne } from '../jobs/queue';
import { sayEach, type EachSaid } from './each-edits';
import { allowedTags } from './tags';
import { refused } from './errors';
import { TableMatcher, type Match } from './table-match';

/** Somebody waits for it. */
const URGENT = 70;
/** Beyond this the message is no help any more; all of them are counted. */
const LEFT_TOLD = 50;

/** Has the sidecars of some assets written into the export folder. */
export const queueSidecars = (personId: number, assetIds: readonly number[]): Promise<Job> =>
  enqueueOne({
    kind: 'sidecars',
    subject: `${assetIds.length.toLocaleString('en')} assets`,
    payload: { assetIds },
    unit: 'files',
    priority: URGENT,
    personId,
  });

const partition = <T>(all: readonly T[], good: (one: T) => boolean): readonly [T[], T[]] => [
  all.filter(good),
  all.filter((one) => !good(one)),
];

const ENDING = /\.xmp$/i;

/** What a sidecar belongs to by its name, and where that is not enough by as much of its path as leads to one asset. */
async function meantBy(matcher: TableMatcher, paths: readonly string[]): Promise<Match[]> {
  const originals = paths.map((path) => path.replace(ENDING, '').split('/'));
  const byName = await matcher.match(originals.map((parts) => new Map([['name', parts.at(-1) ?? '']])));
  return Promise.all(
    byName.map(async (match, index) => {
      if (!('several' in match)) return match;
      const parts = originals[index] ?? [];
      const tails = parts.map((_part, from) => new Map([['path' as const, parts.slice(from).join('/')]]));
      return (await matcher.match(tails)).find((tail) => 'id' in tail) ?? match;
    }),
  );
}

/** Says of the assets that sidecars belong to what those say, as one change; what belongs to none is told. */
export async function saySidecars(
  db: Sequelize,
  personId: number,
  { files }: ReadSidecars,
  fields: FieldRegistry,
): Promise<SidecarsRead> {
  const left: { path: string; why: string }[] = [];
  const said = new Map<number, EachSaid>();
  const reads = files.map(({ text }) => readSidecar(text, fields));
  const allowed = await allowedTags(
    db,
    reads.flatMap((read) => read?.tags ?? []),
  );
  const matches = await meantBy(
    await TableMatcher.open(db),
    files.map(({ path }) => path),
  );
  files.forEach(({ path }, index) => {
    const [match, read] = [matches[index], reads[index]];
    if (!read) left.push({ path, why: 'That is no XMP sidecar.' });
    else if (!match || 'none' in match) left.push({ path, why: 'No asset is called that.' });
    else if ('several' in match) left.push({ path, why: `${match.several} assets are called that.` });
    else if (said.has(match.id)) left.push({ path, why: 'Another of these files belongs to the same asset.' });
    else {
      const [names, strange] = partition(read.tags ?? [], (name) => !allowed || allowed.has(foldTag(name)));
      said.set(match.id, { set: read.set, tags: { names, others: 'keep' } });
      const unknown = strange.map((name) => `“${name}” is no tag of any set.`);
      left.push(...[...read.issues, ...unknown].map((why) => ({ path, why })));
    }
  });
  if (said.size === 0) throw refused(`None of them was read. ${left[0]?.path}: ${left[0]?.why}`);
  const { written } = await sayEach(db, personId, {
    assetIds: [...said.keys()],
    // Whoever reads sidecars in means it, whatever was said before.
    seenRevision: Number.MAX_SAFE_INTEGER,
    decide: () => said,
  });
  if (!written) throw new Error('what was no dry run wrote nothing');
  return { ...written, read: said.size, left: left.length, leftTold: left.slice(0, LEFT_TOLD) };
}
