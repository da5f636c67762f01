import { createActionGroup, emptyProps, props } from '@ngrx/store';
import type { FieldChanges } from '@larder/core/fields';
import type { QueryIssue } from '@larder/core/query';
import type { SortOrder } from '@larder/core/search';
import type { AskedOperation, Asset, EditEach } from '@larder/contract';
import type { Failure } from '../../shared/api';

export type SelectMode = 'one' | 'toggle' | 'range';

/** What one edit changes; the same on every asset it is made on. */
export interface EditChange {
  readonly set?: FieldChanges;
  readonly addTags?: readonly string[];
  readonly removeTags?: readonly string[];
}

export const libraryActions = createActionGroup({
  source: 'Library',
  events: {
    /** A search is written or a bin opened; the list begins anew. */
    'Query changed': props<{ query: string; issues: readonly QueryIssue[] }>(),
    'Sort changed': props<{ sort: SortOrder }>(),
    /** The screen shows these places of the list. */
    'Window needed': props<{ start: number; end: number }>(),
    'Pages requested': props<{ pages: readonly number[] }>(),
    'Page loaded': props<{ epoch: number; page: number; total: number; revision: number; assets: readonly Asset[] }>(),
    'Page failed': props<{ epoch: number; page: number; failure: Failure }>(),
    'Try again': emptyProps(),
    'Went stale': emptyProps(),
    /** Something different said of each. */
    'Edit each': props<{ edits: EditEach['edits']; label: string; seen?: number }>(),
    /** The same done to a field of many, each differently. */
    Operate: props<{ asked: AskedOperation; label: string }>(),
    /** Rows to be had before they are looked at. */
    'Rows needed': props<{ ids: readonly number[] }>(),
    'Rows loaded': props<{ assets: readonly Asset[] }>(),

    Select: props<{ index: number; mode: SelectMode }>(),
    'Select all': emptyProps(),
    'Clear selection': emptyProps(),
    'Selection found': props<{ ids: readonly number[]; anchor: number; focus: number }>(),

    /** `seen` is the revision that the person was looking at when they began; the newest by default. */
    Edit: props<{ ids: readonly number[]; change: EditChange; label: string; seen?: number }>(),
    Edited: props<{ group: string; revision: number; changed: number; label: string }>(),
    'Edit failed': props<{ ids: readonly number[]; change: EditChange; label: string; failure: Failure }>(),
    Undo: emptyProps(),
    Undone: props<{ group: string; revision: number; label: string }>(),
    'Undo failed': props<{ group: string; failure: Failure }>(),
  },
});
