import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import type { WatchFolder } from '@larder/contract';
import { Api, type Failure } from '../shared/api';
import { Icon } from '../shared/icon';
import { mayOffer, sessionFeature } from '../shared/session';
import { Toasts } from '../shared/toasts';
import { storages } from '../storage/state';
import { presets, watches } from './state';

/** Folders whose new files come in by themselves, each by a preset. */
@Component({
  selector: 'nl-watch-folders',
  imports: [FormsModule, Icon],
  template: `
    <h2>Watch folders</h2>
    <p class="muted small">
      What arrives in them and has stopped growing comes in by a preset. Keep presets in the sheet that brings things
      in.
    </p>
    @for (watch of all(); track watch.id) {
      <div class="line" [attr.data-watch]="watch.folder">
        <label class="check" [title]="watch.active ? 'It is watched' : 'It is not watched just now'">
          <input
            type="checkbox"
            class="form-check-input"
            [checked]="watch.active"
            [disabled]="!mayKeep()"
            (change)="change(watch)"
            [attr.aria-label]="'Watch ' + (watch.folder || nameOf(watch.storageId))"
          />
        </label>
        <b>{{ nameOf(watch.storageId) }}</b>
        <span class="mono cut">{{ watch.folder || 'all of it' }}</span>
        <span class="muted">{{ presetOf(watch.presetId) }}, quiet for {{ watch.quietSeconds }} s</span>
        @if (mayKeep()) {
          <button
            type="button"
            class="btn btn-quiet btn-sm"
            (click)="remove(watch)"
            [attr.aria-label]="'Do not watch ' + watch.folder + ' any more'"
          >
            <nl-icon name="close" />
          </button>
        }
      </div>
    } @empty {
      <p class="muted m-0">None yet.</p>
    }
    @if (mayKeep() && presets().length > 0) {
      <form class="line" (ngSubmit)="add()">
        <label class="visually-hidden" for="watch-storage">Storage</label>
        <select id="watch-storage" name="storage" class="form-select form-select-sm" [(ngModel)]="storageId">
          <option [ngValue]="0">Storage …</option>
          @for (storage of storages(); track storage.id) {
            <option [ngValue]="storage.id">{{ storage.name }}</option>
          }
        </select>
        <label class="visually-hidden" for="watch-folder">Folder</label>
        <input
          id="watch-folder"
          name="folder"
          class="form-control form-control-sm mono"
          [(ngModel)]="folder"
          placeholder="folder, or all of it"
          autocomplete="off"
          spellcheck="false"
        />
        <label class="visually-hidden" for="watch-preset">Preset</label>
        <select id="watch-preset" name="preset" class="form-select form-select-sm" [(ngModel)]="presetId">
          <option [ngValue]="0">Preset …</option>
          @for (preset of presets(); track preset.id) {
            <option [ngValue]="preset.id">{{ preset.name }}</option>
          }
        </select>
        <button type="submit" class="btn btn-plain btn-sm"><nl-icon name="plus" />Watch</button>
      </form>
    }
    @if (issue(); as words) {
      <p class="bad m-0" role="alert">{{ words }}</p>
    }
  `,
  styles: `
    :host {
      display: grid;
      gap: 6px;
      padding: 14px 18px;
    }
    h2 {
      margin: 0;
      font-size: 1rem;
    }
    p {
      margin: 0;
    }
    .line {
      display: flex;
      align-items: center;
      gap: 10px;
      min-width: 0;
    }
    .line .cut {
      flex: 1;
      min-width: 0;
    }
    .line select {
      width: 190px;
    }
    .check input {
      margin: 0;
    }
    .bad {
      color: var(--nl-bad);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class WatchFolders {
  private readonly store = inject(Store);
  private readonly api = inject(Api);
  private readonly toasts = inject(Toasts);
  private readonly state = this.store.selectSignal(watches.select);
  private readonly allPresets = this.store.selectSignal(presets.select);
  private readonly allStorages = this.store.selectSignal(storages.select);
  private readonly person = this.store.selectSignal(sessionFeature.selectPerson);
  protected readonly mayKeep = computed(() => mayOffer(this.person(), 'keep'));
  protected readonly all = computed(() => this.state().value?.watches ?? []);
  protected readonly presets = computed(() => this.allPresets().value?.presets ?? []);
  protected readonly storages = computed(() => this.allStorages().value?.storages ?? []);
  protected readonly issue = signal<string | null>(null);
  protected storageId = 0;
  protected folder = '';
  protected presetId = 0;

  constructor() {
    for (const slice of [watches, presets, storages]) this.store.dispatch(slice.wanted());
  }

  protected nameOf = (id: number): string => this.storages().find((storage) => storage.id === id)?.name ?? '';
  protected presetOf = (id: number): string => this.presets().find((preset) => preset.id === id)?.name ?? '';

  protected add(): void {
    if (this.storageId === 0 || this.presetId === 0) return this.issue.set('Choose a storage and a preset.');
    const folder = this.folder.trim().replace(/^\/+|\/+$/g, '');
    const watch = { storageId: this.storageId, folder, presetId: this.presetId, active: true, quietSeconds: 10 };
    this.api.call('newWatch', watch).subscribe({
      next: () => {
        this.issue.set(null);
        [this.storageId, this.folder, this.presetId] = [0, '', 0];
      },
      error: (failure: Failure) => this.issue.set(failure.message),
    });
  }

  protected change({ id, ...watch }: WatchFolder): void {
    this.api
      .call('changeWatch', { ...watch, active: !watch.active }, id)
      .subscribe({ error: (failure: Failure) => this.toasts.failed(failure.message) });
  }

  protected remove({ id }: WatchFolder): void {
    this.api
      .call('removeWatch', null, id)
      .subscribe({ error: (failure: Failure) => this.toasts.failed(failure.message) });
  }
}
