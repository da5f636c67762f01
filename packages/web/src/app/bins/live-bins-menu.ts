import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { NgbDropdown, NgbDropdownItem, NgbDropdownMenu, NgbDropdownToggle } from '@ng-bootstrap/ng-bootstrap';
import { Store } from '@ngrx/store';
import { STARTER_BINS } from '@larder/core/query';
import { LIVE_BINS_VERSION, type LiveBinsFile, type LiveBinsIn } from '@larder/contract';
import { Api, type Failure } from '../shared/api';
import { counted } from '../shared/format';
import { Icon } from '../shared/icon';
import { saveFile } from '../shared/save-file';
import { Toasts } from '../shared/toasts';
import { bins, handBins } from './state';

/** Nobody writes a larger one; beyond it, it is some other file. */
const MOST_BYTES = 2_000_000;

/** Many live bins at once, in the library or in a project: those to begin with, and from and to files. */
@Component({
  selector: 'nl-live-bins-menu',
  imports: [Icon, NgbDropdown, NgbDropdownItem, NgbDropdownMenu, NgbDropdownToggle],
  template: `
    <div ngbDropdown container="body" placement="bottom-start bottom-end">
      <button type="button" class="btn btn-quiet btn-sm" ngbDropdownToggle>
        <nl-icon name="download" />{{ word() }}
      </button>
      <div ngbDropdownMenu>
        <button type="button" ngbDropdownItem (click)="start()" [title]="starters">Add the starter set</button>
        <button type="button" ngbDropdownItem (click)="picker.click()">Read from a file …</button>
        <button type="button" ngbDropdownItem (click)="write()" [disabled]="own().length === 0">Write to a file</button>
      </div>
    </div>
    <input
      #picker
      type="file"
      class="visually-hidden"
      accept=".json,application/json"
      tabindex="-1"
      (change)="read(picker)"
    />
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class LiveBinsMenu {
  /** Null for those of the library. */
  readonly projectId = input<number | null>(null);
  readonly word = input('Sets and files');
  private readonly store = inject(Store);
  private readonly api = inject(Api);
  private readonly toasts = inject(Toasts);
  private readonly state = this.store.selectSignal(bins.select);
  private readonly hand = this.store.selectSignal(handBins.select);
  protected readonly own = computed(() =>
    (this.state().value?.bins ?? []).filter(({ projectId }) => projectId === this.projectId()),
  );
  protected readonly starters = STARTER_BINS.map(({ name }) => name).join(', ');

  protected start(): void {
    this.take({ version: LIVE_BINS_VERSION, liveBins: STARTER_BINS.map((bin) => ({ ...bin, in: null })) });
  }

  protected read(picker: HTMLInputElement): void {
    const [file] = picker.files ?? [];
    picker.value = '';
    if (!file) return;
    if (file.size > MOST_BYTES) return this.toasts.failed(`“${file.name}” is too large to be a file of live bins.`);
    file.text().then(
      (text) => {
        try {
          this.take(JSON.parse(text) as LiveBinsFile);
        } catch {
          this.toasts.failed(`“${file.name}” is no JSON, so nothing was read. Choose a file that was written here.`);
        }
      },
      () => this.toasts.failed(`“${file.name}” could not be read.`),
    );
  }

  private take(file: LiveBinsIn['file']): void {
    this.api.call('takeLiveBins', { file, projectId: this.projectId(), shared: true }).subscribe({
      next: ({ made, left }) => {
        this.store.dispatch(bins.wanted());
        if (made.length > 0) this.toasts.done(`${counted(made.length, 'live bin')} added.`);
        if (left.length > 0)
          this.toasts.failed(`Left out: ${left.map(({ name, why }) => `“${name}”: ${why}`).join(' ')}`);
      },
      error: ({ message }: Failure) => this.toasts.failed(`No live bins came in. ${message}`),
    });
  }

  protected write(): void {
    const paths = new Map((this.hand().value?.bins ?? []).map(({ id, path }) => [id, path]));
    const file: LiveBinsFile = {
      version: LIVE_BINS_VERSION,
      liveBins: this.own().map(({ name, query, parentId }) => ({ name, query, in: paths.get(parentId ?? 0) ?? null })),
    };
    saveFile({ name: 'live-bins.json', text: JSON.stringify(file, null, 2), type: 'application/json' });
  }
}
