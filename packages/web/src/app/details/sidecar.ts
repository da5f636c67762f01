import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { Store } from '@ngrx/store';
import { FILE_PATHS, type Asset } from '@larder/contract';
import { libraryActions } from '../library/state/library.actions';
import { Api, type Failure } from '../shared/api';
import { FileChoice, type ChosenText } from '../shared/file-choice';
import { Icon } from '../shared/icon';
import { Toasts } from '../shared/toasts';
import { Writes } from '../shared/writes';

/** What is said of one asset, taken along as XMP and read from it. */
@Component({
  selector: 'nl-sidecar',
  imports: [FileChoice, Icon],
  template: `
    <a class="btn btn-quiet btn-sm" [href]="path()" download title="All that is said of it, as an XMP sidecar"
      ><nl-icon name="download" />XMP</a
    >
    @if (mayLog()) {
      <nl-file-choice
        accept=".xmp,application/rdf+xml"
        hint="Say here what an XMP sidecar says; its tags are added"
        (chosen)="read($event[0])"
        >Read XMP …</nl-file-choice
      >
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

  protected read({ name, text }: ChosenText): void {
    const { id } = this.asset();
    this.writes
      .inTurn(() => this.api.call('readSidecar', { text }, id))
      .subscribe({
        next: ({ issues, ...written }) => {
          this.store.dispatch(libraryActions.edited({ ...written, label: `${name} read` }));
          if (issues.length > 0) this.toasts.failed(`${name} was read, but not all of it. ${issues.join(' ')}`);
          else this.toasts.done(written.changed > 0 ? `${name} read.` : `${name} says nothing new.`);
        },
        error: (failure: Failure) => this.toasts.failed(`${name} was not read. ${failure.message}`),
      });
  }
}
