import { Op, type Sequelize, type Transaction } from 'sequelize';
import type { FieldRegistry } from '@larder/core/fields';
import {
  binsNamed,
  circleFrom,
  conditionsWith,
  EVERYTHING,
  heardCount,
  loadQuery,
  MOST_CONDITIONS,
  parseQuery,
  placesNamed,
  printQuery,
  referringTo,
  sameBinName,
  saveQuery,
  withBinRenamed,
  withLiveBins,
  wordQueryIssue,
  type NamedSearch,
  type Query,
} from '@larder/core/query';
import { type LiveBin, type LiveBinAsked, type LiveBinsIn, type NewLiveBin, type Person } from '@larder/contract';
import { write } from './change-feed';
import { notFound, refused, RequestError } from './errors';
import { asAskedBy } from './flags';
import { BinRow, LiveBinRow, PersonRow, ProjectRow } from './models';

/** Each place by its name is looked for around up to sixteen spots, among all positions there are. */
const MOST_PLACES = 10;
/** Each is looked for in all that is said. */
const MOST_HEARD = 20;

/** The search itself, unless it would have everybody wait. */
function withinReach(tree: Query): Query {
  const places = placesNamed(tree).length;
  if (places > MOST_PLACES)
    throw refused(`That search asks for ${places} places by their names, and ${MOST_PLACES} are the most at once.`);
  const heard = heardCount(tree);
  if (heard > MOST_HEARD)
    throw refused(
      `That search asks for ${heard} things as they sound, and ${MOST_HEARD} are the most at once; “said:” looks for as many as you like.`,
    );
  return tree;
}

/** Reads a search; throws with its issues if it cannot be read whole. */
export function treeOf(query: string, fields: FieldRegistry): Query {
  const { tree, issues } = parseQuery(query, fields);
  if (issues.length > 0) throw new RequestError({ code: 'query', issues });
  return withinReach(tree);
}

/** Live bins that a person sees: those of all, and their own. */
export const seenBy = (personId: number) => ({ [Op.or]: [{ shared: true }, { personId }] });

const namedSearch = ({ id, name, query }: LiveBinRow, fields: FieldRegistry): NamedSearch => ({
  id,
  name,
  tree: loadQuery(query, fields),
});

function refuseLarge(tree: Query, bins: readonly NamedSearch[]): void {
  const count = conditionsWith(tree, bins);
  if (count > MOST_CONDITIONS)
    throw refused(
      `With the live bins that it refers to, that search comes to ${count.toLocaleString('en')} conditions, and ${MOST_CONDITIONS.toLocaleString('en')} are the most. Refer to fewer of them.`,
    );
}

/** What a search asks for when a person asks it: their own flags, and what live bins it refers to find. */
export async function meantBy(person: Pick<Person, 'id'>, tree: Query, fields: FieldRegistry): Promise<Query> {
  if (binsNamed(tree).length === 0) return asAskedBy(person, tree);
  const rows = await LiveBinRow.findAll({ where: seenBy(person.id) });
  const bins = rows.map((row) => namedSearch(row, fields));
  refuseLarge(tree, bins);
  return asAskedBy(person, withinReach(withLiveBins(tree, bins)));
}

/** All that a person sees but for the counts, and what each of them asks for. */
export async function listLiveBins(
  person: Pick<Person, 'id'>,
  fields: FieldRegistry,
): Promise<{ readonly bins: readonly Omit<LiveBin, 'count' | 'watch'>[]; readonly trees: readonly Query[] }> {
  const [rows, people] = await Promise.all([
    LiveBinRow.findAll({ where: seenBy(person.id), order: ['name', 'id'] }),
    PersonRow.findAll(),
  ]);
  const named = rows.map((row) => namedSearch(row, fields));
  const bins = rows.map(({ id, name, parentId, projectId, shared, personId, createdMs }, at) => ({
    ...{ id, name, parentId, projectId, shared, createdMs },
    query: printQuery((named[at] as NamedSearch).tree, fields),
    by: people.find((each) => each.id === personId)?.name ?? null,
  }));
  const trees = named.map(({ id, tree }) => asAskedBy(person, withLiveBins(tree, named, [id])));
  return { bins, trees };
}

const wholeOf = (asked: LiveBinAsked): NewLiveBin => ({ parentId: null, projectId: null, shared: true, ...asked });

/** Checked as far as it can be without the other bins. */
function treeToKeep(query: string, fields: FieldRegistry): Query {
  const tree = treeOf(query, fields);
  if (tree === EVERYTHING) throw refused('A live bin needs a search: an empty one would hold the whole library.');
  return tree;
}

