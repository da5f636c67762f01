import {
  ApplicationRef,
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  inject,
  resource,
  signal,
  untracked,
} from '@angular/core';
import { Store } from '@ngrx/store';
import { firstValueFrom } from 'rxjs';
import {
  valueText,
  VERDICTS,
  type FieldChanges,
  type SettableFieldId,
  type SetValue,
  type Verdict,
} from '@larder/core/fields';
import { fieldValues, type Asset, type Change } from '@larder/contract';
import { Api } from '../shared/api';
import { Fields } from '../shared/fields';
import { callOf, counted, formatMoment } from '../shared/format';
import { Icon } from '../shared/icon';
import { VERDICT_LABELS } from '../shared/icons';
import { Keys } from '../shared/keys';
import { Player } from '../shared/player';
import { mayOffer, sessionFeature } from '../shared/session';
import { Settings } from '../shared/settings';
import { StateBadge } from '../shared/state-badge';
import { Toasts } from '../shared/toasts';
import { libraryActions, type EditChange } from '../library/state/library.actions';
import { libraryFeature } from '../library/state/library.reducer';
import { pullActions } from '../frame/pull.state';
import { factsOf } from './facts';
import { FieldEdit, type FieldSaved, type Shared } from './field-edit';
import { BinDialog } from '../bins/bin-dialog';
import { Places } from './places';
import { TagField } from './tag-field';

const NOTHING_SAID: Shared<SetValue> = { same: true, value: null };

export function sharedValue<From, T extends SetValue>(all: readonly From[], read: (one: From) => T): Shared<T> {
  const first = all[0];
  if (first === undefined) return { same: false };
  const value = read(first);
  return all.every((one) => valueText(read(one)) === valueText(value)) ? { same: true, value } : { same: false };
}

