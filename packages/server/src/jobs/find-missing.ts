import {
  isNamed,
  passesOver,
  planRelink,
  ruleKey,
  ruleOf,
  rulesIn,
  type MoveRule,
  type Place,
  type Pointed,
  type Proposal,
} from '@larder/core/relink';
import type { FindMissing, RelinkMatch, RelinkPoint } from '@larder/contract';
import { walk, whereabouts } from '../media/walk';
import { factsOf } from '../store/assets';
import { selectByIds } from '../store/database';
import { refused } from '../store/errors';
import { writePlan, type FoundRules } from '../store/relink-plans';
import { lostAmong } from '../store/relink-scope';
import { untouchedAssets, usedRanges } from '../store/usage';
import type { JobContext } from './context';
import { predicted } from './predicted';
import {
  candidatesOf,
  keyOf,
  placeKey,
  storageThere,
  type Candidates,
  type FoundFile,
  type LostOriginal,
} from './relink-files';

/** What is looked for, where it was looked, and what is accepted of it without a look. */
interface Search {
  readonly lost: readonly LostOriginal[];
  readonly files: readonly FoundFile[];
  readonly pointed: Pointed | null;
  /** What a file that a person points at tells of the others; null where nobody does. */
  readonly rule: MoveRule | null;
  accepts(assetId: number, first: RelinkMatch): boolean;
}

/**
 * Looks for files that could be the originals of missing assets, everywhere that is asked for, or where one that a person points at
 * says that they are. Makes a plan only; nothing is relinked.
 */
export async function findMissing(context: JobContext): Promise<Record<string, unknown>> {
  const { db, job } = context;
  const payload = job.payload as unknown as FindMissing | { readonly pointed: RelinkPoint };
  const { accepts, files, lost, pointed, rule } =
    'pointed' in payload ? await fromOne(context, payload.pointed) : await everywhere(context, payload);
  const { candidates, owners } = await candidatesOf(context, files);
  const plan = planRelink(lost, candidates, pointed);
  const rules = rulesOf(lost, plan, rule);
  const matches = await matchesOf(context, plan, candidates, owners);
  const isAccepted = (assetId: number, first: RelinkMatch | undefined): boolean => {
    if (!first || first.blockedBy.length > 0 || (first.catalogued && !first.catalogued.untouched)) return false;
    return accepts(assetId, first);
  };
  await writePlan(
    db,
    job.id,
    lost.map(({ assetId, lastSeen }, at) => ({
      ...{ assetId, lastSeen, matches: matches[at] ?? [], rule: rules.of.get(assetId) ?? null },
      accepted: isAccepted(assetId, matches[at]?.[0]),
    })),
  );
  const result: FoundRules = { looked: files.length, rules: rules.all };
  return { ...result };
}

/** What is known of missing originals, and how much of each is used. */
async function lostOriginals({ db }: JobContext, ids: readonly number[]): Promise<LostOriginal[]> {
  const [places, facts, used] = await Promise.all([
    selectByIds<{ id: number; path: string; storage: string; storageId: number }>(
      db,
      'SELECT a.id, a.path, s.name AS storage, a.storage_id AS storageId FROM asset a JOIN storage s ON s.id = a.storage_id WHERE a.id IN (:ids) ORDER BY a.id',
      ids,
    ),
    factsOf(db, ids),
    usedRanges(db, ids),
  ]);
  return places.flatMap(({ id, path, storage, storageId }) => {
    const known = facts.get(id);
    if (!known) return [];
    return [
      {
        ...{ assetId: id, facts: known, used: used.get(id) ?? null },
        ...{ place: { storageId, path }, lastSeen: `${storage}/${path}` },
      },
    ];
  });
}

/** What is looked for among all files in the places that are asked for. */
async function everywhere(context: JobContext, asked: FindMissing): Promise<Search> {
  const lost = await lostOriginals(context, await lostAmong(context.db, asked.lost));
  return {
    ...{ lost, files: await filesIn(context, asked), pointed: null, rule: null },
    accepts: (_assetId, { likeness }) => asked.acceptsExact && likeness === 'exact',
  };
}