/** Others cannot be changed while these are looked at: two that are written at once could refer to each other. */
const allLocked = (transaction: Transaction): Promise<LiveBinRow[]> => LiveBinRow.findAll({ transaction, lock: true });

const quoted = (names: readonly string[]): string => names.map((name) => `“${name}”`).join(', ');

function refuseCircle(bin: NamedSearch, others: readonly NamedSearch[]): void {
  const circle = circleFrom(bin, others);
  if (circle)
    throw refused(
      `That would go round in a circle: ${circle.map((name) => `“${name}”`).join(' → ')}. Leave in:"${circle[1] ?? bin.name}" out of its search.`,
    );
}

/** What all see must not depend on what only one does. */
function refuseHidden(shared: boolean, tree: Query, rows: readonly LiveBinRow[], fields: FieldRegistry): void {
  if (!shared) return;
  const [hidden] = rows.filter((row) => !row.shared && referringTo(row.name, [{ id: 0, name: '', tree }]).length > 0);
  const open = rows.some((row) => row.shared && hidden !== undefined && sameBinName(row.name, hidden.name));
  if (hidden && !open)
    throw refused(
      `“${hidden.name}” is seen only by whoever made it, so a bin for everybody cannot refer to it. It says ${printQuery(loadQuery(hidden.query, fields), fields)}.`,
    );
}

/** In a search, a name means one or the other. */
async function refuseHandBin(name: string, transaction: Transaction): Promise<void> {
  const bins = await BinRow.findAll({ attributes: ['path'], transaction });
  if (bins.some(({ path }) => sameBinName(path, name)))
    throw refused(`There is a bin called “${name}” that is filled by hand. Choose another name.`);
}

async function checkPlace({ parentId, projectId }: NewLiveBin, transaction: Transaction): Promise<void> {
  if (parentId !== null && projectId !== null)
    throw refused('A live bin stands in a bin or in a project, not in both.');
  if (parentId !== null && !(await BinRow.findByPk(parentId, { transaction }))) throw notFound('bin');
  if (projectId !== null && !(await ProjectRow.findByPk(projectId, { transaction }))) throw notFound('project');
}

export async function addLiveBin(
  db: Sequelize,
  fields: FieldRegistry,
  personId: number,
  asked: LiveBinAsked,
): Promise<number> {
  const bin = wholeOf(asked);
  const { name, query, ...place } = bin;
  const tree = treeToKeep(query, fields);
  const { value } = await write(db, personId, async ({ transaction, log }) => {
    const rows = await allLocked(transaction);
    await checkPlace(bin, transaction);
    await refuseHandBin(name, transaction);
    const seen = seenIn(rows, personId);
    const others = seen.map((row) => namedSearch(row, fields));
    refuseCircle({ id: 0, name, tree }, others);
    refuseGrown(
      { id: 0, name, tree },
      rows.map((row) => namedSearch(row, fields)),
    );
    refuseHidden(bin.shared, tree, seen, fields);
    const row = await LiveBinRow.create(
      { name, query: saveQuery(tree), ...place, personId, createdMs: Date.now() },
      { transaction },
    );
    log({ action: 'add', entity: 'live-bin', entityId: row.id, after: { name, query, ...place } });
    return row.id;
  });
  return value;
}

/**
 * Takes in live bins of a file, each by itself: what cannot be read, and what is there already under the same name in the same place,
 * is left out with the reason.
 */
export async function takeLiveBins(
  db: Sequelize,
  fields: FieldRegistry,
  personId: number,
  { file, projectId, shared }: LiveBinsIn,
): Promise<{
  readonly made: readonly string[];
  readonly left: readonly { readonly name: string; readonly why: string }[];
}> {
  const made: string[] = [];
  const left: { name: string; why: string }[] = [];
  const paths = new Map((await BinRow.findAll({ attributes: ['id', 'path'] })).map(({ id, path }) => [path, id]));
  for (const { name, query, in: path } of file.liveBins) {
    const parentId = projectId === null && path !== null ? (paths.get(path) ?? null) : null;
    const there = await LiveBinRow.findOne({
      where: { name, parentId, projectId, ...(shared ? { shared } : { personId }) },
    });
    const issue = parseQuery(query, fields).issues[0];
    if (there) left.push({ name, why: 'There is one of that name here.' });
    else if (issue) left.push({ name, why: wordQueryIssue(issue) });
    else {
      const refusal = await addLiveBin(db, fields, personId, { name, query, parentId, projectId, shared }).then(
        () => null,
        (error: unknown) => {
          if (error instanceof RequestError) return error.message;
          throw error;
        },
      );
      if (refusal === null) made.push(name);
      else left.push({ name, why: refusal });
    }
  }
  return { made, left };
}

