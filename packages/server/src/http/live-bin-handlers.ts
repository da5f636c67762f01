import type { LiveBin, Person } from '@larder/contract';
import { cameInto, sawArrivals, watchesOf, watchLiveBin } from '../store/arrivals';
import { freezeInto } from '../store/bins';
import { headRevision } from '../store/change-feed';
import { notFound, refused } from '../store/errors';
import { addLiveBin, changeLiveBin, listLiveBins, removeLiveBin, takeLiveBins } from '../store/live-bins';
import type { Services } from './handlers';
import { signedIn, type Handlers } from './router';

type LiveBinRoutes =
  | 'takeLiveBins'
  | 'liveBins'
  | 'newLiveBin'
  | 'changeLiveBin'
  | 'removeLiveBin'
  | 'freezeLiveBin'
  | 'watchLiveBin'
  | 'cameIn'
  | 'sawLiveBin';

/** So many of what came in are shown as such, the newest. */
const MOST_SHOWN = 150;

/** A bin filled by hand is written in one piece. */
const MOST_FROZEN = 100_000;

/** Live bins. `told` lets the open windows know of what was written. */
export function liveBinHandlers(
  { db, search, fields }: Services,
  told: <T>(work: Promise<T>) => Promise<T>,
): Pick<Handlers, LiveBinRoutes> {
  const all = async (person: Person | null): Promise<LiveBin[]> => {
    const atLeast = await headRevision(db);
    const { bins, trees } = await listLiveBins(signedIn(person), fields.current);
    const { value } = await search.ask({ ask: 'counts', trees, atLeast });
    // Once the index has come so far, what came in with it is noted.
    const watches = await watchesOf(db, signedIn(person).id);
    return bins.map((bin, at) => ({ ...bin, count: value[at] ?? 0, watch: watches.get(bin.id) ?? null }));
  };
  const one = async (person: Person | null, id: number): Promise<LiveBin> => {
    const bin = (await all(person)).find((each) => each.id === id);
    if (!bin) throw notFound('live bin');
    return bin;
  };
  return {
    liveBins: async ({ person }) => ({ bins: await all(person) }),
    newLiveBin: async ({ body, person }) =>
      one(person, await told(addLiveBin(db, fields.current, signedIn(person).id, body))),
    changeLiveBin: async ({ body, person, id }) => {
      await told(changeLiveBin(db, fields.current, signedIn(person).id, id, body));
      return one(person, id);
    },
    removeLiveBin: async ({ person, id }) => {
      await told(removeLiveBin(db, fields.current, signedIn(person).id, id));
      return null;
    },
    watchLiveBin: async ({ body, person, id }) => {
      await told(watchLiveBin(db, signedIn(person).id, id, body.on));
      return null;
    },
    cameIn: async ({ person, id }) => ({ ids: await cameInto(db, signedIn(person).id, id, MOST_SHOWN) }),
    sawLiveBin: async ({ body, person, id }) => {
      await told(sawArrivals(db, signedIn(person).id, id, body.revision));
      return null;
    },
    takeLiveBins: ({ body, person }) => told(takeLiveBins(db, fields.current, signedIn(person).id, body)),
    freezeLiveBin: async ({ body, person, id }) => {
      const atLeast = await headRevision(db);
      const { bins, trees } = await listLiveBins(signedIn(person), fields.current);
      const tree = trees[bins.findIndex((bin) => bin.id === id)];
      if (!tree) throw notFound('live bin');
      const { value } = await search.ask({
        ...{ ask: 'search', tree, sort: { field: 'name', descending: false }, offset: 0 },
        ...{ limit: MOST_FROZEN + 1, atLeast },
      });
      if (value.ids.length > MOST_FROZEN)
        throw refused(
          `At most ${MOST_FROZEN.toLocaleString('en')} assets go into a bin at once; this is more. Narrow it first.`,
        );
      const frozen = await told(freezeInto(db, signedIn(person).id, body, value.ids));
      return { id: frozen, count: value.ids.length };
    },
  };
}
