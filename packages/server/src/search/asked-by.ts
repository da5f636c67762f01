import type { Query } from '@larder/core/query';
import type { Person } from '@larder/contract';
import { flagToken } from '../store/flags';

/** A search with what it asks of flags put as this person's own. */
export function asAskedBy(person: Pick<Person, 'id'>, tree: Query): Query {
  switch (tree.kind) {
    case 'all':
    case 'any':
      return { kind: tree.kind, of: tree.of.map((part) => asAskedBy(person, part)) };
    case 'not':
      return { kind: 'not', of: asAskedBy(person, tree.of) };
    case 'words':
      return tree;
    case 'field': {
      if (tree.field !== 'flag') return tree;
      const own: Query = {
        kind: 'field',
        field: 'flag',
        test: { op: 'text', text: flagToken(person.id), prefix: false },
      };
      return tree.test.op === 'presence' && !tree.test.present ? { kind: 'not', of: own } : own;
    }
    default:
      return tree satisfies never;
  }
}