/** Those of all and a person's own: nobody is told of what they do not see. */
const seenIn = (rows: readonly LiveBinRow[], personId: number): LiveBinRow[] =>
  rows.filter((row) => row.shared || row.personId === personId);

/** With the bin as it is to be, none may come to more than can be asked, whoever sees it: its own maker's lists would stand still. */
function refuseGrown(bin: NamedSearch, others: readonly NamedSearch[]): void {
  const all = [bin, ...others];
  for (const { tree } of all) refuseLarge(tree, all);
}

/** The names of those that a person sees; of others only that there are some. */
function toldNames(bins: readonly NamedSearch[], rows: readonly LiveBinRow[], personId: number): string {
  const seen = seenIn(rows, personId);
  const names = bins.filter(({ id }) => seen.some((row) => row.id === id)).map(({ name }) => name);
  return [
    ...(names.length > 0 ? [quoted(names)] : []),
    ...(names.length < bins.length ? ['a bin of somebody else'] : []),
  ].join(', ');
}

/** The one that a person may change: seen by all, or their own. */
function ownIn(rows: readonly LiveBinRow[], id: number, personId: number): LiveBinRow {
  const row = rows.find((each) => each.id === id && (each.shared || each.personId === personId));
  if (!row) throw notFound('live bin');
  return row;
}

export async function changeLiveBin(
  db: Sequelize,
  fields: FieldRegistry,
  personId: number,
  id: number,
  asked: LiveBinAsked,
): Promise<void> {
  const bin = wholeOf(asked);
  const { name, query, ...place } = bin;
  const tree = treeToKeep(query, fields);
  await write(db, personId, async ({ transaction, log }) => {
    const rows = await allLocked(transaction);
    const row = ownIn(rows, id, personId);
    await checkPlace(bin, transaction);
    if (name !== row.name) await refuseHandBin(name, transaction);
    const others = rows.filter((each) => each.id !== id).map((each) => namedSearch(each, fields));
    // Those that refer to it by its name go on to.
    const renamed = name === row.name ? [] : referringTo(row.name, others);
    const namesake = others.some((each) => sameBinName(each.name, row.name));
    const after = others.map((each) =>
      renamed.includes(each) ? { ...each, tree: withBinRenamed(each.tree, row.name, name, namesake) } : each,
    );
    const seen = seenIn(rows, personId);
    const seenAfter = after.filter((each) => seen.some((one) => one.id === each.id));
    refuseCircle({ id, name, tree }, seenAfter);
    refuseGrown({ id, name, tree }, after);
    refuseHidden(bin.shared, tree, seen, fields);
    const referring = referringTo(name, after);
    if (row.shared && !bin.shared && referring.length > 0)
      throw refused(`Others refer to it and could no longer: ${toldNames(referring, rows, personId)}.`);
    if (bin.shared !== row.shared && row.personId !== personId)
      throw refused('Only whoever made a live bin says who sees it.');
    log({
      action: 'change',
      entity: 'live-bin',
      entityId: id,
      before: { name: row.name, query: row.query },
      after: { name, query, ...place },
    });
    await row.update({ name, query: saveQuery(tree), ...place }, { transaction });
    for (const each of after.filter((one, at) => one !== others[at])) {
      log({ action: 'change', entity: 'live-bin', entityId: each.id, after: { query: printQuery(each.tree, fields) } });
      await LiveBinRow.update({ query: saveQuery(each.tree) }, { where: { id: each.id }, transaction });
    }
  });
}

/** Takes the bin away; what it showed is not touched. */
export async function removeLiveBin(db: Sequelize, fields: FieldRegistry, personId: number, id: number): Promise<void> {
  await write(db, personId, async ({ transaction, log }) => {
    const rows = await allLocked(transaction);
    const row = ownIn(rows, id, personId);
    const others = rows.filter((each) => each.id !== id);
    const namesake = others.some((each) => sameBinName(each.name, row.name));
    const referring = namesake
      ? []
      : referringTo(
          row.name,
          others.map((each) => namedSearch(each, fields)),
        );
    if (referring.length > 0)
      throw refused(
        `“${row.name}” is referred to by ${toldNames(referring, rows, personId)}, which would find less without it. Change that first.`,
      );
    log({ action: 'remove', entity: 'live-bin', entityId: id, before: { name: row.name, query: row.query } });
    await row.destroy({ transaction });
  });
}