async function filesIn(
  { report, signal }: JobContext,
  { names, passOver, places }: Pick<FindMissing, 'names' | 'passOver' | 'places'>,
): Promise<FoundFile[]> {
  const files = new Map<string, FoundFile>();
  for (const { deep, folder, storageId } of places) {
    const storage = await storageThere(storageId);
    if ((await whereabouts(storage.rootPath, folder)) === 'outside')
      throw refused(`${folder} lies outside the storage: a link leads out of it.`);
    const options = { deep, signal, passesOver: passesOver(passOver), onUnreadable: () => undefined };
    for await (const part of walk(storage.rootPath, folder, options)) {
      for (const item of part)
        if (names === '' || isNamed(item.name, names)) files.set(keyOf({ storage, item }), { storage, item });
      report({ message: `${files.size} files found so far` });
    }
  }
  return [...files.values()];
}

/** One that a person points at, and what is explained by what became of it. */
async function fromOne(context: JobContext, at: RelinkPoint): Promise<Search> {
  const all = await lostOriginals(
    context,
    await lostAmong(context.db, { of: 'everything', id: null, folder: '', assetIds: [] }),
  );
  const one = all.find(({ assetId }) => assetId === at.assetId);
  if (!one) throw refused('This asset is not missing any more.');
  const { files, isAbout, rule } = await predicted(context, all, { lost: one, at });
  return {
    ...{ lost: all.filter(({ assetId }) => isAbout(assetId)), files, rule },
    pointed: { assetId: at.assetId, key: placeKey(at) },
    accepts: (assetId) => assetId === at.assetId,
  };
}

interface Rules {
  readonly all: readonly MoveRule[];
  /** The rule that explains where an asset's first candidate is, by its place. */
  readonly of: ReadonlyMap<number, number>;
}

/** What the first candidates tell of whole folders, but for those that only look alike; what was learnt from one file by itself. */
function rulesOf(lost: readonly LostOriginal[], plan: readonly Proposal[], learnt: MoveRule | null): Rules {
  const moves = plan.flatMap(({ assetId, matches: [first] }, at) => {
    const original = lost[at];
    if (!first || !original || first.blockedBy.length > 0) return [];
    const to = placeOf(first.key);
    if (learnt) {
      const rule = ruleOf(original.place, to);
      return rule && ruleKey(rule) === ruleKey(learnt) ? [{ key: assetId, from: original.place, to }] : [];
    }
    return first.likeness === 'lookalike' ? [] : [{ key: assetId, from: original.place, to }];
  });
  const found = rulesIn(moves);
  return {
    all: found.map(({ rule }) => rule),
    of: new Map(found.flatMap(({ keys }, place) => keys.map((key): [number, number] => [key, place]))),
  };
}

function placeOf(key: string): Place {
  const slash = key.indexOf('/');
  return { storageId: Number(key.slice(0, slash)), path: key.slice(slash + 1) };
}

async function matchesOf(
  { db }: JobContext,
  plan: readonly Proposal[],
  candidates: Candidates['candidates'],
  owners: Candidates['owners'],
): Promise<RelinkMatch[][]> {
  const files = new Map(candidates.map(({ file, key }) => [key, file]));
  const untouched = await untouchedAssets(db, [
    ...new Set(plan.flatMap(({ matches }) => matches.flatMap(({ key }) => owners.get(key) ?? []))),
  ]);
  return plan.map(({ assetId, matches }) =>
    matches.flatMap(({ key, ...score }): RelinkMatch[] => {
      const [file, owner] = [files.get(key), owners.get(key)];
      if (!file) return [];
      const { item, storage } = file;
      return [
        {
          ...{ storageId: storage.id, storage: storage.name, path: item.path, ...score },
          // Another place of the same asset is nobody else's.
          catalogued:
            owner === undefined || owner === assetId ? null : { assetId: owner, untouched: untouched.has(owner) },
        },
      ];
    }),
  );
}
