import {
  isNamed,
  meetings,
  passesOver,
  planRelink,
  ruleKey,
  ruleOf,
  rulesIn,
  runOf,
  type FileFacts,
  type MoveRule,
  type Place,
  type Pointed,
  type Proposal,
} from '@larder/core/relink';
import { folderOf, type ShelfItem } from '@larder/core/shelf';
import type { FindMissing, RelinkMatch, RelinkPoint } from '@larder/contract';
import { quickWalk, QuickWalkFailed } from '../media/quick-walk';
import { walk, whereabouts } from '../media/walk';
import { selectByIds } from '../store/database';
import { refused } from '../store/errors';
import { factsOf } from '../store/file-facts';
import { lostFiles } from '../store/lost-files';
import type { StorageRow } from '../store/models';
import { below, catalogued } from '../store/relink-candidates';
import { writePlan, type FoundRules } from '../store/relink-plans';
import { lostAmong } from '../store/relink-scope';
import { untouchedAssets } from '../store/usage';
import type { JobContext } from './context';
import { predicted } from './predicted';
import {
  candidateOf,
  isAsCatalogued,
  openFiles,
  placeKey,
  storageThere,
  withOwners,
  type FoundCandidate,
  type FoundFile,
  type LostOriginal,
  type OwnedFile,
} from './relink-files';
import { looksOf, withSemblances } from './seen-and-heard';

/** What is looked for, what was found, and what is accepted of it without a look. */
interface Search {
  readonly lost: readonly LostOriginal[];
  readonly candidates: readonly FoundCandidate[];
  /** How many files were looked at. */
  readonly looked: number;
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
  const payload = context.job.payload as unknown as FindMissing | { readonly pointed: RelinkPoint };
  const search = 'pointed' in payload ? await fromOne(context, payload.pointed) : await everywhere(context, payload);
  return { ...(await keepPlan(context, search)) };
}

async function keepPlan({ db, job }: JobContext, search: Search): Promise<FoundRules> {
  const { accepts, looked, pointed, rule } = search;
  const { candidates, lost } = await withSemblances(db, search);
  const plan = planRelink(lost, candidates, pointed);
  const rules = rulesOf(lost, plan, rule);
  const matches = await matchesOf(db, plan, candidates);
  const isAccepted = (assetId: number, first: RelinkMatch | undefined): boolean => {
    if (!first || first.blockedBy.length > 0 || (first.catalogued && !first.catalogued.untouched)) return false;
    return accepts(assetId, first);
  };
  await writePlan(
    db,
    job.id,
    lost.map(({ assetId, away, lastSeen }, at) => ({
      ...{ assetId, away, lastSeen, matches: matches[at] ?? [], rule: rules.of.get(assetId) ?? null },
      accepted: isAccepted(assetId, matches[at]?.[0]),
    })),
  );
  return { looked, rules: rules.all };
}

/** What is known of missing originals, and how much of each is used. */
async function lostOriginals({ db }: JobContext, ids: readonly number[]): Promise<LostOriginal[]> {
  const [places, files] = await Promise.all([
    selectByIds<{ id: number; path: string; storage: string; storageId: number; away: number }>(
      db,
      "SELECT a.id, a.path, s.name AS storage, a.storage_id AS storageId, s.state <> 'online' AS away FROM asset a JOIN storage s ON s.id = a.storage_id WHERE a.id IN (:ids) ORDER BY a.id",
      ids,
    ),
    lostFiles(db, ids),
  ]);
  return places.flatMap(({ away, id, path, storage, storageId }) => {
    const file = files.get(id);
    if (!file) return [];
    const lastSeen = file.facts.isListed
      ? `${path} (never seen, ${runOf(file.facts) ?? 'without timecode'})`
      : `${storage}/${path}`;
    return [{ ...file, place: { storageId, path }, away: Boolean(away), lastSeen }];
  });
}