/** The details of what is selected: one asset to look at and log, or many to log at once. */
@Component({
  selector: 'nl-details',
  imports: [FieldEdit, Icon, Player, StateBadge, TagField, Places],
  templateUrl: './details.html',
  styleUrl: './details.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Details {
  private readonly store = inject(Store);
  private readonly api = inject(Api);
  private readonly toasts = inject(Toasts);
  private readonly app = inject(ApplicationRef);
  protected readonly settings = inject(Settings);
  protected readonly revision = this.store.selectSignal(sessionFeature.selectRevision);
  private readonly person = this.store.selectSignal(sessionFeature.selectPerson);
  protected readonly ids = this.store.selectSignal(libraryFeature.selectSelected);
  protected readonly assets = this.store.selectSignal(libraryFeature.selectSelectedAssets);
  protected readonly single = computed(() => (this.ids().length === 1 ? (this.assets()[0] ?? null) : null));
  private readonly binDialog = inject(BinDialog);
  protected readonly mayKeep = computed(() => mayOffer(this.person(), 'keep'));
  protected readonly mayLog = computed(() => mayOffer(this.person(), 'log'));
  protected readonly verdicts = VERDICTS;
  protected readonly verdictLabels = VERDICT_LABELS;
  protected readonly counted = counted;

  private readonly fields = inject(Fields);
  protected readonly labelOf = (field: string): string => this.fields.registry().labelOf(field);
  private readonly values = computed(() => this.assets().map(fieldValues));
  private readonly shared = computed(
    () =>
      Object.fromEntries(
        this.fields
          .registry()
          .settable.map(({ id }) => [id, sharedValue(this.values(), (values) => values[id] ?? null)]),
      ) as Record<SettableFieldId, Shared<SetValue>>,
  );
  /** The fields that are filled in here, by their groups; verdict and tags have controls of their own. */
  protected readonly groups = computed(() =>
    this.fields
      .registry()
      .groups.map(({ id: group, label }) => {
        const fields = this.fields
          .registry()
          .settable.filter((field) => field.group === group && field.id !== 'verdict')
          .map((field) => ({ field, said: this.shared()[field.id] ?? NOTHING_SAID }))
          // A retired field is shown where something was said in it, and nowhere else.
          .filter(({ field, said }) => !field.retired || !said.same || said.value !== null);
        const filled = fields.filter(({ said }) => !said.same || said.value !== null).length;
        return { group, label, fields, filled, open: !this.settings.folded().includes(group) };
      })
      .filter(({ fields }) => fields.length > 0),
  );
  /** Tags that all have, and those that only some have. */
  protected readonly tags = computed(() => {
    const uses = new Map<string, number>();
    for (const asset of this.assets()) for (const tag of asset.tags) uses.set(tag, (uses.get(tag) ?? 0) + 1);
    return [...uses]
      .map(([name, number]) => ({ name, all: number === this.assets().length }))
      .sort((a, b) => (a.name < b.name ? -1 : 1));
  });
  protected readonly marks = signal<{ in: number | null; out: number | null }>({ in: null, out: null });
  protected readonly historyOpen = signal(false);
  protected readonly history = resource({
    params: () =>
      this.historyOpen() && this.single() ? { id: this.single()?.id ?? 0, revision: this.revision() } : undefined,
    loader: ({ params }) => firstValueFrom(this.api.call('history', null, params.id)),
  });

  protected readonly facts = computed(() => {
    const asset = this.single();
    return asset ? factsOf(asset) : [];
  });

  constructor() {
    effect(() => {
      this.ids();
      untracked(() => this.marks.set({ in: null, out: null }));
    });
    const keys = inject(Keys);
    const verdict = (value: Verdict) => () => this.ids().length > 0 && this.mayLog() && void this.setVerdict(value);
    keys.on('log.circled', verdict('circled'));
    keys.on('log.hold', verdict('hold'));
    keys.on('log.ng', verdict('ng'));
    keys.on('log.edit', () => this.ids().length > 0 && this.focusOn('field-title'));
    keys.on('list.pull', () => {
      if (this.ids().length === 0) return false;
      return this.pull();
    });
    keys.on('list.bin', () => (this.ids().length > 0 && this.mayLog() ? void this.toBin() : false));
  }

  protected name(asset: Asset): string {
    return callOf(asset);
  }

  /** Goes to a field at once, before the next key: it may be hidden, or belong to a clip that was clicked a moment ago. */
  private focusOn(id: string): void {
    this.settings.details.set(true);
    this.app.tick();
    document.getElementById(id)?.focus();
  }

  protected fold(group: string): void {
    this.settings.folded.update((folded) =>
      folded.includes(group) ? folded.filter((each) => each !== group) : [...folded, group],
    );
  }

  protected isVerdict(value: Verdict): boolean {
    const shared = this.shared().verdict;
    return shared.same && shared.value === value;
  }

  protected save({ field, value, seen }: FieldSaved): void {
    this.edit({ set: { [field]: value } }, `${this.labelOf(field)} changed`, seen);
  }

  protected setVerdict(value: Verdict): void {
    // The same key again takes the verdict back.
    const next = this.isVerdict(value) ? null : value;
    this.edit({ set: { verdict: next } }, next ? `Verdict ${VERDICT_LABELS[next].word}` : 'Verdict removed');
  }

  protected addTag(name: string): void {
    this.edit({ addTags: [name] }, `Tag “${name}” added`);
  }

  protected removeTag(name: string): void {
    this.edit({ removeTags: [name] }, `Tag “${name}” removed`);
  }

  protected pull(): void {
    this.store.dispatch(pullActions.add({ assetIds: this.ids() }));
    this.toasts.done(`${counted(this.ids().length, 'asset')} put into the pull list.`);
  }

  protected async toBin(): Promise<void> {
    const ids = this.ids();
    const path = await this.binDialog.ask(ids);
    if (path !== null) this.toasts.done(`${counted(ids.length, 'asset')} put into “${path}”.`);
  }

  private edit(change: EditChange, label: string, seen?: number): void {
    this.store.dispatch(
      libraryActions.edit({ ids: this.ids(), change, label, ...(seen === undefined ? {} : { seen }) }),
    );
  }

  protected when(change: Change): string {
    return formatMoment(change.atMs);
  }

  protected canPutBack({ action }: Change): boolean {
    return action === 'edit' || action === 'undo';
  }

  /** Says again what the fields said before a change, whatever came after it; itself a change that can be undone. */
  protected putBack({ before, after }: Change): void {
    const tags = (side: Change['before']): string[] => (Array.isArray(side['tags']) ? (side['tags'] as string[]) : []);
    const set = Object.fromEntries(
      Object.entries(before).filter(([id]) => this.fields.registry().settable.some((field) => field.id === id)),
    ) as FieldChanges;
    this.edit(
      {
        set,
        addTags: tags(before).filter((tag) => !tags(after).includes(tag)),
        removeTags: tags(after).filter((tag) => !tags(before).includes(tag)),
      },
      'Put back as it was',
    );
  }

  protected what({ action, before, after }: Change): string {
    if (action === 'catalogue') return 'Catalogued';
    if (action === 'rendition') return 'Renditions made';
    if (action === 'relink') return `Relinked to ${show(after['path'])}`;
    if (action === 'scan') return `Found ${show(after['state'])} by a scan`;
    const fields = Object.keys(after).map(
      (field) => `${field === 'tags' ? 'Tags' : this.labelOf(field)}: ${show(before[field])} → ${show(after[field])}`,
    );
    return `${action === 'undo' ? 'Undone. ' : ''}${fields.join('; ')}`;
  }
}

const show = (value: unknown): string =>
  value === null || value === undefined || value === ''
    ? 'empty'
    : Array.isArray(value)
      ? value.length > 0
        ? value.join(', ')
        : 'none'
      : typeof value === 'string' || typeof value === 'number'
        ? String(value)
        : JSON.stringify(value);
