import { addMarking, changeMarking, markings, orderMarkings, removeMarking } from '../store/markings';
import { librarySettings } from '../store/library-settings';
import { addShopField, changeShopField, orderShopFields, setPlainFields, shopFields } from '../store/shop-fields';
import type { Services } from './handlers';
import { signedIn, type Handlers } from './router';

type FieldRoutes =
  | 'fields'
  | 'newField'
  | 'changeField'
  | 'orderFields'
  | 'plainFields'
  | 'markings'
  | 'newMarking'
  | 'changeMarking'
  | 'removeMarking'
  | 'orderMarkings';

/** The shop's own fields, and the markings, which are the choices of one. `told` lets the open windows know of what was written. */
export function fieldHandlers(
  { db, fields }: Services,
  told: <T>(work: Promise<T>) => Promise<T>,
): Pick<Handlers, FieldRoutes> {
  /** Whoever wrote has the fields as they are now with the answer. */
  const known = async <T>(work: Promise<T>): Promise<T> => {
    const value = await told(work);
    await fields.refresh();
    return value;
  };
  return {
    fields: async () => ({ fields: await shopFields(db), plain: (await librarySettings(db)).plain }),
    newField: async ({ body, person }) => ({ id: await known(addShopField(db, signedIn(person).id, body)) }),
    changeField: async ({ body, person, id }) => ({
      id: await known(changeShopField(db, signedIn(person).id, id, body)),
    }),
    orderFields: async ({ body, person }) => {
      await known(orderShopFields(db, signedIn(person).id, body.ids));
      return null;
    },
    plainFields: async ({ body, person }) => {
      await known(setPlainFields(db, signedIn(person).id, body.ids));
      return null;
    },
    markings: async () => ({ markings: await markings(db) }),
    newMarking: async ({ body, person }) => ({
      id: await known(addMarking(db, fields.current, signedIn(person).id, body)),
    }),
    changeMarking: async ({ body, person, id }) => ({
      id: await known(changeMarking(db, fields.current, signedIn(person).id, id, body)),
    }),
    removeMarking: async ({ person, id }) => {
      await known(removeMarking(db, signedIn(person).id, id));
      return null;
    },
    orderMarkings: async ({ body, person }) => {
      await known(orderMarkings(db, signedIn(person).id, body.ids));
      return null;
    },
  };
}