/** So many originals are looked for at once: of each its facts are held, and what was found for it. */
const MOST_LOST = 200_000;

/** What is looked for among all files in the places that are asked for. */
async function everywhere(context: JobContext, asked: FindMissing): Promise<Search> {
  const { db, report } = context;
  const ids = await lostAmong(db, asked.lost, asked);
  if (ids.length > MOST_LOST)
    throw refused(
      `${ids.length} originals are too many for one search, which takes ${MOST_LOST}. Look for those of a folder, a bin or a project.`,
    );
  const lost = await lostOriginals(context, ids);
  const known = await catalogued(db, lost, asked);
  const search = {
    ...{ lost, pointed: null, rule: null },
    accepts: (_assetId: number, { likeness }: RelinkMatch) => asked.acceptsExact && likeness === 'exact',
  };
  // What the catalogue has is told at once, while the disks are still walked.
  const told = known.map(({ assetId: owner, facts, storage, storageId }): FoundCandidate => ({
    ...{ key: placeKey({ storageId, path: facts.path }), storageId, storage, owner, isItsFile: true, facts },
  }));
  await keepPlan(context, { ...search, candidates: told, looked: 0 });
  report({ message: 'What is catalogued is looked through; now the rest' });
  const facts = new Map([
    ...known.map((file): [number, FileFacts] => [file.assetId, file.facts]),
    ...lost.map((file): [number, FileFacts] => [file.assetId, file.facts]),
  ]);
  const walked = await walkPlaces(context, asked, facts);
  const opened = await openFiles(context, walked.toOpen, await looksOf(db, lost));
  return { ...search, candidates: [...walked.known, ...opened], looked: walked.looked };
}

interface Walked {
  readonly looked: number;
  /** What the catalogue knows, as far as it could be what is looked for. */
  readonly known: FoundCandidate[];
  /** What has to be opened to know what it is. */
  readonly toOpen: OwnedFile[];
}

/** So many files are asked for in the catalogue together. */
const ASKED_AT_ONCE = 900;

/** Walks the places that are asked for. Only what matters is held: of what is catalogued and as it was, what could be looked for. */
async function walkPlaces(
  { db, report, signal }: JobContext,
  { names, passOver, places }: FindMissing,
  facts: ReadonlyMap<number, FileFacts>,
): Promise<Walked> {
  const known = new Map<string, FoundCandidate>();
  const toOpen = new Map<string, OwnedFile>();
  const sort = async (files: readonly FoundFile[]): Promise<void> => {
    for (const file of await withOwners(db, files)) {
      const key = placeKey({ storageId: file.storage.id, path: file.item.path });
      const said = file.owner && facts.get(file.owner.id);
      if (!isAsCatalogued(file)) toOpen.set(key, file);
      else if (said) known.set(key, candidateOf(file, said));
    }
  };
  const isPassed = passesOver(passOver);
  let looked = 0;
  for (const place of places) {
    const storage = await storageThere(place.storageId);
    if ((await whereabouts(storage.rootPath, place.folder)) === 'outside')
      throw refused(`${place.folder} lies outside the storage: a link leads out of it.`);
    const before = looked;
    const through = async (parts: AsyncIterable<readonly ShelfItem[]>): Promise<void> => {
      looked = before;
      let waiting: FoundFile[] = [];
      for await (const part of parts) {
        if (isPassed(below(place.folder, folderOf(part[0]?.path ?? '')))) continue;
        for (const item of part) if (names === '' || isNamed(item.name, names)) waiting.push({ storage, item });
        if (waiting.length < ASKED_AT_ONCE) continue;
        looked += waiting.length;
        report({ message: `${looked} files found so far` });
        await sort(waiting);
        waiting = [];
      }
      looked += waiting.length;
      await sort(waiting);
    };
    await walkPlace(storage, place, { isPassed, signal, through });
  }
  return { looked, known: [...known.values()], toOpen: [...toOpen.values()] };
}

