import { createActionGroup, emptyProps, props, type Action } from '@ngrx/store';
import type { FieldChanges, FieldId, SetValue } from '@larder/core/fields';
import type { QueryIssue } from '@larder/core/query';
import type { Group } from '@larder/core/search';
import type {
  AskedOperation,
  AskedOrder,
  Asset,
  EditEach,
  FieldConflict,
  SearchWindow,
  Undone,
} from '@larder/contract';
import type { Failure } from '../../shared/api';

export type SelectMode = 'one' | 'toggle' | 'range';

/** What one edit changes; the same on every asset it is made on. */
export interface EditChange {
  readonly set?: FieldChanges;
  readonly addTags?: readonly string[];
  readonly removeTags?: readonly string[];
}

export interface EditAsked {
  readonly ids: readonly number[];
  readonly change: EditChange;
  readonly label: string;
  readonly seen?: number;
}
export interface EachAsked {
  readonly edits: EditEach['edits'];
  readonly label: string;
  readonly seen?: number;
}
export interface OperationAsked {
  readonly asked: AskedOperation;
  readonly label: string;
}
export type TakenWay = 'undo' | 'redo';

/** What a person wanted an asset's field to say; undefined where only the server can work it out. */
export type Mine = (conflict: FieldConflict) => SetValue | undefined;

export const libraryActions = createActionGroup({
  source: 'Library',
  events: {
    /** A search is written or a bin opened; the list begins anew. */
    'Query changed': props<{ query: string; lift: string | null; issues: readonly QueryIssue[] }>(),
    /** On to the next place of the list that is lifted, or back to the one before. */
    'Step to lifted': props<{ backwards: boolean }>(),
    'Sort changed': props<{ sort: AskedOrder }>(),
    /** The list is cut into groups by a field, or no longer. */
    'Group by': props<{ by: FieldId | null }>(),
    /** Assets are put before another in the list, or at its end: shown so at once. */
    Reordered: props<{ ids: readonly number[]; before: number | null }>(),
    /** The screen shows these places of the list. */
    'Window needed': props<{ start: number; end: number }>(),
    'Pages requested': props<{ pages: readonly number[] }>(),
    'Page loaded': props<{
      epoch: number;
      page: number;
      total: number;
      found: number;
      revision: number;
      assets: readonly Asset[];
      /** Null if they were not asked for with this page. */
      groups: readonly Group[] | null;
      lifted: SearchWindow['lifted'];
    }>(),
    'Page failed': props<{ epoch: number; page: number; failure: Failure }>(),
    'Try again': emptyProps(),
    'Went stale': emptyProps(),
    /** Something different said of each. */
    'Edit each': props<EachAsked>(),
    /** The same done to a field of many, each differently. */
    Operate: props<OperationAsked>(),
    /** Rows to be had before they are looked at. */
    'Rows needed': props<{ ids: readonly number[] }>(),
    'Rows loaded': props<{ assets: readonly Asset[] }>(),

    Select: props<{ index: number; mode: SelectMode }>(),
    'Select all': emptyProps(),
    /** As many places of the list from one on. */
    'Select places': props<{ first: number; count: number }>(),
    'Clear selection': emptyProps(),
    'Selection found': props<{ ids: readonly number[]; anchor: number; focus: number }>(),

    /** `seen` is the revision that the person was looking at when they began; the newest by default. */
    Edit: props<EditAsked>(),
    Edited: props<{ group: string; revision: number; changed: number; label: string }>(),
    /** `again` is the same asked once more, over what others have said meanwhile. */
    'Edit failed': props<{ label: string; failure: Failure; mine: Mine; again: Action }>(),
    /** Of one change, or of the last that this person made, here or in any other session. */
    Undo: props<{ group?: string }>(),
    /** Does again what was undone last. */
    Redo: emptyProps(),
    'Taken back': props<{ way: TakenWay; undone: Undone; label: string }>(),
    'Take failed': props<{ way: TakenWay; failure: Failure }>(),
  },
});
