import type { Spoken, SpokenPlace } from '@larder/core/dialogue';
import type { FieldId } from '@larder/core/fields';
import { havingHits, hitsIn } from '@larder/core/markers';
import { asksForWords, combine, heardAsked, type Query } from '@larder/core/query';
import type { ListRequest } from '@larder/core/search';
import type { AskedOrder, IdsQuery, Person, SearchQuery } from '@larder/contract';
import { nearestTown, townsIn } from '../search/towns';
import { assetsById } from '../store/assets';
import { binOrder } from '../store/bins';
import { flagsOf, setFlags } from '../store/flags';
import { meantBy, treeOf } from '../store/live-bins';
import { headRevision } from '../store/change-feed';
import { refused } from '../store/errors';
import { forgetSearches, pastSearches, rememberSearch } from '../store/past-searches';
import { markersOn } from '../store/markers';
import { spokenOn } from '../store/transcripts';
import { queueSidecars } from '../store/sidecar-jobs';
import { excerptsOf } from './dialogue-handlers';
import type { Services } from './handlers';
import { signedIn, type Handlers } from './router';

type SearchRoutes =
  | 'pastSearches'
  | 'rememberSearch'
  | 'forgetSearches'
  | 'search'
  | 'searchIds'
  | 'searchStep'
  | 'facet'
  | 'facets'
  | 'map'
  | 'days'
  | 'hits'
  | 'flags'
  | 'setFlags'
  | 'writeSidecars';

/** What lists are asked by, whatever of them is wanted. */
type ListAsked = Partial<Pick<SearchQuery, 'query' | 'lift' | 'sort' | 'by' | 'atLeast'>>;

const BY_NAME: AskedOrder = { field: 'name', descending: false };
/** More headings nobody reads; they would be sent with the list. */
const MOST_GROUPS = 2000;
/** Names on a map beyond which they lie on top of each other. */
const MOST_TOWNS = 24;
/** Sidecars written by one job. */
const MOST_SIDECARS = 200_000;

