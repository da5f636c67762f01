import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { Router, RouterLink } from '@angular/router';
import { plainSettings, type IngestSettings } from '@larder/core/ingest';
import { ROUTES } from '@larder/contract';
import type { ValidationError } from 'yup';
import { IngestSettingsForm } from '../ingest/settings-form';
import { Api, type Failure } from '../shared/api';
import { counted, formatBytes, formatWait } from '../shared/format';
import { Icon } from '../shared/icon';
import { Toasts } from '../shared/toasts';
import { chosenFiles, droppedFiles, type Dropped } from './dropped';
import { Uploader, type UploadState } from './uploader';

const STATE_WORDS: Readonly<Record<UploadState, string>> = {
  waiting: 'Waiting',
  sending: 'Sending',
  cut: 'Connection cut, trying again',
  interrupted: 'Interrupted; choose it again',
  sent: 'Sent',
  failed: 'Failed',
  cancelled: 'Cancelled',
};

/** Sends files and folders from this computer, and says meanwhile what becomes of them. */
@Component({
  selector: 'nl-upload',
  imports: [Icon, IngestSettingsForm, RouterLink],
  templateUrl: './upload.html',
  styleUrl: './upload.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class UploadPage {
  protected readonly uploader = inject(Uploader);
  private readonly api = inject(Api);
  private readonly router = inject(Router);
  private readonly toasts = inject(Toasts);
  protected readonly items = this.uploader.items;
  protected readonly settings = signal<IngestSettings>({ ...plainSettings(), way: 'copy' });
  protected readonly over = signal(false);
  protected readonly issue = signal<string | null>(null);
  protected readonly busy = signal(false);
  protected readonly words = STATE_WORDS;
  protected readonly bytes = formatBytes;
  protected readonly wait = formatWait;

  private readonly wanted = computed(() => this.items().filter(({ state }) => state !== 'cancelled'));
  protected readonly ready = computed(
    () => this.wanted().length > 0 && this.wanted().every(({ state }) => state === 'sent'),
  );
  protected readonly said = computed(() => {
    const all = this.wanted();
    if (all.length === 0) return '';
    const [sent, bytes] = [
      all.reduce((sum, item) => sum + item.sent, 0),
      all.reduce((sum, item) => sum + item.bytes, 0),
    ];
    const speed = all.reduce((sum, item) => sum + (item.speed ?? 0), 0);
    const pace = speed > 0 ? `, ${formatBytes(speed)}/s, ${formatWait((bytes - sent) / speed)} left` : '';
    return `${counted(all.length, 'file')}: ${formatBytes(sent)} of ${formatBytes(bytes)} sent${pace}`;
  });

  protected percent({ sent, bytes }: { sent: number; bytes: number }): number {
    return bytes > 0 ? (sent / bytes) * 100 : 100;
  }

  protected choose(event: Event): void {
    const field = event.target as HTMLInputElement;
    this.add(chosenFiles(field.files ?? []));
    field.value = '';
  }

  protected async drop(event: DragEvent): Promise<void> {
    event.preventDefault();
    this.over.set(false);
    if (event.dataTransfer) this.add(await droppedFiles(event.dataTransfer));
  }

  private add(files: readonly Dropped[]): void {
    if (files.length > 0) this.uploader.add(files);
  }

  protected async bringIn(): Promise<void> {
    const body = { batch: this.uploader.batch, settings: this.settings() };
    try {
      await ROUTES.ingestUpload.body?.validate(body, { abortEarly: false, strict: true });
    } catch (error) {
      return this.issue.set((error as ValidationError).errors.join(' '));
    }
    this.busy.set(true);
    this.api.call('ingestUpload', body).subscribe({
      next: ({ job }) => {
        this.uploader.clear();
        this.busy.set(false);
        this.toasts.done('It is being brought in.');
        void this.router.navigate(['/jobs'], { queryParams: { job: job.id } });
      },
      error: (failure: Failure) => {
        this.busy.set(false);
        this.issue.set(failure.message);
      },
    });
  }
}
