import { mapFields, type Query } from '@larder/core/query';
import type { Person } from '@larder/contract';
import { flagToken } from '../store/flags';

/** A search with what it asks of flags put as this person's own. */
export const asAskedBy = (person: Pick<Person, 'id'>, tree: Query): Query =>
  mapFields(tree, (part) => {
    if (part.field !== 'flag') return part;
    const own: Query = { ...part, test: { op: 'text', text: flagToken(person.id), prefix: false } };
    return part.test.op === 'presence' && !part.test.present ? { kind: 'not', of: own } : own;
  });
