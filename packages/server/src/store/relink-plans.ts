import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import type { Evidence, EvidenceKind, Likeness, MoveRule } from '@larder/core/relink';
import {
  UNDERWAY,
  RELINK_STATES,
  type Job,
  type RelinkDecided,
  type RelinkItem,
  type RelinkItems,
  type RelinkItemsAsked,
  type RelinkMatch,
  type RelinkPlan,
  type RelinkRule,
  type RelinkState,
} from '@larder/contract';
import { pathHash } from '../jobs/catalogue';
import { enqueueOne, jobOf } from '../jobs/queue';
import { fromJson, select } from './database';
import { notFound, refused } from './errors';
import { JobRow, StorageRow } from './models';

/** What a search for missing originals leaves with its job. */
export interface FoundRules {
  readonly looked: number;
  readonly rules: readonly MoveRule[];
}

/** One original as a plan is made of it. */
export interface PlannedItem {
  readonly assetId: number;
  readonly lastSeen: string;
  readonly matches: readonly RelinkMatch[];
  /** The place of the rule that explains its first candidate; null for none. */
  readonly rule: number | null;
  readonly accepted: boolean;
  /** Whether it is looked for only since its storage is away. */
  readonly away: boolean;
}

const AT_ONCE = 500;

/** Keeps what a search came to, instead of whatever it came to before it was interrupted. */
export const writePlan = (db: Sequelize, jobId: number, items: readonly PlannedItem[]): Promise<void> =>
  db.transaction(async (transaction) => {
    await db.query('DELETE FROM relink_item WHERE job_id = :jobId', { replacements: { jobId }, transaction });
    for (let start = 0; start < items.length; start += AT_ONCE)
      await insertSome(db, jobId, items.slice(start, start + AT_ONCE), transaction);
  });

async function insertSome(
  db: Sequelize,
  jobId: number,
  items: readonly PlannedItem[],
  transaction: Transaction,
): Promise<void> {
  const rows = items.map(({ accepted, assetId, away, lastSeen, matches, rule }) => ({
    ...{ assetId, away: Number(away), lastSeen, rule, chosen: matches.length > 0 ? 0 : null },
    decision: accepted ? 'accepted' : 'open',
  }));
  await db.query(
    `INSERT IGNORE INTO relink_item (job_id, asset_id, last_seen, decision, chosen, rule, away)
     SELECT :jobId, r.* FROM JSON_TABLE(:rows, '$[*]' COLUMNS (asset_id BIGINT PATH '$.assetId', last_seen VARCHAR(2200) PATH '$.lastSeen', decision VARCHAR(10) PATH '$.decision', chosen INT PATH '$.chosen', rule INT PATH '$.rule', away INT PATH '$.away')) r
     JOIN asset a ON a.id = r.asset_id`,
    { replacements: { jobId, rows: JSON.stringify(rows) }, transaction, type: QueryTypes.INSERT },
  );
  const matches = items.flatMap(({ assetId, matches: some }) =>
    some.map((match, place) => ({
      ...{ assetId, place, storageId: match.storageId, path: match.path, pathHash: pathHash(match.path) },
      ...{ likeness: match.likeness, probability: match.probability, evidence: JSON.stringify(match.evidence) },
      ...{ blockedBy: match.blockedBy.join(','), ownerId: match.catalogued?.assetId ?? null },
      ownerFree: Number(match.catalogued?.untouched ?? true),
    })),
  );
  if (matches.length === 0) return;
  await db.query(
    `INSERT INTO relink_match (job_id, asset_id, place, storage_id, path, path_hash, likeness, probability, evidence, blocked_by, owner_id, owner_free)
     SELECT :jobId, r.* FROM JSON_TABLE(:rows, '$[*]' COLUMNS (asset_id BIGINT PATH '$.assetId', place INT PATH '$.place', storage_id BIGINT PATH '$.storageId', path VARCHAR(2000) PATH '$.path', path_hash CHAR(40) PATH '$.pathHash',
       likeness VARCHAR(12) PATH '$.likeness', probability DOUBLE PATH '$.probability', evidence LONGTEXT PATH '$.evidence', blocked_by VARCHAR(100) PATH '$.blockedBy', owner_id BIGINT PATH '$.ownerId', owner_free INT PATH '$.ownerFree')) r
     JOIN relink_item i ON i.job_id = :jobId AND i.asset_id = r.asset_id`,
    { replacements: { jobId, rows: JSON.stringify(matches) }, transaction, type: QueryTypes.INSERT },
  );
}

/** What is wrong with an original before it is mended: gone, or another file where it was. */
export const IS_LOST = `a.shelf_state IN ('missing', 'changed')`;

