import { ChangeDetectionStrategy, Component, computed, inject, Injectable, resource, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { NgbActiveModal, NgbModal } from '@ng-bootstrap/ng-bootstrap';
import { firstValueFrom } from 'rxjs';
import type { RelinkItem, Storage } from '@larder/contract';
import { Api } from '../shared/api';
import { ask } from '../shared/ask';
import { counted, formatBytes } from '../shared/format';

interface PointedFile {
  readonly storageId: number;
  readonly path: string;
}

/** More of one folder than anybody looks through; the rest is found by its name. */
const SHOWN = 500;

/** Lets a person say which file is the original of an asset. */
@Component({
  selector: 'nl-point-form',
  imports: [FormsModule],
  template: `
    <form (ngSubmit)="path() && modal.close({ storageId: storageId(), path: path() })">
      <div class="modal-header">
        <h2 class="h5 m-0" id="point-title">Which file is {{ item()?.name }}?</h2>
      </div>
      <div class="modal-body">
        <p class="muted">
          Last seen at <span class="mono">{{ item()?.lastSeen }}</span>. What became of it is offered for all others
          that are missing; nothing is relinked yet.
        </p>
        <div class="two">
          <div>
            <label class="form-label" for="point-storage">Storage</label>
            <select
              id="point-storage"
              name="storage"
              class="form-select"
              [ngModel]="storageId()"
              (ngModelChange)="pick(+$event)"
            >
              @for (storage of storages(); track storage.id) {
                <option [value]="storage.id">{{ storage.name }}</option>
              }
            </select>
          </div>
          <div class="flex-fill">
            <label class="form-label" for="point-folder">Folder</label>
            <select
              id="point-folder"
              name="folder"
              class="form-select"
              [ngModel]="folder()"
              (ngModelChange)="folder.set($event); path.set('')"
            >
              <option value="">{{ '(at the top)' }}</option>
              @if (folders.hasValue()) {
                @for (each of folders.value().folders; track each) {
                  <option [value]="each">{{ each }}</option>
                }
              }
            </select>
          </div>
        </div>
        <label class="form-label" for="point-file">File</label>
        <select
          id="point-file"
          name="file"
          class="form-select"
          size="8"
          [ngModel]="path()"
          (ngModelChange)="path.set($event)"
        >
          @for (row of rows(); track row.path) {
            <option [value]="row.path">{{ row.name }} · {{ bytes(row.bytes) }}</option>
          }
        </select>
        @if (files.hasValue() && rows().length === 0) {
          <p class="muted m-0">No footage or sound lies in this folder itself.</p>
        } @else if (hidden() > 0) {
          <p class="muted m-0">{{ counted(hidden(), 'more file') }} in this folder; look for it by its name instead.</p>
        } @else if (files.error()) {
          <p class="m-0" role="alert">What lies in this folder cannot be shown just now.</p>
        }
      </div>
      <div class="modal-footer">
        <button type="button" class="btn btn-plain" (click)="modal.dismiss()">Cancel</button>
        <button type="submit" class="btn btn-primary" [disabled]="!path()">This is it</button>
      </div>
    </form>
  `,
  styles: `
    .two {
      display: flex;
      gap: 12px;
      margin-bottom: 10px;
    }
    .two div {
      min-width: 0;
    }
    p {
      overflow-wrap: anywhere;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
class PointForm {
  protected readonly modal = inject(NgbActiveModal);
  private readonly api = inject(Api);
  readonly item = signal<RelinkItem | null>(null);
  readonly storages = signal<readonly Storage[]>([]);
  readonly storageId = signal(0);
  readonly folder = signal('');
  protected readonly path = signal('');
  protected readonly bytes = formatBytes;
  protected readonly counted = counted;
  protected readonly folders = resource({
    params: () => this.storageId(),
    loader: ({ params }) => firstValueFrom(this.api.call('folders', null, params)),
  });
  protected readonly files = resource({
    params: () => ({ id: this.storageId(), path: this.folder() }),
    loader: ({ params: { id, path } }) => firstValueFrom(this.api.call('browse', { path, limit: SHOWN }, id)),
  });
  /** What is catalogued and missing is no file to point at. */
  protected readonly rows = computed(() =>
    (this.files.hasValue() ? this.files.value().rows : []).filter(({ state }) => state !== 'missing'),
  );
  protected readonly hidden = computed(() =>
    this.files.hasValue() ? Math.max(0, this.files.value().total - this.files.value().rows.length) : 0,
  );

  protected pick(storageId: number): void {
    this.storageId.set(storageId);
    this.folder.set('');
    this.path.set('');
  }
}

@Injectable({ providedIn: 'root' })
export class PointDialog {
  private readonly modals = inject(NgbModal);

  /** The file that was pointed at, or null if the person thought better of it. Begins with the candidate's folder, if there is one. */
  ask(item: RelinkItem, storages: readonly Storage[]): Promise<PointedFile | null> {
    return ask(this.modals, PointForm, { ariaLabelledBy: 'point-title', size: 'lg' }, (form) => {
      const near = item.matches[item.chosen];
      form.item.set(item);
      form.storages.set(storages);
      form.storageId.set(near?.storageId ?? storages[0]?.id ?? 0);
      if (near?.path.includes('/')) form.folder.set(near.path.slice(0, near.path.lastIndexOf('/')));
    });
  }
}
