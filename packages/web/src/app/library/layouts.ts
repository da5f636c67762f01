import { ChangeDetectionStrategy, Component, inject, resource } from '@angular/core';
import { Store } from '@ngrx/store';
import { firstValueFrom, type Observable } from 'rxjs';
import type { LedgerLayout } from '@larder/contract';
import { Api, type Failure } from '../shared/api';
import { Fields } from '../shared/fields';
import { Icon } from '../shared/icon';
import { placesOf } from '../shared/ledger-places';
import { NameDialog } from '../shared/name-dialog';
import { mayOffer, sessionFeature } from '../shared/session';
import { Settings } from '../shared/settings';
import { Toasts } from '../shared/toasts';

/** Arrangements of the ledger's columns under names: one's own, and those that are shared. */
@Component({
  selector: 'nl-layouts',
  imports: [Icon],
  template: `
    @for (layout of layouts.value(); track layout.id) {
      <span class="layout">
        <button type="button" class="btn btn-plain btn-sm" (click)="use(layout)" [attr.data-layout]="layout.name">
          {{ layout.name }}
          @if (layout.shared) {
            <span class="muted">shared</span>
          }
        </button>
        @if (layout.own || mayKeep()) {
          <button
            type="button"
            class="btn btn-quiet btn-sm"
            (click)="remove(layout)"
            [attr.aria-label]="'Remove the layout ' + layout.name"
          >
            <nl-icon name="close" />
          </button>
        }
      </span>
    }
    <button type="button" class="btn btn-quiet btn-sm" (click)="keep(false)">Keep these columns …</button>
    @if (mayLog()) {
      <button type="button" class="btn btn-quiet btn-sm" (click)="keep(true)">Keep for everybody …</button>
    }
    <button type="button" class="btn btn-quiet btn-sm" (click)="settings.columns.set([])">As at first</button>
  `,
  styles: `
    :host {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 4px 6px;
      column-span: all;
      padding-bottom: 8px;
      margin-bottom: 8px;
      border-bottom: 1px solid var(--nl-line);
    }
    .layout {
      display: inline-flex;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Layouts {
  private readonly api = inject(Api);
  private readonly names = inject(NameDialog);
  private readonly toasts = inject(Toasts);
  private readonly fields = inject(Fields);
  protected readonly settings = inject(Settings);
  private readonly person = inject(Store).selectSignal(sessionFeature.selectPerson);
  protected readonly layouts = resource({
    loader: async () => (await firstValueFrom(this.api.call('layouts', null))).layouts,
    defaultValue: [],
  });

  protected mayLog(): boolean {
    return mayOffer(this.person(), 'log');
  }

  protected mayKeep(): boolean {
    return mayOffer(this.person(), 'keep');
  }

  protected use({ columns }: LedgerLayout): void {
    this.settings.columns.set(columns);
  }

  protected async keep(shared: boolean): Promise<void> {
    const name = await this.names.ask({
      title: shared ? 'Keep these columns for everybody' : 'Keep these columns',
      label: 'Name of the layout',
      suggestion: '',
      action: 'Keep them',
    });
    if (name === null) return;
    const columns = placesOf(this.settings.columns(), this.fields.registry()).map((place) => ({ ...place }));
    this.tell(this.api.call('newLayout', { name, shared, columns }), `The layout “${name}” is kept.`);
  }

  protected remove({ id, name }: LedgerLayout): void {
    this.tell(this.api.call('removeLayout', null, id), `The layout “${name}” is gone.`);
  }

  private tell(done: Observable<unknown>, words: string): void {
    done.subscribe({
      next: () => {
        this.layouts.reload();
        this.toasts.done(words);
      },
      error: (failure: Failure) => this.toasts.failed(failure.message),
    });
  }
}