interface Walking {
  isPassed(folder: string): boolean;
  readonly signal: AbortSignal;
  /** Given all parts from the beginning, again where the quick way failed. */
  through(parts: AsyncIterable<readonly ShelfItem[]>): Promise<void>;
}

/** Walks one place: a near disk in one go, a network volume, and what cannot be read in one go, step by step. */
export async function walkPlace(
  { kind, rootPath }: Pick<StorageRow, 'kind' | 'rootPath'>,
  { deep, folder }: Pick<FindMissing['places'][number], 'deep' | 'folder'>,
  { isPassed, signal, through }: Walking,
): Promise<void> {
  if (kind !== 'network')
    try {
      return await through(quickWalk(rootPath, folder, { deep, signal }));
    } catch (error) {
      if (!(error instanceof QuickWalkFailed)) throw error;
    }
  const options = { deep, signal, passesOver: (inner: string) => isPassed(below(folder, inner)) };
  return through(walk(rootPath, folder, { ...options, onUnreadable: () => undefined }));
}

/** One that a person points at, and what is explained by what became of it. */
async function fromOne(context: JobContext, at: RelinkPoint): Promise<Search> {
  const ofOne = { of: 'assets' as const, id: null, folder: '', assetIds: [at.assetId] };
  const [here] = await lostAmong(context.db, ofOne);
  // Of one on a storage that is away, what became of it may have become of all that is away.
  const away = here === undefined;
  const ids = await lostAmong(context.db, { ...ofOne, of: 'everything', assetIds: [] }, { away });
  // Of too many only the one that is pointed at is looked for.
  const all = await lostOriginals(context, ids.length > MOST_LOST ? ids.filter((id) => id === at.assetId) : ids);
  const one = all.find(({ assetId }) => assetId === at.assetId);
  if (!one) throw refused('This asset is not missing any more.');
  const { files, isAbout, rule } = await predicted(context, all, { lost: one, at });
  const owned = await withOwners(context.db, files);
  const facts = await factsOf(
    context.db,
    owned.flatMap(({ owner }) => (owner ? [owner.id] : [])),
  );
  const said = (file: OwnedFile) => (isAsCatalogued(file) && file.owner ? facts.get(file.owner.id) : undefined);
  const candidates = [
    ...owned.flatMap((file) => (said(file) ? [candidateOf(file, said(file) as FileFacts)] : [])),
    ...(await openFiles(
      context,
      owned.filter((file) => !said(file)),
    )),
  ];
  const about = all.filter(({ assetId }) => isAbout(assetId));
  const met = meetings(about, candidates);
  return {
    // In the folder of a clip that is known from a list only, the others may lie or not.
    lost: about.filter(({ assetId, facts: { isListed } }, n) => assetId === at.assetId || !isListed || met[n]?.size),
    ...{ candidates, looked: files.length, rule },
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
    // Where a list is thought to have its clips, nothing was moved from.
    if (!first || !original || original.facts.isListed || first.blockedBy.length > 0) return [];
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
  db: JobContext['db'],
  plan: readonly Proposal[],
  candidates: readonly FoundCandidate[],
): Promise<RelinkMatch[][]> {
  const byKey = new Map(candidates.map((candidate) => [candidate.key, candidate]));
  const untouched = await untouchedAssets(db, [
    ...new Set(plan.flatMap(({ matches }) => matches.flatMap(({ key }) => byKey.get(key)?.owner ?? []))),
  ]);
  return plan.map(({ assetId, matches }) =>
    matches.flatMap(({ key, ...score }): RelinkMatch[] => {
      const found = byKey.get(key);
      if (!found) return [];
      const { facts, owner, storage, storageId } = found;
      return [
        {
          ...{ storageId, storage, path: facts.path, ...score },
          // Another place of the same asset is nobody else's.
          catalogued: owner === null || owner === assetId ? null : { assetId: owner, untouched: untouched.has(owner) },
        },
      ];
    }),
  );
}
