import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { type ValidationError } from 'yup';
import { FILE_STATES } from '@larder/core/fields';
import { ROUTES, type Storage as StorageFacts } from '@larder/contract';
import { JobProgress } from '../jobs/job-progress';
import { Api, type Failure } from '../shared/api';
import { counted, formatBytes, formatCount, formatMoment } from '../shared/format';
import { Icon } from '../shared/icon';
import { STATE_LABELS } from '../shared/icons';
import { NothingFits, quick, QuickBox } from '../shared/quick-box';
import { mayOffer, sessionFeature } from '../shared/session';
import { Toasts } from '../shared/toasts';
import { WatchFolders } from '../ingest/watch-folders';
import { storages } from './state';
import { STORAGE_KIND_WORDS, StorageSettings } from './storage-settings';

/** The shelves: where originals lie, how they are, and scanning them. */
@Component({
  selector: 'nl-storage',
  imports: [FormsModule, Icon, JobProgress, NothingFits, QuickBox, RouterLink, StorageSettings, WatchFolders],
  templateUrl: './storage.html',
  styleUrl: './storage.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class StoragePage {
  private readonly store = inject(Store);
  private readonly api = inject(Api);
  private readonly toasts = inject(Toasts);
  protected readonly state = this.store.selectSignal(storages.select);
  private readonly person = this.store.selectSignal(sessionFeature.selectPerson);
  protected readonly mayKeep = computed(() => mayOffer(this.person(), 'keep'));
  protected readonly all = computed(() => this.state().value?.storages ?? []);
  protected readonly quick = quick();
  protected readonly shown = computed(() =>
    this.all().filter(({ name, rootPath, state }) => this.quick.fits()(name, rootPath, state)),
  );
  protected readonly mayUpload = computed(() => mayOffer(this.person(), 'log'));
  protected readonly kindWords = STORAGE_KIND_WORDS;
  /** The storage whose settings are open. */
  protected readonly changing = signal<number | null>(null);
  protected readonly adding = signal(false);
  protected readonly issue = signal<string | null>(null);
  protected readonly states = FILE_STATES;
  protected readonly labels = STATE_LABELS;
  protected readonly bytes = formatBytes;
  protected readonly count = formatCount;
  protected readonly counted = counted;
  protected readonly moment = formatMoment;
  protected name = '';
  protected rootPath = '';

  constructor() {
    this.store.dispatch(storages.wanted());
  }

  protected total({ counts }: StorageFacts): number {
    return FILE_STATES.reduce((sum, state) => sum + counts[state], 0);
  }

  protected queryFor(storage: StorageFacts, state: string): string {
    return `storage:"${storage.name}" is:${state}`;
  }

  protected scan(storage: StorageFacts): void {
    this.api.call('scan', {}, storage.id).subscribe({
      next: () => this.store.dispatch(storages.wanted()),
      error: (failure: Failure) => this.toasts.failed(`${storage.name} is not being scanned. ${failure.message}`),
    });
  }

  /** How much of the volume is taken, in percent. */
  protected taken({ capacityBytes, freeBytes }: StorageFacts): number {
    return capacityBytes === null || freeBytes === null ? 0 : 100 - (freeBytes / capacityBytes) * 100;
  }

  protected verify(storage: StorageFacts): void {
    this.api.call('verify', { storageId: storage.id }).subscribe({
      next: () => this.toasts.done(`Every byte on ${storage.name} is being checked. See Jobs for how far it is.`),
      error: (failure: Failure) => this.toasts.failed(failure.message),
    });
  }

  protected cancel(jobId: number): void {
    this.api
      .call('cancelJob', null, jobId)
      .subscribe({ error: (failure: Failure) => this.toasts.failed(failure.message) });
  }

  protected async add(): Promise<void> {
    const storage = { name: this.name, rootPath: this.rootPath };
    try {
      await ROUTES.newStorage.body?.validate(storage, { abortEarly: false });
    } catch (error) {
      return this.issue.set((error as ValidationError).errors.join(' '));
    }
    this.api.call('newStorage', storage).subscribe({
      next: (made) => {
        this.store.dispatch(storages.wanted());
        this.adding.set(false);
        this.issue.set(null);
        [this.name, this.rootPath] = ['', ''];
        if (made.state === 'online') this.scan(made);
      },
      error: (failure: Failure) => this.issue.set(failure.message),
    });
  }
}
