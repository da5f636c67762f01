import { createActionGroup, createFeature, createReducer, emptyProps, on, props } from '@ngrx/store';
import type { Action, Person } from '@larder/contract';
import { liveActions } from './live.actions';

export const sessionActions = createActionGroup({
  source: 'Session',
  events: {
    Checked: props<{ person: Person | null }>(),
    'Signed in': props<{ person: Person }>(),
    'Signed out': emptyProps(),
  },
});

export interface SessionState {
  readonly person: Person | null;
  /** False until the server has said who this is. */
  readonly checked: boolean;
  readonly connected: boolean;
  /** The newest revision of the library that this window knows of. */
  readonly revision: number;
}

const initial: SessionState = { person: null, checked: false, connected: true, revision: 0 };

export const sessionFeature = createFeature({
  name: 'session',
  reducer: createReducer(
    initial,
    on(sessionActions.checked, (state, { person }): SessionState => ({ ...state, person, checked: true })),
    on(sessionActions.signedIn, (state, { person }): SessionState => ({ ...state, person, checked: true })),
    on(sessionActions.signedOut, (): SessionState => ({ ...initial, checked: true })),
    on(liveActions.connected, (state, { revision }): SessionState => ({
      ...state,
      connected: true,
      revision: Math.max(state.revision, revision),
    })),
    on(liveActions.lost, (state): SessionState => ({ ...state, connected: false })),
    on(liveActions.changed, (state, { revision }): SessionState => ({
      ...state,
      connected: true,
      revision: Math.max(state.revision, revision),
    })),
  ),
});

/** What the interface offers; whether it may is the server's to say. */
const OFFERED: Readonly<Record<Person['role'], ReadonlySet<Action>>> = {
  manager: new Set(['look', 'log', 'cut', 'keep']),
  editor: new Set(['look', 'log', 'cut']),
  viewer: new Set(['look']),
};
export const mayOffer = (person: Person | null, action: Action): boolean =>
  person !== null && OFFERED[person.role].has(action);
