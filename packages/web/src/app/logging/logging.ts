import {
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  inject,
  input,
  untracked,
  viewChild,
} from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { Router, RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { VERDICTS } from '@larder/core/fields';
import { FILE_PATHS } from '@larder/contract';
import { FieldList } from '../details/field-list';
import { SelectionLog } from '../details/selection-log';
import { TagField } from '../details/tag-field';
import { libraryFeature } from '../library/state/library.reducer';
import { AssetMarkers } from '../markers/asset-markers';
import { callOf, counted, formatCount } from '../shared/format';
import { Icon } from '../shared/icon';
import { VERDICT_LABELS } from '../shared/icons';
import { Keys } from '../shared/keys';
import { Player } from '../shared/player';
import { Settings } from '../shared/settings';
import { StateBadge } from '../shared/state-badge';
import { SubclipList } from '../subclips/subclip-list';
import { Tags } from '../shared/tags';
import { walkActions, walkFeature } from './state';

/** Filled in beside the player; the other fields are in the details of the library. */
const BESIDE = ['title', 'description', 'notes', 'scene', 'take', 'people', 'place'] as const;

/** Logging clip after clip: one large player, and everything that is said of a clip within reach of the keyboard. */
@Component({
  selector: 'nl-logging',
  imports: [AssetMarkers, FieldList, Icon, Player, RouterLink, StateBadge, SubclipList, TagField],
  templateUrl: './logging.html',
  styleUrl: './logging.scss',
  providers: [SelectionLog],
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class LoggingPage {
  /** From the address: what is walked through. */
  readonly q = input<string | undefined>('');
  private readonly store = inject(Store);
  private readonly router = inject(Router);
  private readonly player = viewChild(Player);
  protected readonly log = inject(SelectionLog);
  protected readonly settings = inject(Settings);
  protected readonly tags = inject(Tags);
  protected readonly walk = this.store.selectSignal(walkFeature.selectWalkState);
  protected readonly done = this.store.selectSignal(walkFeature.selectDone);
  private readonly ahead = this.store.selectSignal(walkFeature.selectAhead);
  private readonly entities = this.store.selectSignal(libraryFeature.selectEntities);
  protected readonly verdicts = VERDICTS;
  protected readonly verdictLabels = VERDICT_LABELS;
  protected readonly call = callOf;
  protected readonly count = formatCount;
  protected readonly counted = counted;
  protected readonly query = computed(() => this.q() ?? '');
  protected readonly asset = computed(() => {
    const asset = this.log.single();
    return asset && asset.id === this.walk().ids[this.walk().index] ? asset : null;
  });
  protected readonly beside = computed(() => BESIDE.flatMap((id) => this.log.fieldOf(id) ?? []));
  protected readonly isLast = computed(() => this.walk().index >= this.walk().ids.length - 1);
  /** What will be played next, loaded while this one is looked at. */
  protected readonly next = computed(() => {
    const asset = this.entities()[this.ahead()[0] ?? 0];
    return asset?.renditions.includes('proxy') && asset.kind !== 'still'
      ? FILE_PATHS.rendition(asset.id, 'proxy')
      : null;
  });

  constructor() {
    const sort = this.store.selectSignal(libraryFeature.selectSort);
    const selected = this.store.selectSignal(libraryFeature.selectSelected);
    effect(() => {
      const query = this.query();
      untracked(() => {
        // One selected clip is where the person wants to begin.
        const [at = null, ...others] = selected();
        this.store.dispatch(walkActions.begin({ query, sort: sort(), at: others.length === 0 ? at : null }));
      });
    });
    effect(() => {
      const hit = this.log.hit();
      const player = this.player();
      if (hit !== null && player) untracked(() => player.seek(hit.place));
    });
    this.log.verdictGiven.pipe(takeUntilDestroyed(inject(DestroyRef))).subscribe(() => {
      if (this.settings.autoAdvance()) this.go(1);
    });
    const keys = inject(Keys);
    keys.on('list.down', () => this.go(1));
    keys.on('list.up', () => this.go(-1));
    keys.on('list.right', () => this.player()?.step(1));
    keys.on('list.left', () => this.player()?.step(-1));
    keys.on('log.poster', () => this.log.setPosters('frame', this.player()?.frame() ?? 0));
    keys.on('log.next-open', () => this.nextOpen());
    keys.on('log.edit', () => void document.getElementById('field-title')?.focus());
    keys.on('escape', () => this.leave());
  }

  protected go(by: number): void {
    this.store.dispatch(walkActions.go({ by }));
  }

  /** On to the next clip that nobody has logged. */
  protected nextOpen(): void {
    this.store.dispatch(walkActions.goToNextNotLogged({ from: this.walk().index }));
  }

  protected goTo(place: number): void {
    this.player()?.stop();
    this.player()?.seek(place);
  }

  protected leave(): void {
    void this.router.navigate(['/library'], { queryParams: this.query() ? { q: this.query() } : {} });
  }

  protected again(): void {
    this.store.dispatch(
      walkActions.begin({ query: this.query(), sort: { field: 'name', descending: false }, at: null }),
    );
  }
}
