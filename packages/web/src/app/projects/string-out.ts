import { CdkDrag, CdkDragHandle, CdkDropList, type CdkDragDrop } from '@angular/cdk/drag-drop';
import {
  afterNextRender,
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  inject,
  Injector,
  input,
  signal,
  viewChild,
} from '@angular/core';
import { Router, RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { firstValueFrom } from 'rxjs';
import { moveItem, removeItems, trimItem, type LaidOutItem, type RunMarker } from '@larder/core/sequence';
import { formatDuration, formatTimecode, parseTimecode } from '@larder/core/timecode';
import { FILE_PATHS, type ConformAnswer, type HandedMedia } from '@larder/contract';
import { NgbDropdownModule } from '@ng-bootstrap/ng-bootstrap';
import { Api, type Failure } from '../shared/api';
import { counted } from '../shared/format';
import { Broken } from '../shared/broken';
import { Icon } from '../shared/icon';
import { MarkedAs } from '../shared/marked-as';
import { Keys } from '../shared/keys';
import { NameDialog } from '../shared/name-dialog';
import { Player } from '../shared/player';
import { mayOffer, sessionFeature } from '../shared/session';
import { StateBadge } from '../shared/state-badge';
import { Thumb } from '../shared/thumb';
import { Toasts } from '../shared/toasts';
import { ConformReportView } from './conform-report';
import { RunMarkers } from './run-markers';
import { RunPlayer } from './run-player';
import { stringOutActions, stringOutFeature } from './string-out.state';

const FORMS: readonly { readonly media: HandedMedia; readonly word: string }[] = [
  { media: 'original', word: 'Worked with in the originals' },
  { media: 'mezzanine', word: 'In mezzanines, where there are any' },
  { media: 'proxy', word: 'In proxies' },
];

/** A string-out: its clips in order, each with its in and out; playing it through, and handing it over. */
@Component({
  selector: 'nl-string-out',
  imports: [
    Broken,
    CdkDrag,
    CdkDragHandle,
    CdkDropList,
    ConformReportView,
    Icon,
    MarkedAs,
    NgbDropdownModule,
    Player,
    RouterLink,
    RunMarkers,
    RunPlayer,
    StateBadge,
    Thumb,
  ],
  templateUrl: './string-out.html',
  styleUrl: './string-out.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class StringOutPage {
  readonly id = input.required<string>();
  private readonly store = inject(Store);
  private readonly api = inject(Api);
  private readonly router = inject(Router);
  private readonly names = inject(NameDialog);
  private readonly toasts = inject(Toasts);
  private readonly player = viewChild(Player);
  private readonly run = viewChild(RunPlayer);
  private readonly injector = inject(Injector);
  protected readonly state = this.store.selectSignal(stringOutFeature.selectStringOutState);
  protected readonly stringOut = this.store.selectSignal(stringOutFeature.selectStringOut);
  protected readonly laidOut = this.store.selectSignal(stringOutFeature.selectLaidOut);
  /** How many of its originals are missing or changed. */
  protected readonly broken = computed(
    () =>
      new Set(
        Object.values(this.state().assets)
          .filter(({ id, state }) => ['missing', 'changed'].includes(state) && this.isIn(id))
          .map(({ id, parentId }) => parentId ?? id),
      ).size,
  );
  private readonly person = this.store.selectSignal(sessionFeature.selectPerson);
  protected readonly mayCut = computed(() => mayOffer(this.person(), 'cut'));
  protected readonly chosen = computed(
    () => this.laidOut().find(({ item }) => item.id === this.state().chosen) ?? null,
  );
  protected readonly chosenAsset = computed(() =>
    this.chosen() ? (this.state().assets[this.chosen()?.item.assetId ?? 0] ?? null) : null,
  );
  protected readonly side = signal<'clip' | 'run' | 'conform'>('clip');
  /** The marker that was set last, if it is to be named. */
  protected readonly naming = signal<string | null>(null);
  protected readonly markersHere = computed(() =>
    this.state().markers.filter(({ itemId }) => itemId === this.state().chosen),
  );
  protected readonly report = signal<ConformAnswer | null>(null);
  protected readonly cutList = FILE_PATHS.cutList;
  protected readonly forms = FORMS;
  protected readonly total = computed(() => {
    const [out, last] = [this.stringOut(), this.laidOut().at(-1)];
    if (!out || !last) return '';
    const frames = last.record.end - out.startFrame;
    return `${formatDuration(frames, out.counting.rate)} (${counted(frames, 'frame')})`;
  });
  protected readonly mixed = computed(() => {
    const out = this.stringOut();
    return out
      ? this.laidOut().filter(
          ({ media }) =>
            media &&
            media.counting.rate.num * out.counting.rate.den !== out.counting.rate.num * media.counting.rate.den,
        ).length
      : 0;
  });
  protected readonly counted = counted;

  private isIn(assetId: number): boolean {
    return this.laidOut().some(({ item }) => item.assetId === assetId);
  }

  constructor() {
    effect(() => this.store.dispatch(stringOutActions.opened({ id: Number(this.id()) })));
    const keys = inject(Keys);
    keys.on('undo', () => this.state().past.length > 0 && void this.store.dispatch(stringOutActions.takeBack()));
    // A clip's own player takes these itself.
    keys.on('mark.add', () => this.setMarkerInRun(false));
    keys.on('mark.name', () => this.setMarkerInRun(true));
    keys.on('cut.earlier', () => this.shift(-1));
    keys.on('cut.later', () => this.shift(1));
    keys.on('cut.remove', () => this.chosen() !== null && this.remove(this.chosen()?.item.id ?? ''));
    // Clips stand below one another here, so that left and right are free to step through the one that is chosen.
    keys.on('list.left', () => this.stepBy(-1));
    keys.on('list.right', () => this.stepBy(1));
    keys.on('list.down', () => this.walk(1));
    keys.on('list.up', () => this.walk(-1));
  }

  protected asset(laid: LaidOutItem) {
    return this.state().assets[laid.item.assetId];
  }

  protected choose(itemId: string): void {
    this.store.dispatch(stringOutActions.choose({ itemId }));
    if (this.side() === 'run') return;
    this.side.set('clip');
  }

  /** On the clip that is chosen, at the frame shown, whatever its in and out are. */
  protected setMarker(naming: boolean): void {
    const [chosen, player] = [this.chosen(), this.player()];
    if (chosen && player) this.addMarker(chosen.item.id, player.place(), naming);
  }

  private setMarkerInRun(naming: boolean): boolean {
    const place = this.run()?.place();
    if (place) this.addMarker(place.itemId, place.frame, naming);
    return place !== null && place !== undefined;
  }

  private addMarker(itemId: string, start: number, naming: boolean): void {
    const item = this.state().items.find(({ id }) => id === itemId);
    if (!item || !this.mayCut()) return;
    if (start < item.in || start >= item.out)
      return this.toasts.failed('This frame is trimmed away: a marker stands on a frame that is in the string-out.');
    const id = crypto.randomUUID();
    const marker: RunMarker = {
      ...{ id, itemId, start, end: null, kind: 'note', name: '', note: '', colour: 'none' },
      by: this.person()?.name ?? null,
    };
    this.store.dispatch(stringOutActions.mark({ markers: [...this.state().markers, marker] }));
    this.naming.set(naming ? id : null);
  }

  protected goTo({ itemId, start }: RunMarker): void {
    this.run()?.pause();
    this.choose(itemId);
    this.side.set('clip');
    // The player of that clip may have to be drawn first.
    afterNextRender(() => this.player()?.seek(start), { injector: this.injector });
  }

  protected follow(itemId: string): void {
    this.store.dispatch(stringOutActions.choose({ itemId }));
  }

  private walk(by: number): boolean {
    const index = this.laidOut().findIndex(({ item }) => item.id === this.state().chosen);
    const next = this.laidOut()[Math.min(this.laidOut().length - 1, Math.max(0, index + by))];
    if (next) this.choose(next.item.id);
    return next !== undefined;
  }

  private stepBy(frames: number): boolean {
    this.player()?.step(frames);
    return this.player() !== undefined;
  }

  private shift(by: number): boolean {
    const index = this.laidOut().findIndex(({ item }) => item.id === this.state().chosen);
    if (index < 0) return false;
    this.move(index, index + by);
    return true;
  }

  protected drop({ previousIndex, currentIndex }: CdkDragDrop<unknown>): void {
    this.move(previousIndex, currentIndex);
  }

  private move(from: number, to: number): void {
    const out = this.stringOut();
    if (out && this.mayCut()) this.store.dispatch(stringOutActions.cut({ items: moveItem(out, from, to).items }));
  }

  protected remove(id: string): void {
    const out = this.stringOut();
    if (!out || !this.mayCut()) return;
    this.walk(1);
    this.store.dispatch(stringOutActions.cut({ items: removeItems(out, new Set([id])).items }));
  }

  /** In and out from the player; a mark that was dropped goes to that end of the media. */
  protected mark({ in: start, out: end }: { in: number | null; out: number | null }): void {
    const chosen = this.chosen();
    if (chosen?.media) this.trim(chosen, { in: start ?? 0, out: end ?? chosen.media.durationFrames });
  }

  private trim({ item, media }: LaidOutItem, marks: { in?: number; out?: number }): void {
    const out = this.stringOut();
    if (out && media && this.mayCut())
      this.store.dispatch(stringOutActions.cut({ items: trimItem(out, item.id, marks, media).items }));
  }

  /** A source timecode typed into a row; what is none, or lies outside, is put back as it was. */
  protected type(laid: LaidOutItem, which: 'in' | 'out', field: HTMLInputElement): void {
    const { media, item } = laid;
    if (!media) return;
    const read = parseTimecode(field.value, media.counting);
    const frame = 'frames' in read ? read.frames - media.startFrame : -1;
    const fits = which === 'in' ? frame >= 0 && frame < item.out : frame > item.in && frame <= media.durationFrames;
    if (fits) this.trim(laid, { [which]: frame });
    else if ('issue' in read || frame !== item[which])
      this.toasts.failed(
        'issue' in read
          ? `“${field.value}” is no timecode at ${media.counting.id}.`
          : `${field.value} lies outside ${media.name}, or ${which === 'in' ? 'after its out' : 'before its in'}.`,
      );
    field.value = this.source(laid, which);
  }

  protected source({ item, media }: LaidOutItem, which: 'in' | 'out'): string {
    return media ? formatTimecode(media.startFrame + item[which], media.counting) : '';
  }

  protected record({ record }: LaidOutItem): string {
    const out = this.stringOut();
    return out ? formatTimecode(record.start, out.counting) : '';
  }

  protected length({ record }: LaidOutItem): string {
    const out = this.stringOut();
    return out ? formatDuration(record.end - record.start, out.counting.rate) : '';
  }

  /** Writes the list, reads it back and checks it: what would be handed over, not what is on the screen. */
  protected async conform(): Promise<void> {
    const out = this.stringOut();
    const saved = this.state().saved;
    if (!out || !saved) return;
    try {
      const text = await (await fetch(FILE_PATHS.cutList(saved.id, 'edl'))).text();
      const answer = await firstValueFrom(
        this.api.call('conform', {
          fileName: `${saved.name}.edl`,
          text,
          counting: out.counting.id.replace('df', '') as '25',
        }),
      );
      this.report.set(answer);
      this.side.set('conform');
    } catch (failure) {
      this.toasts.failed((failure as Failure).message);
    }
  }

  protected async rename(): Promise<void> {
    const name = await this.names.ask({
      title: 'Rename the string-out',
      label: 'Name',
      suggestion: this.state().saved?.name ?? '',
      action: 'Rename',
    });
    if (name) this.store.dispatch(stringOutActions.renamed({ name }));
  }

  protected reload(): void {
    this.store.dispatch(stringOutActions.opened({ id: Number(this.id()) }));
  }

  protected removeWhole(): void {
    this.api.call('removeStringOut', null, Number(this.id())).subscribe({
      next: () => {
        this.toasts.done('The string-out is gone; its clips are where they were.');
        void this.router.navigate(['/projects']);
      },
      error: (failure: Failure) => this.toasts.failed(failure.message),
    });
  }
}
