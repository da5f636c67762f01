import { computed, inject, Injectable, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { Api, type Failure } from './api';
import { flagList } from './flags.state';
import { counted } from './format';
import { Toasts } from './toasts';

/** One's own flags: which assets have one, and putting it on or taking it off. */
@Injectable({ providedIn: 'root' })
export class Flags {
  private readonly store = inject(Store);
  private readonly api = inject(Api);
  private readonly toasts = inject(Toasts);
  private readonly state = this.store.selectSignal(flagList.select);
  /** What was asked for and is not yet in what the server said. */
  private readonly asked = signal<ReadonlyMap<number, boolean>>(new Map());
  private readonly flagged = computed((): ReadonlySet<number> => {
    const ids = new Set(this.state().value?.ids);
    for (const [id, on] of this.asked())
      if (on) ids.add(id);
      else ids.delete(id);
    return ids;
  });

  has(id: number): boolean {
    return this.flagged().has(id);
  }

  /** Flags those that are not; if all of them are, takes the flag off. */
  toggle(ids: readonly number[]): void {
    if (ids.length === 0) return;
    const on = !ids.every((id) => this.has(id));
    this.set(ids, on);
    if (ids.length > 1)
      this.toasts.done(`${on ? 'Flagged' : 'Flag taken off'}: ${counted(ids.length, 'asset')}.`, {
        label: 'Undo',
        run: () => this.set(ids, !on),
      });
  }

  private set(assetIds: readonly number[], on: boolean): void {
    this.asked.update((asked) => new Map([...asked, ...assetIds.map((id) => [id, on] as const)]));
    this.api.call('setFlags', { assetIds: [...assetIds], on }).subscribe({
      next: () => this.api.call('flags', null).subscribe((value) => this.settle(assetIds, value)),
      error: (failure: Failure) => {
        this.settle(assetIds, null);
        this.toasts.failed(`The flag was not kept. ${failure.message}`);
      },
    });
  }

  private settle(ids: readonly number[], value: Parameters<typeof flagList.loaded>[0]['value'] | null): void {
    if (value) this.store.dispatch(flagList.loaded({ value }));
    this.asked.update((asked) => new Map([...asked].filter(([id]) => !ids.includes(id))));
  }
}