/** As `IS_LOST`, as far as that is known: what is on a storage that is away may be as it should be when that comes back. */
export const IS_LOST_HERE = `(${IS_LOST} AND a.storage_id IN (SELECT id FROM storage WHERE state = 'online'))`;

/** The storages that are not there. */
export const AWAY_STORAGES = `SELECT id FROM storage WHERE state <> 'online'`;

export const IS_AWAY = `a.storage_id IN (${AWAY_STORAGES})`;

/** What a plan is still for. */
const IS_WANTED = `(${IS_LOST} OR (i.away AND ${IS_AWAY}))`;

const IS_RULED_OUT = `m.blocked_by <> ''`;

const STATE = `CASE WHEN NOT ${IS_LOST} AND a.storage_id = m.storage_id AND a.path_hash = m.path_hash THEN 'mended' WHEN NOT ${IS_WANTED} THEN 'back' WHEN m.place IS NULL THEN 'unfound'
  WHEN ${IS_RULED_OUT} THEN 'blocked' WHEN i.decision = 'open' THEN 'decide' ELSE i.decision END`;

const ITEMS = `relink_item i JOIN asset a ON a.id = i.asset_id LEFT JOIN relink_match m ON m.job_id = i.job_id AND m.asset_id = i.asset_id AND m.place = i.chosen`;

async function searchOf(id: number): Promise<JobRow> {
  const row = await JobRow.findByPk(id);
  if (!row || row.kind !== 'find-missing') throw notFound('search for missing files');
  return row;
}

const foundRules = ({ result }: JobRow): FoundRules => ({
  ...{ looked: 0, rules: [] },
  ...(result as Partial<FoundRules> | null),
});

/** What a search for missing originals came to, as far as it still stands. */
export async function relinkPlan(db: Sequelize, id: number): Promise<RelinkPlan> {
  const job = await searchOf(id);
  const [states, mending, storages] = await Promise.all([
    select<{ state: RelinkState; rule: number | null; count: number }>(
      db,
      `SELECT ${STATE} AS state, IF(i.chosen = 0, i.rule, NULL) AS rule, COUNT(*) AS count FROM ${ITEMS} WHERE i.job_id = :id GROUP BY 1, 2`,
      { id },
    ),
    lastMending(db, job),
    StorageRow.findAll({ attributes: ['id', 'name'] }),
  ]);
  const count = (state: RelinkState, rule?: number): number =>
    states.reduce(
      (sum, each) =>
        sum + (each.state === state && (rule === undefined || each.rule === rule) ? Number(each.count) : 0),
      0,
    );
  const { looked, rules } = foundRules(job);
  const names = new Map(storages.map((row) => [row.id, row.name]));
  const folder = ({ folder: path, storageId }: MoveRule['from']): string =>
    [names.get(storageId), ...(path === '' ? [] : [path])].join('/');
  const counted = (state: RelinkState): [RelinkState, number] => [state, count(state)];
  return {
    ...{ job: jobOf(job), looked, mending: mending && mendingOf(mending) },
    counts: Object.fromEntries(RELINK_STATES.map(counted)) as RelinkPlan['counts'],
    rules: rules.map(({ before, behind, extension, from, to }, place): RelinkRule => ({
      ...{ from: folder(from), to: folder(to), extension, before, behind },
      ...{ decide: count('decide', place), accepted: count('accepted', place) },
    })),
  };
}

function mendingOf(row: JobRow): RelinkPlan['mending'] {
  const { folded = [], group = null } = (row.result ?? {}) as { folded?: readonly number[]; group?: string };
  return { job: jobOf(row), group, folded: folded.length };
}

/** By the storage, since a library has as many jobs as files. */
async function lastMending(db: Sequelize, { id: planId, storageId }: JobRow): Promise<JobRow | null> {
  const [row] = await select<{ id: number }>(
    db,
    `SELECT id FROM job WHERE storage_id = :storageId AND kind = 'mend' AND JSON_VALUE(payload, '$.planId') = :planId ORDER BY id DESC LIMIT 1`,
    { planId, storageId },
  );
  return row ? JobRow.findByPk(row.id) : null;
}

/** Whether a plan is being carried out. */
async function isMending(db: Sequelize, search: JobRow): Promise<boolean> {
  const job = await lastMending(db, search);
  return job !== null && UNDERWAY.includes(job.state);
}

