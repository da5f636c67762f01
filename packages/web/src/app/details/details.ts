import {
  ApplicationRef,
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  inject,
  input,
  resource,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import { NgTemplateOutlet } from '@angular/common';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { firstValueFrom } from 'rxjs';
import { VERDICTS, type FieldChanges } from '@larder/core/fields';
import type { Asset, Change, PosterWay } from '@larder/contract';
import { BinDialog } from '../bins/bin-dialog';
import { libraryActions } from '../library/state/library.actions';
import { Recognition } from '../dialogue/recognition';
import { TranscriptView } from '../dialogue/transcript-view';
import { AssetMarkers } from '../markers/asset-markers';
import { Api } from '../shared/api';
import { Fields } from '../shared/fields';
import { callOf, counted, formatMoment } from '../shared/format';
import { Icon } from '../shared/icon';
import { LastSeen } from './last-seen';
import { VERDICT_LABELS } from '../shared/icons';
import { Keys } from '../shared/keys';
import { MarkedAs } from '../shared/marked-as';
import { Player } from '../shared/player';
import { Settings } from '../shared/settings';
import { StateBadge } from '../shared/state-badge';
import { SubclipList } from '../subclips/subclip-list';
import { Toasts } from '../shared/toasts';
import { CopiedStore } from './copied-fields';
import { factsOf } from './facts';
import { FieldList } from './field-list';
import { OperateDialog } from './operate-dialog';
import { PasteDialog } from './paste-dialog';
import { PosterMenu } from './poster-menu';
import { Places } from './places';
import { SelectionLog } from './selection-log';
import { Sidecar } from './sidecar';
import { TagField } from './tag-field';

/** More make an address longer than servers take. */
const MOST_IN_ADDRESS = 500;
/** Assets that a search can name one by one. */
const MOST_IN_SEARCH = 200;

/** The details of what is selected: one asset to look at and log, or many to log at once. */
@Component({
  selector: 'nl-details',
  imports: [
    FieldList,
    NgTemplateOutlet,
    Icon,
    LastSeen,
    MarkedAs,
    AssetMarkers,
    Places,
    Player,
    PosterMenu,
    RouterLink,
    Sidecar,
    StateBadge,
    SubclipList,
    TagField,
    TranscriptView,
  ],
  templateUrl: './details.html',
  styleUrl: './details.scss',
  providers: [SelectionLog],
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Details {
  /** What is said stands right beneath the picture, where one looks for what was said. */
  readonly saidFirst = input(false);

  private readonly api = inject(Api);
  private readonly app = inject(ApplicationRef);
  private readonly toasts = inject(Toasts);
  private readonly fields = inject(Fields);
  private readonly binDialog = inject(BinDialog);
  private readonly recognition = inject(Recognition);
  private readonly store = inject(Store);
  private readonly operateDialog = inject(OperateDialog);
  private readonly pasteDialog = inject(PasteDialog);
  protected readonly copiedStore = inject(CopiedStore);
  private readonly player = viewChild(Player);
  protected readonly log = inject(SelectionLog);
  protected readonly settings = inject(Settings);
  protected readonly verdicts = VERDICTS;
  protected readonly verdictLabels = VERDICT_LABELS;
  protected readonly counted = counted;
  protected readonly historyOpen = signal(false);
  protected readonly history = resource({
    params: () => {
      const asset = this.log.single();
      return this.historyOpen() && asset ? { id: asset.id, revision: this.log.revision() } : undefined;
    },
    loader: ({ params }) => firstValueFrom(this.api.call('history', null, params.id)),
  });

  protected readonly hasPicture = computed(() =>
    this.log.assets().some(({ kind }) => kind === 'video' || kind === 'sequence'),
  );

  protected readonly facts = computed(() => {
    const asset = this.log.single();
    return asset ? factsOf(asset) : [];
  });

  constructor() {
    const keys = inject(Keys);
    const { log } = this;
    keys.on('log.edit', () => log.ids().length > 0 && this.focusOn('field-title'));
    keys.on('log.poster', () => (log.single() && this.hasPicture() ? this.setPosters('frame') : false));
    keys.on('log.copy', () => (log.single() ? this.copyFields() : false));
    keys.on('log.paste', () => (log.ids().length > 0 && log.mayLog() ? void this.pasteFields() : false));
    keys.on('list.bin', () => (log.ids().length > 0 && log.mayLog() ? void this.toBin() : false));
    effect(() => {
      const hit = log.hit();
      const player = this.player();
      if (hit !== null && player) untracked(() => (hit.plays ? player.playFrom(hit.place) : this.goTo(hit.place)));
    });
  }

  protected readonly place = computed(() => this.player()?.place() ?? 0);

  protected name(asset: Asset): string {
    return callOf(asset);
  }

  /** Goes to a field at once, before the next key: it may be hidden, or belong to a clip that was clicked a moment ago. */
  private focusOn(id: string): void {
    this.settings.details.set(true);
    this.app.tick();
    document.getElementById(id)?.focus();
  }

  protected goTo(place: number): void {
    this.player()?.stop();
    this.player()?.seek(place);
  }

  protected setPosters(way: PosterWay, percent = 0): void {
    this.log.setPosters(way, this.player()?.frame() ?? 0, percent);
  }

  protected copyFields(): void {
    const asset = this.log.single();
    if (!asset) return;
    this.copiedStore.copy(asset);
    this.toasts.done(`Fields of “${callOf(asset)}” copied.`);
  }

  protected async pasteFields(): Promise<void> {
    const copied = this.copiedStore.copied();
    if (!copied) return this.toasts.done('No fields were copied yet.');
    const change = await this.pasteDialog.ask(copied, this.log.ids().length);
    if (change) this.log.edit(change, `Fields of “${copied.from}” pasted`);
  }

  protected async operate(): Promise<void> {
    const chosen = await this.operateDialog.ask(this.log.ids(), this.log.revision());
    if (chosen) this.store.dispatch(libraryActions.operate(chosen));
  }

  protected recognise(): void {
    this.recognition.of(this.log.ids());
  }

  /** The themes of what is chosen, in the address of the dialogue section; null where a search has no room to name all of it. */
  protected readonly themes = computed(() => {
    const ids = this.log.ids();
    return ids.length > MOST_IN_SEARCH ? null : { view: 'themes', q: ids.map((id) => `number:${id}`).join(' or ') };
  });

  /** Of what is selected, the originals that are lost, as far as an address holds them. */
  protected readonly lost = computed(() => {
    const lost = this.log.assets().filter(({ state }) => state === 'missing' || state === 'changed');
    return [...new Set(lost.map(({ id, parentId }) => parentId ?? id))].slice(0, MOST_IN_ADDRESS);
  });

  protected async toBin(): Promise<void> {
    const ids = this.log.ids();
    const path = await this.binDialog.ask(ids);
    if (path !== null) this.toasts.done(`${counted(ids.length, 'asset')} put into “${path}”.`);
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
    const { settable } = this.fields.registry();
    const set = Object.fromEntries(
      Object.entries(before).filter(([id]) => settable.some((field) => field.id === id)),
    ) as FieldChanges;
    this.log.edit(
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
    if (action === 'unfold') return 'Made again, after it was folded into another';
    if (action === 'merge' && 'of' in after)
      return `It is of asset #${show(after['of'])} now, which another was merged into`;
    if (action === 'relink') return `Relinked to ${show(after['path'])}`;
    if (action === 'scan') return `Found ${show(after['state'])} by a scan`;
    if (action === 'subclip') return Object.keys(before).length > 0 ? 'Its ends moved' : 'Made as a subclip';
    if (action === 'restore-subclip') return 'Put back after it was removed';
    if (action === 'poster') return 'Another poster frame';
    if (action === 'transcript')
      return after['madeMs'] === 0
        ? 'Transcript taken away'
        : `${counted(Number(after['words']), 'word')} of what is said, by ${show(after['madeBy'])}`;
    if (action === 'correct') return 'Transcript corrected';
    if (action === 'marker') return markersSaid(before['markers'], after['markers']);
    const fields = Object.keys(after).map(
      (field) =>
        `${field === 'tags' ? 'Tags' : this.log.labelOf(field)}: ${show(before[field])} → ${show(after[field])}`,
    );
    if (action === 'merge') return ['Another was merged into it, or came apart from it', ...fields].join('; ');
    return `${action === 'undo' ? 'Undone. ' : ''}${fields.join('; ')}`;
  }
}

function markersSaid(before: unknown, after: unknown): string {
  const count = (side: unknown): number => (Array.isArray(side) ? side.length : 0);
  if (count(before) === 0) return `${counted(count(after), 'marker')} set`;
  return `${counted(count(before), 'marker')} ${count(after) === 0 ? 'removed' : 'changed'}`;
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
