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
import { fieldChangesSchema, fieldNamed, VERDICTS, type Verdict } from '@larder/core/fields';
import type { Asset, Change } from '@larder/contract';
import { Api } from '../shared/api';
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
import { BinDialog } from '../bins/bin-dialog';
import { Places } from './places';
import { TagField } from './tag-field';

type TextField = 'title' | 'description' | 'notes';

/** What several assets say in a field: the same, or not. */
export type Shared<T> = { readonly same: true; readonly value: T } | { readonly same: false };

export function sharedValue<T>(assets: readonly Asset[], read: (asset: Asset) => T): Shared<T> {
  const first = assets[0];
  if (!first) return { same: false };
  const value = read(first);
  return assets.every((asset) => read(asset) === value) ? { same: true, value } : { same: false };
}

/** The details of what is selected: one asset to look at and log, or many to log at once. */
@Component({
  selector: 'nl-details',
  imports: [Icon, Player, StateBadge, TagField, Places],
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

  protected readonly textFields: readonly TextField[] = ['title', 'description', 'notes'];
  protected readonly labelOf = (field: string): string => fieldNamed(field)?.label ?? field;
  protected readonly shared = computed(
    () =>
      Object.fromEntries(
        [...this.textFields, 'verdict' as const].map((field) => [
          field,
          sharedValue(this.assets(), (asset) => asset[field] ?? ''),
        ]),
      ) as Record<TextField | 'verdict', Shared<string>>,
  );
  /** Tags that all have, and those that only some have. */
  protected readonly tags = computed(() => {
    const uses = new Map<string, number>();
    for (const asset of this.assets()) for (const tag of asset.tags) uses.set(tag, (uses.get(tag) ?? 0) + 1);
    return [...uses]
      .map(([name, number]) => ({ name, all: number === this.assets().length }))
      .sort((a, b) => (a.name < b.name ? -1 : 1));
  });
  protected readonly issues = signal<Partial<Record<TextField, string>>>({});
  protected readonly marks = signal<{ in: number | null; out: number | null }>({ in: null, out: null });
  protected readonly historyOpen = signal(false);
  /**
   * The field that has the focus, what it held when it got it, and the revision the person was looking at. What is under the
   * fingers is not changed by what others save; whoever saves last is asked.
   */
  private readonly typing = signal<{ field: TextField; held: string; seen: number } | null>(null);

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
      untracked(() => {
        this.marks.set({ in: null, out: null });
        this.issues.set({});
        this.typing.set(null);
      });
    });
    const keys = inject(Keys);
    const verdict = (value: Verdict) => () => this.ids().length > 0 && this.mayLog() && void this.setVerdict(value);
    keys.on('log.circled', verdict('circled'));
    keys.on('log.hold', verdict('hold'));
    keys.on('log.ng', verdict('ng'));
    keys.on('log.edit', () => this.ids().length > 0 && this.focusOn('field-title'));
    keys.on('log.tag', () => this.ids().length > 0 && this.focusOn('field-tag'));
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

  protected begin(field: TextField): void {
    this.typing.set({ field, held: this.text(field), seen: this.revision() });
  }

  protected text(field: TextField): string {
    const typing = this.typing();
    if (typing?.field === field) return typing.held;
    const value = this.shared()[field];
    return value.same ? value.value : '';
  }

  protected hint(field: TextField): string {
    return this.shared()[field].same ? '' : this.assets().length > 0 ? 'Different values' : '';
  }

  protected isVerdict(value: Verdict): boolean {
    const shared = this.shared().verdict;
    return shared.same && shared.value === value;
  }

  /** Saves a field when it is left, if it was changed and is allowed. */
  protected async save(field: TextField, element: HTMLInputElement | HTMLTextAreaElement): Promise<void> {
    const [value, typing] = [element.value.trim(), this.typing()];
    const held = this.text(field);
    this.typing.set(null);
    try {
      if (value !== held) {
        await fieldChangesSchema.validate({ [field]: value });
        this.edit({ set: { [field]: value } }, `${this.labelOf(field)} changed`, typing?.seen);
      }
      this.issues.update((issues) => ({ ...issues, [field]: undefined }));
    } catch (error) {
      // What was typed stays in the field, with what is wrong with it below.
      this.issues.update((issues) => ({ ...issues, [field]: (error as Error).message }));
    }
  }

  protected leave(event: Event, field: TextField): void {
    const element = event.target as HTMLInputElement;
    if (event instanceof KeyboardEvent && event.key === 'Escape') element.value = this.text(field);
    element.blur();
    event.preventDefault();
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