/** Some of the originals of a plan with their candidates, by where they were last seen. */
export async function relinkItems(
  db: Sequelize,
  id: number,
  { limit, offset, rule, state }: RelinkItemsAsked,
): Promise<RelinkItems> {
  await searchOf(id);
  const from = `FROM (SELECT i.asset_id, i.last_seen, i.chosen, i.trouble, i.verified, a.name, ${STATE} AS state FROM ${ITEMS}
    WHERE i.job_id = :id ${rule === null ? '' : 'AND i.rule = :rule AND i.chosen = 0'}) x ${state === null ? '' : 'WHERE x.state = :state'}`;
  const asked = { id, limit, offset, rule, state };
  const [[counted], rows] = await Promise.all([
    select<{ total: number }>(db, `SELECT COUNT(*) AS total ${from}`, asked),
    select<ItemRecord>(
      db,
      `SELECT x.asset_id AS assetId, x.name, x.last_seen AS lastSeen, x.chosen, x.trouble, x.verified, x.state ${from} ORDER BY x.last_seen, x.asset_id LIMIT :limit OFFSET :offset`,
      asked,
    ),
  ]);
  const matches = await matchesOf(
    db,
    id,
    rows.map(({ assetId }) => assetId),
  );
  return {
    total: Number(counted?.total ?? 0),
    items: rows.map(({ assetId, chosen, lastSeen, name, state: now, trouble, verified }) => ({
      ...{ assetId, name, lastSeen, state: now, trouble, chosen: chosen ?? 0 },
      verified: verified === null ? null : fromJson<readonly Evidence[]>(verified),
      matches: matches.get(assetId) ?? [],
    })),
  };
}

type ItemRecord = Omit<RelinkItem, 'matches' | 'verified' | 'chosen'> & {
  readonly chosen: number | null;
  readonly verified: unknown;
};

interface MatchRecord {
  readonly assetId: number;
  readonly storageId: number;
  readonly storage: string;
  readonly path: string;
  readonly likeness: Likeness;
  readonly probability: number;
  readonly evidence: unknown;
  readonly blockedBy: string;
  readonly ownerId: number | null;
  readonly ownerFree: number;
}

async function matchesOf(db: Sequelize, id: number, assetIds: readonly number[]): Promise<Map<number, RelinkMatch[]>> {
  const all = new Map<number, RelinkMatch[]>();
  if (assetIds.length === 0) return all;
  const rows = await select<MatchRecord>(
    db,
    `SELECT m.asset_id AS assetId, m.storage_id AS storageId, s.name AS storage, m.path, m.likeness, m.probability, m.evidence, m.blocked_by AS blockedBy, m.owner_id AS ownerId, m.owner_free AS ownerFree
     FROM relink_match m JOIN storage s ON s.id = m.storage_id WHERE m.job_id = :id AND m.asset_id IN (:assetIds) ORDER BY m.asset_id, m.place`,
    { id, assetIds },
  );
  for (const {
    assetId,
    blockedBy,
    evidence,
    likeness,
    ownerFree,
    ownerId,
    path,
    probability,
    storage,
    storageId,
  } of rows) {
    const list = all.get(assetId) ?? [];
    list.push({
      ...{ storageId, storage, path, likeness, probability, evidence: fromJson<readonly Evidence[]>(evidence) },
      blockedBy: blockedBy === '' ? [] : (blockedBy.split(',') as EvidenceKind[]),
      catalogued: ownerId === null ? null : { assetId: ownerId, untouched: Boolean(ownerFree) },
    });
    all.set(assetId, list);
  }
  return all;
}

/** Decides what is done about some originals of a plan, all of them or none. What is ruled out is never accepted. */
export async function decideRelink(
  db: Sequelize,
  id: number,
  { assetIds, chosen, decision, rule, state }: RelinkDecided,
): Promise<RelinkPlan> {
  if (await isMending(db, await searchOf(id)))
    throw refused('This is being mended. Wait for it, or cancel it in Jobs.');
  const [assetId] = assetIds;
  await db.transaction(async (transaction) => {
    if (chosen !== null && assetId !== undefined) await choose(db, id, { assetId, chosen }, transaction);
    const asked = [
      // What somebody has logged or used is taken in only where a person says so of it.
      assetIds.length > 0 || decision !== 'accepted' ? '1' : '(m.owner_id IS NULL OR m.owner_free)',
      ...(assetIds.length > 0 ? ['i.asset_id IN (:assetIds)'] : []),
      ...(rule === null ? [] : ['i.rule = :rule AND i.chosen = 0']),
      ...(state === null ? [] : [`${STATE} = :state`]),
    ];
    await db.query(
      `UPDATE ${ITEMS} SET i.decision = :decision, i.trouble = NULL
       WHERE i.job_id = :id AND ${asked.join(' AND ')} AND ${IS_WANTED} AND (:decision <> 'accepted' OR (m.place IS NOT NULL AND NOT ${IS_RULED_OUT}))`,
      { replacements: { id, assetIds, decision, rule, state }, transaction, type: QueryTypes.UPDATE },
    );
  });
  return relinkPlan(db, id);
}

