import { ChangeDetectionStrategy, Component, computed, inject, Injectable, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { NgbActiveModal, NgbModal } from '@ng-bootstrap/ng-bootstrap';
import { Store } from '@ngrx/store';
import { of, switchMap, type Observable } from 'rxjs';
import { Api, type Failure } from '../shared/api';
import { ask } from '../shared/ask';
import { counted } from '../shared/format';
import { handBins } from './state';

/** Chooses the bin that assets go into, or makes one. */
@Component({
  selector: 'nl-bin-form',
  imports: [FormsModule],
  template: `
    <form (ngSubmit)="put()">
      <div class="modal-header">
        <h2 class="h5 m-0" id="bin-title">Put {{ counted(assetIds().length, 'asset') }} into a bin</h2>
      </div>
      <div class="modal-body d-grid gap-2">
        @if (all().length > 0) {
          <div>
            <label class="form-label" for="bin-choice">Bin</label>
            <select
              id="bin-choice"
              name="bin"
              class="form-select"
              [ngModel]="binId()"
              (ngModelChange)="binId.set(+$event)"
            >
              @for (bin of all(); track bin.id) {
                <option [value]="bin.id">{{ bin.path }}</option>
              }
              <option [value]="0">A new bin …</option>
            </select>
          </div>
        }
        @if (isNew()) {
          <div>
            <label class="form-label" for="bin-name">Name of the new bin</label>
            <input
              id="bin-name"
              name="name"
              class="form-control"
              [(ngModel)]="name"
              maxlength="120"
              autocomplete="off"
              ngbAutofocus
            />
          </div>
        }
        @if (issue(); as words) {
          <p class="m-0" role="alert">{{ words }}</p>
        }
      </div>
      <div class="modal-footer">
        <button type="button" class="btn btn-plain" (click)="modal.dismiss()">Cancel</button>
        <button type="submit" class="btn btn-primary">Put in</button>
      </div>
    </form>
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
class BinForm {
  protected readonly modal = inject(NgbActiveModal);
  private readonly api = inject(Api);
  private readonly store = inject(Store);
  private readonly state = this.store.selectSignal(handBins.select);
  readonly assetIds = signal<readonly number[]>([]);
  protected readonly all = computed(() => this.state().value?.bins ?? []);
  /** Null until somebody chooses: then the first there is. */
  protected readonly binId = signal<number | null>(null);
  protected readonly isNew = computed(() => (this.binId() ?? this.all()[0]?.id ?? 0) === 0);
  protected readonly issue = signal<string | null>(null);
  protected readonly counted = counted;
  protected name = '';

  constructor() {
    this.store.dispatch(handBins.wanted());
  }

  protected put(): void {
    const name = this.name.trim();
    if (this.isNew() && !name) return this.issue.set('The bin needs a name.');
    const bin: Observable<{ id: number }> = this.isNew()
      ? this.api.call('newBin', { name, parentId: null })
      : of({ id: this.binId() ?? this.all()[0]?.id ?? 0 });
    bin.pipe(switchMap(({ id }) => this.api.call('binAssets', { add: [...this.assetIds()] }, id))).subscribe({
      next: () =>
        this.modal.close(
          this.isNew() ? name : (this.all().find(({ id }) => id === (this.binId() ?? this.all()[0]?.id))?.path ?? ''),
        ),
      error: (failure: Failure) => this.issue.set(failure.message),
    });
  }
}

@Injectable({ providedIn: 'root' })
export class BinDialog {
  private readonly modals = inject(NgbModal);

  /** The path of the bin that they were put into, or null. */
  ask(assetIds: readonly number[]): Promise<string | null> {
    return ask(this.modals, BinForm, { ariaLabelledBy: 'bin-title' }, (form) => form.assetIds.set(assetIds));
  }
}
