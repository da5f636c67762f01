import { headRevision } from '../store/change-feed';
import { meantBy, treeOf } from '../store/live-bins';
import {
  addTag,
  addTagSet,
  changeTag,
  changeTagSet,
  orderTags,
  removeTagSet,
  setFreeTags,
  tagBook,
} from '../store/tag-book';
import { mergeTags, splitTag } from '../store/tag-merges';
import type { Services } from './handlers';
import { signedIn, type Handlers } from './router';

type TagRoutes =
  | 'tags'
  | 'newTag'
  | 'changeTag'
  | 'mergeTag'
  | 'splitTag'
  | 'orderTags'
  | 'newTagSet'
  | 'changeTagSet'
  | 'removeTagSet'
  | 'orderTagSets'
  | 'freeTags';

const ALL = 1_000_000_000;

/** Tags and their sets. `told` lets the open windows know of what was written. */
export function tagHandlers(
  { db, search, fields }: Services,
  told: <T>(work: Promise<T>) => Promise<T>,
): Pick<Handlers, TagRoutes> {
  return {
    tags: () => tagBook(db),
    newTag: async ({ body, person }) => ({ id: await told(addTag(db, signedIn(person).id, body)) }),
    changeTag: async ({ body, person, id }) => ({ id: await told(changeTag(db, signedIn(person).id, id, body)) }),
    mergeTag: ({ body, person, id }) => told(mergeTags(db, signedIn(person).id, id, body.into)),
    splitTag: async ({ body, person, id }) => {
      const { value } = await search.ask({
        ask: 'search',
        tree: await meantBy(signedIn(person), treeOf(body.query ?? '', fields.current), fields.current),
        sort: { field: 'name', descending: false },
        // What was tagged a moment ago is split too.
        ...{ offset: 0, limit: ALL, atLeast: await headRevision(db) },
      });
      return told(splitTag(db, signedIn(person).id, id, body.names, new Set(value.ids)));
    },
    orderTags: async ({ body, person }) => {
      await told(orderTags(db, signedIn(person).id, 'tag', body.ids));
      return null;
    },
    newTagSet: async ({ body, person }) => ({ id: await told(addTagSet(db, signedIn(person).id, body)) }),
    changeTagSet: async ({ body, person, id }) => ({ id: await told(changeTagSet(db, signedIn(person).id, id, body)) }),
    removeTagSet: async ({ person, id }) => {
      await told(removeTagSet(db, signedIn(person).id, id));
      return null;
    },
    orderTagSets: async ({ body, person }) => {
      await told(orderTags(db, signedIn(person).id, 'tag_set', body.ids));
      return null;
    },
    freeTags: async ({ body, person }) => {
      await told(setFreeTags(db, signedIn(person).id, body.allowed));
      return null;
    },
  };
}
