import { ChangeDetectionStrategy, Component, inject, input, output, resource } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { firstValueFrom } from 'rxjs';
import type { FindMissing, Storage } from '@larder/contract';
import { Api } from '../shared/api';
import { Icon } from '../shared/icon';

export type Place = FindMissing['places'][number];

/** One place in which is looked: a storage, a folder of it, and whether all below too. */
@Component({
  selector: 'nl-look-place',
  imports: [FormsModule, Icon],
  template: `
    <div>
      <label class="form-label" [for]="'look-storage-' + number()">Look in</label>
      <select
        [id]="'look-storage-' + number()"
        class="form-select"
        [ngModel]="place().storageId"
        [ngModelOptions]="{ standalone: true }"
        (ngModelChange)="changed.emit({ storageId: +$event, folder: '', deep: true })"
      >
        @for (storage of storages(); track storage.id) {
          <option [value]="storage.id">
            {{ storage.name }}{{ storage.counts.missing > 0 ? ' (' + storage.counts.missing + ' missing)' : '' }}
          </option>
        }
      </select>
    </div>
    <div class="flex-fill">
      <label class="form-label" [for]="'look-folder-' + number()">Folder</label>
      <select
        [id]="'look-folder-' + number()"
        class="form-select"
        [ngModel]="place().folder"
        [ngModelOptions]="{ standalone: true }"
        (ngModelChange)="changed.emit({ storageId: place().storageId, folder: $event, deep: place().deep })"
      >
        <option value="">The whole storage</option>
        @if (folders.hasValue()) {
          @for (path of folders.value().folders; track path) {
            <option [value]="path">{{ path }}</option>
          }
        }
      </select>
    </div>
    <label class="check"
      ><input
        type="checkbox"
        class="form-check-input"
        [checked]="place().deep"
        (change)="
          changed.emit({ storageId: place().storageId, folder: place().folder, deep: $any($event.target).checked })
        "
      />
      With all below</label
    >
    @if (removable()) {
      <button type="button" class="btn btn-quiet btn-sm" aria-label="Do not look here" (click)="removed.emit()">
        <nl-icon name="close" />
      </button>
    }
  `,
  styles: `
    :host {
      display: flex;
      gap: 12px;
      align-items: end;
    }
    div {
      min-width: 0;
    }
    .check {
      display: flex;
      gap: 6px;
      align-items: center;
      padding-bottom: 7px;
      white-space: nowrap;
    }
    .check input {
      margin: 0;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class LookPlace {
  readonly place = input.required<Place>();
  readonly number = input.required<number>();
  readonly storages = input.required<readonly Storage[]>();
  readonly removable = input.required<boolean>();
  readonly changed = output<Place>();
  readonly removed = output();
  private readonly api = inject(Api);
  protected readonly folders = resource({
    params: () => this.place().storageId,
    loader: ({ params }) => firstValueFrom(this.api.call('folders', null, params)),
  });
}
