import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { Store } from '@ngrx/store';
import { FILE_PATHS, type Asset } from '@larder/contract';
import { libraryActions } from '../library/state/library.actions';
import { Api, type Failure } from '../shared/api';
import { Icon } from '../shared/icon';
import { Toasts } from '../shared/toasts';
import { Writes } from '../shared/writes';

/** What is said of one asset, taken along as XMP and read from it. */
@Component({
  selector: 'nl-sidecar',
  imports: [Icon],
  template: `
    <a class="btn btn-quiet btn-sm" [href]="path()" download title="All that is said of it, as an XMP sidecar"
      ><nl-icon name="download" />XMP</a
    >
    @if (mayLog()) {
      <label class="btn btn-quiet btn-sm" title="Say here what an XMP sidecar says; its tags are added">
        <nl-icon name="upload" />Read XMP …
        <input type="file" class="visually-hidden" accept=".xmp,application/rdf+xml" (change)="chosen($event)" />
      </label>
    }
  `,
  styles: `
    :host {
      display: flex;
      flex-wrap: wrap;
      gap: 4px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Sidecar {
  readonly asset = input.required<Asset>();
  readonly mayLog = input.required<boolean>();
  private readonly api = inject(Api);
  private readonly store = inject(Store);
  private readonly toasts = inject(Toasts);
  private readonly writes = inject(Writes);
  protected readonly path = computed(() => FILE_PATHS.sidecar(this.asset().id));

  protected async chosen(event: Event): Promise<void> {
    const box = event.target as HTMLInputElement;
    const [file] = box.files ?? [];
    const { id } = this.asset();
    box.value = '';
    if (!file) return;
    const text = await file.text();
    this.writes
      .inTurn(() => this.api.call('readSidecar', { text }, id))
      .subscribe({
        next: ({ issues, ...written }) => {
          this.store.dispatch(libraryActions.edited({ ...written, label: `${file.name} read` }));
          if (issues.length > 0) this.toasts.failed(`${file.name} was read, but not all of it. ${issues.join(' ')}`);
          else this.toasts.done(written.changed > 0 ? `${file.name} read.` : `${file.name} says nothing new.`);
        },
        error: (failure: Failure) => this.toasts.failed(`${file.name} was not read. ${failure.message}`),
      });
  }
}