/** Searches, in all their forms. `told` lets the open windows know of what was written. */
export function searchHandlers(
  { db, search, fields }: Services,
  told: <T>(work: Promise<T>) => Promise<T>,
): Pick<Handlers, SearchRoutes> {
  const isSaid = (field: FieldId | null): boolean =>
    field === 'said' || (field === null && fields.current.plain.includes('said'));
  const treeFor = (person: Person | null, query = ''): Promise<Query> =>
    meantBy(signedIn(person), treeOf(query, fields.current), fields.current);

  const listed = async (person: Person | null, asked: ListAsked): Promise<ListRequest & { atLeast: number }> => {
    const { query, lift, sort: { hand, ...sort } = BY_NAME, by, atLeast = 0 } = asked;
    return {
      tree: await treeFor(person, query),
      ...(lift === undefined ? {} : { lift: await treeFor(person, lift) }),
      sort,
      ...(hand === undefined ? {} : { order: await binOrder(db, hand) }),
      by,
      atLeast,
    };
  };
  const list = async (person: Person | null, asked: Partial<IdsQuery>, limit: number) =>
    search.ask({
      ask: 'search',
      ...(await listed(person, asked)),
      offset: asked.offset ?? 0,
      limit: asked.limit ?? limit,
    });

  return {
    search: async ({ body, person }) => {
      const { revision, value } = await list(person, body, 100);
      if ((value.groups?.length ?? 0) > MOST_GROUPS)
        throw refused(
          `That would be ${value.groups?.length.toLocaleString('en')} groups. Group by a field that says fewer different things, or search first.`,
        );
      return {
        total: value.total,
        found: value.assets,
        offset: body.offset ?? 0,
        revision,
        assets: await assetsById(db, value.ids),
        groups: body.groups ? value.groups : null,
        lifted: value.lifted ?? null,
      };
    },
    searchStep: async ({ body, person }) => {
      const { from, backwards = false } = body;
      const asked = await listed(person, body);
      const lift = await treeFor(person, body.lift);
      const { revision, value } = await search.ask({ ask: 'step', ...asked, lift, from, backwards });
      return { place: value, revision };
    },
    searchIds: async ({ body, person }) => {
      const { revision, value } = await list(person, body, 100_000);
      return { ids: [...new Set(value.ids)], revision };
    },
    facet: async ({ body, person }) => ({
      values: (
        await search.ask({
          ask: 'facet',
          tree: await treeFor(person, body.query),
          field: body.field,
          limit: 50,
          atLeast: body.atLeast ?? 0,
        })
      ).value,
    }),
    facets: async ({ body: { query, fields: asked, limit = 8, spread = false, atLeast = 0 }, person }) => {
      const tree = await treeFor(person, query);
      const { revision, value } = await search.ask({ ask: 'facets', tree, fields: asked, limit, spread, atLeast });
      return { facets: value, revision };
    },
    map: async ({ body: { query, box = null, columns = 12, atLeast = 0 }, person }) => {
      const { revision, value } = await search.ask({
        ask: 'map',
        tree: await treeFor(person, query),
        box,
        columns,
        atLeast,
      });
      return {
        ...value,
        revision,
        clusters: value.clusters.map((cluster) => ({ ...cluster, town: nearestTown(cluster) })),
        towns: box ? townsIn(box, MOST_TOWNS) : [],
      };
    },
    hits: async ({ body, person }) => {
      const { offset = 0, limit = 50 } = body;
      const { tree, ...asked } = await listed(person, body);
      // The words that the person wrote, not those of live bins that these refer to.
      const written = treeOf(body.query ?? '', fields.current);
      const having = combine('all', [tree, havingHits(written, fields.current)]);
      // Best fits are of what was asked: its words would count twice in what is asked of markers as well.
      const list = { ...asked, tree: having, lift: tree, offset, limit };
      const { revision, value } = await search.ask({ ask: 'search', ...list });
      const tests = heardAsked(written);
      const [assets, markers, spoken, heard] = await Promise.all([
        assetsById(db, value.ids),
        markersOn(db, value.ids),
        asksForWords(written, isSaid) ? spokenOn(db, value.ids) : new Map<number, Spoken>(),
        tests.length > 0
          ? search.ask({ ask: 'heard', tests, ids: value.ids, atLeast: 0 }).then((told) => told.value)
          : new Map<number, SpokenPlace[]>(),
      ]);
      const hits = assets.map((asset) => ({
        asset,
        hits: hitsIn(written, markers.get(asset.id) ?? [], fields.current),
        ...excerptsOf(written, spoken.get(asset.id)?.words ?? [], heard.get(asset.id) ?? [], fields.current),
      }));
      return { revision, total: value.assets, offset, assets: hits };
    },
    days: async ({ body, person }) => {
      const { revision, value } = await search.ask({
        ...{
          ask: 'days',
          tree: await treeFor(person, body.query),
          field: body.field ?? 'shot',
          atLeast: body.atLeast ?? 0,
        },
      });
      return { ...value, revision };
    },
    writeSidecars: async ({ body: { query, assetIds }, person }) => {
      const ids =
        assetIds ?? (await list(person, { query, atLeast: await headRevision(db) }, MOST_SIDECARS + 1)).value.ids;
      if (ids.length === 0) throw refused('There is nothing in this list.');
      if (ids.length > MOST_SIDECARS)
        throw refused(`At most ${MOST_SIDECARS.toLocaleString('en')} at once: search for fewer first.`);
      return { job: await told(queueSidecars(signedIn(person).id, [...new Set(ids)])) };
    },
    pastSearches: async ({ person }) => ({ queries: await pastSearches(db, signedIn(person).id) }),
    rememberSearch: async ({ body, person }) => {
      await rememberSearch(db, signedIn(person).id, body.query);
      return null;
    },
    forgetSearches: async ({ person }) => {
      await forgetSearches(db, signedIn(person).id);
      return null;
    },
    flags: async ({ person }) => ({ ids: await flagsOf(db, signedIn(person).id), revision: await headRevision(db) }),
    setFlags: ({ body, person }) => told(setFlags(db, signedIn(person).id, body)),
  };
}
