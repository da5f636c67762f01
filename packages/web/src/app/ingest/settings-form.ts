import {
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  inject,
  input,
  linkedSignal,
  model,
} from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import { CODE_POINTS, type CodePointTable } from '@larder/core/colour';
import { ALPHAS, MEZZANINES, NAME_PARTS, readNaming, wordNamingIssue, type IngestSettings } from '@larder/core/ingest';
import { COUNTING_IDS } from '@larder/core/timecode';
import { handBins } from '../bins/state';
import { TagField } from '../details/tag-field';
import { storages } from '../storage/state';

const MEZZANINE_WORDS = { none: 'None', vc3: 'VC-3 (SMPTE ST 2019)', ffv1: 'FFV1, without loss' } as const;
const ALPHA_WORDS = { straight: 'Straight', premultiplied: 'Premultiplied', ignored: 'Ignored' } as const;

/** Everything that can be said of how things come in, apart from what comes in. */
@Component({
  selector: 'nl-ingest-settings',
  imports: [FormsModule, TagField],
  templateUrl: './settings-form.html',
  styleUrl: './settings-form.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class IngestSettingsForm {
  readonly settings = model.required<IngestSettings>();
  /** What is uploaded has to be copied somewhere. */
  readonly mustCopy = input(false);
  /** Corrections make sense before cataloguing only where somebody has looked. */
  readonly withCorrections = input(true);

  private readonly store = inject(Store);
  private readonly allStorages = this.store.selectSignal(storages.select);
  private readonly allBins = this.store.selectSignal(handBins.select);
  protected readonly targets = computed(() =>
    (this.allStorages().value?.storages ?? []).filter(({ managed, state }) => managed && state === 'online'),
  );
  protected readonly bins = computed(() => this.allBins().value?.bins ?? []);
  protected readonly rates = COUNTING_IDS;
  protected readonly mezzanines = MEZZANINES;
  protected readonly mezzanineWords = MEZZANINE_WORDS;
  protected readonly alphas = ALPHAS;
  protected readonly alphaWords = ALPHA_WORDS;
  protected readonly points = CODE_POINTS;
  protected readonly tables: readonly { readonly table: CodePointTable; readonly label: string }[] = [
    { table: 'primaries', label: 'Primaries' },
    { table: 'transfer', label: 'Transfer' },
    { table: 'matrix', label: 'Matrix' },
  ];
  protected readonly parts = Object.entries(NAME_PARTS).map(([part, help]) => ({ part, help }));
  protected readonly folded = linkedSignal(() => !this.touchesCorrections());
  protected readonly namingIssue = computed(() => {
    const { naming } = this.settings();
    return naming === '' ? '' : readNaming(naming).issues.map(wordNamingIssue).join(' ');
  });

  constructor() {
    this.store.dispatch(storages.wanted());
    this.store.dispatch(handBins.wanted());
    effect(() => {
      const [first] = this.targets();
      const { way, destination } = this.settings();
      // What the field shows is what holds, also before somebody has touched it.
      if (way === 'copy' && destination === null && first) this.setDestination({ storageId: first.id });
    });
  }

  private touchesCorrections(): boolean {
    const { sequenceRate, alpha, startTimecode, offsetFrames, colour } = this.settings().corrections;
    return Boolean(
      sequenceRate ?? alpha ?? startTimecode ?? colour.primaries ?? colour.transfer ?? colour.matrix ?? offsetFrames,
    );
  }

  protected set(change: Partial<IngestSettings>): void {
    this.settings.update((before) => ({ ...before, ...change }));
  }

  protected setWay(way: IngestSettings['way']): void {
    const destination = this.settings().destination ?? null;
    const first = this.targets()[0];
    this.set({
      way,
      destination: way === 'copy' ? (destination ?? (first ? { storageId: first.id, folder: '' } : null)) : null,
    });
  }

  protected setDestination(change: { storageId?: number; folder?: string }): void {
    const before = this.settings().destination ?? { storageId: this.targets()[0]?.id ?? 0, folder: '' };
    const folder = (change.folder ?? before.folder).trim().replace(/^\/+|\/+$/g, '');
    this.set({ destination: { ...before, ...change, folder } });
  }

  protected setBin(change: Partial<IngestSettings['bin']>): void {
    this.set({ bin: { ...this.settings().bin, ...change } });
  }

  protected setField(field: keyof IngestSettings['fields'], text: string): void {
    this.set({ fields: { ...this.settings().fields, [field]: text } });
  }

  protected correct(change: Partial<IngestSettings['corrections']>): void {
    this.set({ corrections: { ...this.settings().corrections, ...change } });
  }

  protected setColour(table: CodePointTable, id: string): void {
    const { colour } = this.settings().corrections;
    this.correct({ colour: { ...colour, [table]: id || null } });
  }

  protected readonly tagsShown = computed(() => this.settings().tags.map((name) => ({ name, all: true })));

  protected addTag(tag: string): void {
    const { tags } = this.settings();
    if (!tags.includes(tag)) this.set({ tags: [...tags, tag] });
  }

  protected removeTag(tag: string): void {
    this.set({ tags: this.settings().tags.filter((each) => each !== tag) });
  }

  protected addPart(part: string): void {
    this.set({ naming: `${this.settings().naming}{${part}}` });
  }
}
