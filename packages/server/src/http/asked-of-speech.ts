import { readSpoken, type SpokenQuestion } from '@larder/core/dialogue';
import type { Query } from '@larder/core/query';
import { spokenSchema, type Person, type SpokenAsked } from '@larder/contract';
import { meantBy, treeOf } from '../store/live-bins';
import type { Services } from './handlers';
import { signedIn } from './router';

const DEFAULTS = spokenSchema.getDefault();

/** What is looked for in what is said. */
export const questionOf = ({ how, said, withinS }: Partial<SpokenAsked>): SpokenQuestion => ({
  items: readSpoken(said ?? ''),
  how: how ?? DEFAULTS.how,
  withinMs: (withinS ?? DEFAULTS.withinS) * 1000,
});

/** What the search line says besides; null where that is nothing. Refused where it cannot be read. */
export const narrowedTo = async (
  query: string | undefined,
  person: Person | null,
  fields: Services['fields'],
): Promise<Query | null> =>
  query?.trim() ? meantBy(signedIn(person), treeOf(query, fields.current), fields.current) : null;
