import { ChangeDetectionStrategy, Component, computed, inject, Injectable, resource, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { NgbActiveModal, NgbModal } from '@ng-bootstrap/ng-bootstrap';
import { Store } from '@ngrx/store';
import { firstValueFrom } from 'rxjs';
import { nameBy, plainSettings, readNaming, type IngestSettings, type TwinWay } from '@larder/core/ingest';
import type { ShelfRow } from '@larder/core/shelf';
import { ROUTES, type Job, type ScanFolder } from '@larder/contract';
import type { ValidationError } from 'yup';
import { Api, type Failure } from '../shared/api';
import { ask } from '../shared/ask';
import { counted } from '../shared/format';
import { Icon } from '../shared/icon';
import { NameDialog } from '../shared/name-dialog';
import { Toasts } from '../shared/toasts';
import { IngestSettingsForm } from './settings-form';
import { presets } from './state';

/** What is to come in: single things, or folders. */
export interface IngestAsked {
  readonly storageId: number;
  readonly rows: readonly ShelfRow[];
  readonly folders: readonly ScanFolder[];
}

const TWIN_WORDS: Readonly<Record<TwinWay, string>> = {
  skip: 'Skip it',
  location: 'Note it as another place of the same asset',
  anyway: 'Bring it in all the same',
};
const PREVIEWED = 3;
const TWINS_SHOWN = 50;

/** Asks how things come in, and has them brought in. */
@Component({
  selector: 'nl-ingest-sheet',
  imports: [FormsModule, Icon, IngestSettingsForm],
  templateUrl: './ingest-sheet.html',
  styleUrl: './ingest-sheet.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
class IngestSheet {
  protected readonly modal = inject(NgbActiveModal);
  private readonly api = inject(Api);
  private readonly store = inject(Store);
  private readonly names = inject(NameDialog);
  private readonly toasts = inject(Toasts);
  readonly asked = signal<IngestAsked>({ storageId: 0, rows: [], folders: [] });
  protected readonly settings = signal<IngestSettings>(plainSettings());
  protected readonly presetId = signal(0);
  private readonly allPresets = this.store.selectSignal(presets.select);
  protected readonly presets = computed(() => this.allPresets().value?.presets ?? []);
  protected readonly issue = signal<string | null>(null);
  protected readonly busy = signal(false);
  protected readonly twinWays = signal<ReadonlyMap<string, TwinWay>>(new Map());
  protected readonly ways: readonly TwinWay[] = ['skip', 'location', 'anyway'];
  protected readonly twinWords = TWIN_WORDS;
  protected readonly counted = counted;

  private readonly paths = computed(() => this.asked().rows.map(({ path }) => path));
  protected readonly title = computed(() => {
    const { rows, folders } = this.asked();
    return [
      rows.length > 0 ? counted(rows.length, 'thing') : '',
      folders.length > 0 ? counted(folders.length, 'folder') : '',
    ]
      .filter(Boolean)
      .join(' and ');
  });
  protected readonly twins = resource({
    params: () => ({ ...this.asked(), paths: this.paths() }),
    loader: ({ params: { storageId, paths, folders } }) =>
      firstValueFrom(this.api.call('twins', { paths: paths.slice(0, 1000), folders: [...folders] }, storageId)),
  });
  protected readonly twinsShown = computed(() =>
    this.twins.hasValue() ? this.twins.value().twins.slice(0, TWINS_SHOWN) : [],
  );
  /** What the first few would be called, with what the list knows of them. */
  protected readonly preview = computed(() => {
    const { naming } = this.settings();
    const { pattern, issues } = readNaming(naming);
    if (naming === '' || issues.length > 0) return [];
    return this.asked()
      .rows.slice(0, PREVIEWED)
      .map(({ name, path }, index) => {
        const ending = /\.[^.\]]+$/.exec(name)?.[0] ?? '';
        const values = {
          name: ending ? name.slice(0, -ending.length) : name,
          folder: path.split('/').at(-2) ?? null,
          reel: this.settings().fields.reel || /^([A-Z]\d{3})_?C\d{3}/.exec(name)?.[1] || 'REEL',
          scene: this.settings().fields.scene || 'SCENE',
          take: 'TAKE',
          date: 'DATE',
          timecode: 'TIMECODE',
          rate: 'RATE',
          n: index + 1,
        };
        return { before: name, after: nameBy(pattern, values) + ending };
      });
  });

  constructor() {
    this.store.dispatch(presets.wanted());
  }

  protected usePreset(id: number): void {
    this.presetId.set(id);
    this.settings.set(this.presets().find((preset) => preset.id === id)?.settings ?? plainSettings());
  }

  protected async keepPreset(): Promise<void> {
    const chosen = this.presets().find(({ id }) => id === this.presetId());
    const name = await this.names.ask({
      title: 'Keep these settings',
      label: 'Name of the preset',
      suggestion: chosen?.name ?? '',
      action: 'Keep',
    });
    if (!name) return;
    const same = this.presets().find((preset) => preset.name === name);
    const body = { name, settings: this.settings() };
    const kept = same ? this.api.call('changePreset', body, same.id) : this.api.call('newPreset', body);
    kept.subscribe({
      next: ({ id }) => {
        this.presetId.set(id);
        this.toasts.done(`Kept as the preset “${name}”.`);
      },
      error: (failure: Failure) => this.issue.set(failure.message),
    });
  }

  protected setTwin(path: string, way: TwinWay): void {
    this.twinWays.update((ways) => new Map(ways).set(path, way));
  }

  protected setAllTwins(way: TwinWay): void {
    this.twinWays.set(new Map());
    this.settings.update((settings) => ({ ...settings, twins: way }));
  }

  protected wayOf(path: string): TwinWay {
    return this.twinWays().get(path) ?? this.settings().twins;
  }

  protected async bringIn(): Promise<void> {
    const body = {
      paths: [...this.paths()],
      folders: [...this.asked().folders],
      settings: this.settings(),
      twins: [...this.twinWays()].map(([path, way]) => ({ path, way })),
    };
    try {
      await ROUTES.ingest.body?.validate(body, { abortEarly: false, strict: true });
    } catch (error) {
      return this.issue.set((error as ValidationError).errors.join(' '));
    }
    this.busy.set(true);
    this.api.call('ingest', body, this.asked().storageId).subscribe({
      next: ({ job }) => this.modal.close(job),
      error: (failure: Failure) => {
        this.busy.set(false);
        this.issue.set(failure.message);
      },
    });
  }
}

@Injectable({ providedIn: 'root' })
export class IngestDialog {
  private readonly modals = inject(NgbModal);

  /** The job that brings it in, or null if the person thought better of it. */
  ask(asked: IngestAsked): Promise<Job | null> {
    const options = { ariaLabelledBy: 'ingest-title', size: 'lg', scrollable: true };
    return ask(this.modals, IngestSheet, options, (form) => form.asked.set(asked));
  }
}