async function choose(
  db: Sequelize,
  id: number,
  { assetId, chosen }: { readonly assetId: number; readonly chosen: number },
  transaction: Transaction,
): Promise<void> {
  const [match] = await select(
    db,
    'SELECT place FROM relink_match WHERE job_id = :id AND asset_id = :assetId AND place = :chosen',
    { id, assetId, chosen },
    transaction,
  );
  if (!match) throw notFound('candidate');
  await db.query('UPDATE relink_item SET chosen = :chosen WHERE job_id = :id AND asset_id = :assetId', {
    replacements: { id, assetId, chosen },
    transaction,
    type: QueryTypes.UPDATE,
  });
}

/** The originals of a plan that are lost, not only away, and that it does not mend: not found, ruled out, or rejected. */
export async function notMendedBy(db: Sequelize, id: number): Promise<number[]> {
  await searchOf(id);
  const rows = await select<{ id: number }>(
    db,
    `SELECT i.asset_id AS id FROM ${ITEMS} WHERE i.job_id = :id AND ${IS_LOST} AND ${STATE} IN ('unfound', 'blocked', 'rejected')`,
    { id },
  );
  return rows.map((row) => row.id);
}

/** An original with the file that is accepted for it. */
export interface Accepted {
  readonly assetId: number;
  readonly storageId: number;
  readonly path: string;
  /** The asset that had the file when it was proposed, and is taken in; null for none. */
  readonly takesIn: number | null;
}

/** What is accepted in a plan and still lost, folder by folder. */
export const acceptedOf = (db: Sequelize, id: number): Promise<Accepted[]> =>
  select<Accepted>(
    db,
    `SELECT i.asset_id AS assetId, m.storage_id AS storageId, m.path, IF(m.owner_id = i.asset_id, NULL, m.owner_id) AS takesIn FROM ${ITEMS} WHERE i.job_id = :id AND ${STATE} = 'accepted' ORDER BY m.storage_id, m.path`,
    { id },
  );

/** Notes why originals could not be mended; they are to be decided anew. */
export async function noteTrouble(db: Sequelize, id: number, troubles: ReadonlyMap<number, string>): Promise<void> {
  const rows = [...troubles].map(([assetId, words]) => ({ assetId, words: words.slice(0, LONGEST_TROUBLE) }));
  await db.query(
    `UPDATE relink_item i JOIN JSON_TABLE(:rows, '$[*]' COLUMNS (asset_id BIGINT PATH '$.assetId', words VARCHAR(500) PATH '$.words')) r ON r.asset_id = i.asset_id
     SET i.trouble = r.words, i.decision = 'open' WHERE i.job_id = :id`,
    { replacements: { id, rows: JSON.stringify(rows) }, type: QueryTypes.UPDATE },
  );
}

const LONGEST_TROUBLE = 500;

/** Keeps what was found of each file when it was opened to mend its link. */
export async function noteVerified(
  db: Sequelize,
  id: number,
  links: readonly { readonly assetId: number; readonly verified: readonly Evidence[] }[],
  transaction: Transaction,
): Promise<void> {
  const rows = links.map(({ assetId, verified }) => ({ assetId, verified: JSON.stringify(verified) }));
  await db.query(
    `UPDATE relink_item i JOIN JSON_TABLE(:rows, '$[*]' COLUMNS (asset_id BIGINT PATH '$.assetId', verified LONGTEXT PATH '$.verified')) r ON r.asset_id = i.asset_id
     SET i.verified = r.verified, i.trouble = NULL WHERE i.job_id = :id`,
    { replacements: { id, rows: JSON.stringify(rows) }, transaction, type: QueryTypes.UPDATE },
  );
}

/** Has what is accepted in a plan carried out. */
export async function queueMend(db: Sequelize, personId: number, id: number): Promise<Job> {
  const search = await searchOf(id);
  if (await isMending(db, search)) throw refused('This is being mended already.');
  const accepted = await acceptedOf(db, id);
  if (accepted.length === 0) throw refused('Nothing is accepted yet. Accept what is to be mended first.');
  return enqueueOne({
    ...{ kind: 'mend', subject: search.subject, payload: { planId: id }, unit: 'files' },
    ...{ priority: 60, personId, storageId: search.storageId },
  });
}
