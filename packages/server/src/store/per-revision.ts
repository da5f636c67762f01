import type { Sequelize } from 'sequelize';
import { headRevision } from './change-feed';

/**
 * What is made of the library at one revision, kept until there is another: many ask, and it is the same for all of them. What is
 * written without a line in the change feed is not seen. What failed is not kept.
 */
export function perRevision<T>(make: (db: Sequelize) => Promise<T>): (db: Sequelize) => Promise<T> {
  const kept = new WeakMap<Sequelize, { readonly revision: number; readonly made: Promise<T> }>();
  return async (db) => {
    // Asked before it is made, so that what is written meanwhile makes it anew for whoever asks next.
    const revision = await headRevision(db);
    const last = kept.get(db);
    if (last?.revision === revision) return last.made;
    const made = make(db);
    kept.set(db, { revision, made });
    made.catch(() => kept.get(db)?.made === made && kept.delete(db));
    return made;
  };
}
