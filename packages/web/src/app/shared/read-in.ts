import { inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import type { Observable } from 'rxjs';
import type { Written } from '@larder/contract';
import { libraryActions } from '../library/state/library.actions';
import type { Failure } from './api';
import { counted } from './format';
import { Toasts } from './toasts';
import { Writes } from './writes';

/** What came of files that were read in, in words. */
export interface ReadWords {
  /** What the change is called when it is undone. */
  readonly label: string;
  readonly done: string;
  /** What was left out; empty if nothing was. */
  readonly left: string;
}

/** Reads files in, in turn with what else this window writes, as a change that can be undone, and tells what came of it. */
@Injectable({ providedIn: 'root' })
export class ReadIn {
  private readonly store = inject(Store);
  private readonly toasts = inject(Toasts);
  private readonly writes = inject(Writes);

  from<T extends Written>(ask: () => Observable<T>, words: (read: T) => ReadWords, failed = ''): void {
    this.writes.inTurn(ask).subscribe({
      next: (read) => {
        const { label, done, left } = words(read);
        this.store.dispatch(libraryActions.edited({ ...read, label }));
        if (left === '') this.toasts.done(done);
        else this.toasts.failed(`${done} ${left}`);
      },
      error: ({ message }: Failure) => this.toasts.failed(`${failed} ${message}`.trim()),
    });
  }
}

const ISSUES_TOLD = 3;

/** What of captions was left out, in words; empty if nothing was. */
export function leftOut({ outside, issues }: { readonly outside: number; readonly issues: readonly string[] }): string {
  const more = issues.length - ISSUES_TOLD;
  return [
    ...(outside > 0 ? [`${counted(outside, 'caption')} beyond the end of the clip left out.`] : []),
    ...issues.slice(0, ISSUES_TOLD),
    ...(more > 0 ? [`And ${more} more such lines.`] : []),
  ].join(' ');
}
