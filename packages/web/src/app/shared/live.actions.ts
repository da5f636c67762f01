import { createActionGroup, emptyProps, props } from '@ngrx/store';
import type { Entity, Job } from '@larder/contract';

/** What the server says by itself. */
export const liveActions = createActionGroup({
  source: 'Server',
  events: {
    /** At the start and after every reconnection: what happened between may have been missed. */
    Connected: props<{ revision: number }>(),
    Lost: emptyProps(),
    Changed: props<{ revision: number; changed: readonly { entity: Entity; id: number; by: number | null }[] }>(),
    Jobs: props<{ jobs: readonly Job[] }>(),
  },
});
