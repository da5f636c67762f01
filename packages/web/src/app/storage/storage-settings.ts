import { ChangeDetectionStrategy, Component, computed, effect, inject, input, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { STORAGE_KINDS, type Storage, type StorageKind } from '@larder/contract';
import { Api, type Failure } from '../shared/api';
import { formatMoment } from '../shared/format';
import { StorageRoot } from './storage-root';

export const STORAGE_KIND_WORDS: Readonly<Record<StorageKind, string>> = {
  local: 'Local disk',
  network: 'Network volume',
  removable: 'Removable volume',
};

/** What people decide about a storage. */
@Component({
  selector: 'nl-storage-settings',
  imports: [FormsModule, StorageRoot],
  template: `
    <form (ngSubmit)="save()" aria-label="Settings of the storage">
      <div>
        <label class="form-label" [for]="'name-' + storage().id">Name</label>
        <input
          [id]="'name-' + storage().id"
          name="name"
          class="form-control form-control-sm"
          [(ngModel)]="name"
          maxlength="120"
          autocomplete="off"
        />
      </div>
      <div>
        <label class="form-label" [for]="'kind-' + storage().id">Kind</label>
        <select [id]="'kind-' + storage().id" name="kind" class="form-select form-select-sm" [(ngModel)]="kind">
          @for (each of kinds; track each) {
            <option [value]="each">{{ words[each] }}</option>
          }
        </select>
      </div>
      <label class="check">
        <input type="checkbox" name="managed" class="form-check-input" [(ngModel)]="managed" />
        <span>The library may copy new files to it</span>
      </label>
      <label class="check">
        <input type="checkbox" name="recognises" class="form-check-input" [(ngModel)]="recognises" />
        <span>Recognise what is said in what comes in</span>
      </label>
      <div>
        <label class="form-label" [for]="'days-' + storage().id">Check every byte again after, in days</label>
        <input
          [id]="'days-' + storage().id"
          name="days"
          type="number"
          min="1"
          max="3650"
          class="form-control form-control-sm"
          [(ngModel)]="verifyDays"
          placeholder="never by itself"
        />
      </div>
      <div>
        <label class="form-label" [for]="'hours-' + storage().id">Check presence again after, in hours</label>
        <input
          [id]="'hours-' + storage().id"
          name="hours"
          type="number"
          min="1"
          max="8760"
          class="form-control form-control-sm"
          [(ngModel)]="presenceHours"
          placeholder="never by itself"
        />
        <p class="muted small m-0">{{ looked() }}</p>
      </div>
      @if (issue(); as words) {
        <p class="issue m-0" role="alert">{{ words }}</p>
      }
      <div class="end">
        <button type="button" class="btn btn-plain btn-sm" (click)="closed.emit()">Cancel</button>
        <button type="submit" class="btn btn-primary btn-sm">Keep</button>
      </div>
    </form>
    <nl-storage-root [storage]="storage()" (moved)="closed.emit()" />
  `,
  styleUrl: './storage-settings.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class StorageSettings {
  readonly storage = input.required<Storage>();
  readonly closed = output();
  private readonly api = inject(Api);
  protected readonly kinds = STORAGE_KINDS;
  protected readonly words = STORAGE_KIND_WORDS;
  protected readonly issue = signal<string | null>(null);
  protected name = '';
  protected kind: StorageKind = 'local';
  protected managed = false;
  protected verifyDays: number | null = null;
  protected presenceHours: number | null = null;
  protected recognises = false;
  protected readonly looked = computed(() => {
    const { lookedMs } = this.storage();
    return lookedMs === null ? 'Never looked over as a whole.' : `Looked over as a whole ${formatMoment(lookedMs)}.`;
  });

  constructor() {
    effect(() => {
      const { kind, managed, name, presenceHours, recognises, verifyDays } = this.storage();
      Object.assign(this, { kind, managed, name, presenceHours, recognises, verifyDays });
    });
  }

  protected save(): void {
    const { name, kind, managed, presenceHours, recognises, verifyDays } = this;
    this.api
      .call(
        'changeStorage',
        { name: name.trim(), kind, managed, recognises, presenceHours, verifyDays },
        this.storage().id,
      )
      .subscribe({
        next: () => this.closed.emit(),
        error: (failure: Failure) => this.issue.set(failure.message),
      });
  }
}
