import type { Action, Person, Role } from '@larder/contract';

const ALLOWED: Readonly<Record<Role, ReadonlySet<Action>>> = {
  manager: new Set(['open', 'look', 'log', 'cut', 'keep']),
  editor: new Set(['open', 'look', 'log', 'cut']),
  viewer: new Set(['open', 'look']),
};

/** The one function that every route asks: whether this person may do this. Nobody signed in may only do what is open. */
export const may = (person: Person | null, action: Action): boolean =>
  person ? ALLOWED[person.role].has(action) : action === 'open';
