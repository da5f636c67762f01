import { DOCUMENT } from '@angular/common';
import {
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  ElementRef,
  inject,
  input,
  linkedSignal,
  output,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import { FormsModule } from '@angular/forms';
import { NgbTooltip } from '@ng-bootstrap/ng-bootstrap';
import { MARKER_KIND_LABELS, type NewMarker } from '@larder/core/markers';
import { formatTimecode, typedPlace, wordTimecodeIssue, type Counting } from '@larder/core/timecode';
import { countingOf, FILE_PATHS, type Asset } from '@larder/contract';
import { Api } from './api';
import { ChannelMeters } from './channel-meters';
import { placeText } from './format';
import { Icon } from './icon';
import { KIND_LABELS, STATE_LABELS } from './icons';
import { Keys } from './keys';
import { Settings } from './settings';
import { Transport } from './transport';
import { Waveform } from './waveform';

/** Containers and codecs that the browser plays itself, for looking at an original before its proxy is made. */
const PLAYABLE = /\.(mp4|m4v|mov|webm|wav|mp3|m4a|flac|ogg|opus)$/i;
/** Frames in a filmstrip, side by side: as the server makes them. */
const STRIP_FRAMES = 20;
/** Pictures along the position: as many as keep their shape there. */
const PICTURES_ALONG = 10;
/** Channels whose levels are shown. */
const MOST_METERS = 8;
const SPEEDS = [0.25, 0.5, 1, 1.5, 2] as const;

export interface Marks {
  readonly in: number | null;
  readonly out: number | null;
}

/** Plays an asset frame by frame, counted at its own rate. */
@Component({
  selector: 'nl-player',
  imports: [ChannelMeters, FormsModule, Icon, NgbTooltip, Waveform],
  templateUrl: './player.html',
  styleUrl: './player.scss',
  host: { '[class.large]': 'large()' },
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Player {
  readonly asset = input.required<Asset>();
  /** Marks in frames from the first, or milliseconds of a sound; null for none. */
  readonly in = input<number | null>(null);
  readonly out = input<number | null>(null);
  readonly marks = output<Marks>();
  readonly withMarks = input(true);
  readonly markers = input<readonly (NewMarker & { readonly id: number | string })[]>([]);
  /** Those of the markers in which a search found something. */
  readonly hits = input<ReadonlySet<number | string>>(new Set());
  /** The marked stretch is to be a subclip. */
  readonly subclipped = output<{ readonly in: number; readonly out: number }>();
  /** Somebody sets a marker here, or over what is marked. `naming`: and will name it now. */
  readonly marked = output<Pick<NewMarker, 'start' | 'end'> & { readonly naming: boolean }>();
  /** Much room: with filmstrip and wave below the picture. */
  readonly large = input(false);

  private readonly media = viewChild<ElementRef<HTMLVideoElement>>('media');
  private readonly typed = viewChild<ElementRef<HTMLInputElement>>('typed');
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
  private readonly document = inject(DOCUMENT);
  /** By itself, so that what somebody logs of the asset does not send the player back to its start. */
  private readonly assetId = computed(() => this.asset().id);
  protected readonly broken = linkedSignal({ source: this.assetId, computation: () => false });
  protected readonly settings = inject(Settings);
  protected readonly element = computed(() => this.media()?.nativeElement ?? null);
  protected readonly metered = computed(() => Math.min(MOST_METERS, this.asset().sound?.channels ?? 0));
  private readonly online = computed(() => this.asset().state === 'online');
  protected readonly pieces = computed(() => {
    const id = this.assetId();
    // Offline there is only the proxy, which has two.
    return this.online() ? (fromMs: number) => FILE_PATHS.soundPiece(id, fromMs) : null;
  });
  protected readonly speeds = SPEEDS;
  protected readonly safeAreas = signal(false);
  /** What is wrong with the timecode that was typed; null while none is being typed. */
  protected readonly going = signal<{ readonly issue: string } | null>(null);

  protected readonly counting = computed<Counting | null>(() => countingOf(this.asset()));
  protected readonly total = computed(() => this.asset().durationFrames ?? 0);
  protected readonly isSound = computed(() => this.asset().kind === 'audio');
  protected readonly isStill = computed(() => this.asset().kind === 'still');
  /** In the unit of places: frames, or milliseconds. */
  private readonly length = computed(() => (this.counting() ? this.total() : (this.asset().durationMs ?? 0)));
  protected readonly transport = new Transport(
    () => ({
      counting: this.counting(),
      frames: this.total(),
      seconds: (this.asset().durationMs ?? 0) / 1000,
      sound: this.isSound(),
      offset: this.asset().inPlace,
      repeat: { start: this.in() ?? 0, end: this.out() ?? this.length() },
    }),
    () => this.media()?.nativeElement,
  );
  private readonly lacksProxy = computed(
    () => !this.asset().renditions.includes('proxy') && !['unreadable', 'document'].includes(this.asset().kind),
  );
  protected readonly hasPeaks = computed(() => this.asset().renditions.includes('peaks'));
  protected readonly url = FILE_PATHS.rendition;

  /** The proxy if it is made, else the original if it is there and the browser plays its kind. */
  protected readonly source = computed(() => {
    const { id, renditions, state, path, kind } = this.asset();
    if (renditions.includes('proxy')) return FILE_PATHS.rendition(id, 'proxy');
    if ((state === 'online' || state === 'changed') && kind !== 'sequence' && PLAYABLE.test(path))
      return FILE_PATHS.original(id);
    return null;
  });
  protected readonly poster = computed(() =>
    this.asset().renditions.includes('poster') ? FILE_PATHS.poster(this.asset()) : null,
  );
  protected readonly strip = computed(() =>
    this.asset().renditions.includes('filmstrip') ? FILE_PATHS.rendition(this.asset().id, 'filmstrip') : null,
  );
  /** Where in the filmstrip the pictures along the position lie, in parts of its width; a short clip fills only a part of it. */
  protected readonly stripAt = computed(() => {
    const frames = Math.max(1, this.total());
    const filled = Math.ceil(frames / Math.max(1, Math.ceil(frames / STRIP_FRAMES)));
    return Array.from({ length: PICTURES_ALONG }, (_unused, index) => {
      const picture = Math.floor(((index + 0.5) / PICTURES_ALONG) * filled);
      return (picture / (STRIP_FRAMES - 1)) * 100;
    });
  });
  protected readonly why = computed(() => {
    const { kind, reason, state } = this.asset();
    if (kind === 'document') return 'A document. Its file is under “From the file”.';
    if (kind === 'unreadable') return `This file cannot be read. ${reason ?? ''}`;
    if (this.broken()) return 'The browser cannot play this.';
    return state === 'online'
      ? 'Its proxy is being made. It plays here once it is ready.'
      : `${STATE_LABELS[state].word}, and no proxy was made before. ${STATE_LABELS[state].help}`;
  });
  protected readonly kindLabel = computed(() => KIND_LABELS[this.asset().kind]);

  protected readonly timecode = computed(() => {
    const counting = this.counting();
    return counting
      ? formatTimecode((this.asset().startFrame ?? 0) + this.transport.frame(), counting)
      : placeText(this.asset(), this.transport.seconds() * 1000);
  });
  protected readonly played = computed(() =>
    this.counting()
      ? this.transport.frame() / Math.max(1, this.total() - 1)
      : this.transport.seconds() / Math.max(0.001, (this.asset().durationMs ?? 0) / 1000),
  );
  protected readonly range = computed(() => {
    const last = Math.max(1, this.length());
    const [start, end] = [this.in() ?? 0, this.out() ?? last];
    return this.in() === null && this.out() === null
      ? null
      : { left: (start / last) * 100, width: ((end - start) / last) * 100 };
  });
  protected readonly ticks = computed(() => {
    const last = Math.max(1, this.length());
    return this.markers().map(({ id, start, end, name, note, kind, colour }) => ({
      ...{ id, start, colour, hit: this.hits().has(id) },
      left: (start / last) * 100,
      width: end === null ? null : ((end - start) / last) * 100,
      title: [
        placeText(this.asset(), start),
        name || MARKER_KIND_LABELS[kind],
        note,
        this.hits().has(id) ? 'found by the search' : '',
      ]
        .filter(Boolean)
        .join(' · '),
    }));
  });

  constructor() {
    this.keys();
    effect((onCleanup) => {
      const element = this.media()?.nativeElement;
      this.assetId();
      untracked(() => {
        this.transport.reset();
        this.going.set(null);
        if (element) onCleanup(this.transport.watch(element));
      });
    });
    inject(DestroyRef).onDestroy(() => this.transport.reset());
    const api = inject(Api);
    effect(() => {
      const id = this.assetId();
      // What somebody looks at is made before everything else. Nothing depends on the answer.
      if (this.lacksProxy()) untracked(() => api.call('first', { assetId: id }).subscribe({ error: () => undefined }));
    });
    effect(() => {
      if (this.going()) this.typed()?.nativeElement.focus();
    });
  }

  private keys(): void {
    const keys = inject(Keys);
    const { transport } = this;
    const when = (use: () => boolean | void) => () => (this.media() || this.isSound() ? use() : false);
    keys.on(
      'play.toggle',
      when(() => transport.toggle()),
    );
    keys.on(
      'play.stop',
      when(() => transport.stop()),
    );
    keys.on(
      'play.forward',
      when(() => transport.faster(1)),
    );
    keys.on(
      'play.back',
      when(() => transport.faster(-1)),
    );
    keys.on(
      'play.frame-back',
      when(() => transport.step(-1)),
    );
    keys.on(
      'play.frame-on',
      when(() => transport.step(1)),
    );
    keys.on(
      'play.in',
      when(() => this.mark('in')),
    );
    keys.on(
      'play.out',
      when(() => this.mark('out')),
    );
    keys.on(
      'play.clear',
      when(() => this.withMarks() && this.marks.emit({ in: null, out: null })),
    );
    keys.on(
      'play.loop',
      when(() => transport.loop.update((on) => !on)),
    );
    keys.on(
      'play.go',
      when(() => this.counting() !== null && this.go()),
    );
    keys.on(
      'play.full',
      when(() => this.full()),
    );
    keys.on(
      'play.safe',
      when(() => this.safeAreas.update((on) => !on)),
    );
    keys.on(
      'mark.subclip',
      when(() => this.makeSubclip()),
    );
    keys.on(
      'mark.add',
      when(() => this.setMarker(false)),
    );
    keys.on(
      'mark.name',
      when(() => this.setMarker(true)),
    );
  }

  /** Where it stands. */
  frame(): number {
    return this.transport.frame();
  }

  /** Shows exactly this frame, or this millisecond of a sound. */
  seek(place: number): void {
    this.transport.seekPlace(place);
  }

  /** Plays from this frame on, or from this millisecond of a sound. */
  playFrom(place: number): void {
    this.transport.seekPlace(place);
    this.transport.run(1);
  }

  step(frames: number): void {
    this.transport.step(frames);
  }

  stop(): void {
    this.transport.stop();
  }

  /** The frame that is shown, or the millisecond that is heard. */
  place(): number {
    return this.transport.place();
  }

  protected mark(which: 'in' | 'out'): void {
    if (!this.withMarks() || this.length() === 0) return;
    const place = this.place();
    const [start, end] = [this.in(), this.out()];
    // A mark that would turn the range around drops the other one.
    if (which === 'in') this.marks.emit({ in: place, out: end !== null && end > place ? end : null });
    else this.marks.emit({ in: start !== null && start <= place ? start : null, out: place + 1 });
  }

  /** At the playhead, or over what is marked if both its ends are. */
  protected setMarker(naming: boolean): void {
    const [start, end] = [this.in(), this.out()];
    this.marked.emit(
      start !== null && end !== null ? { start, end, naming } : { start: this.place(), end: null, naming },
    );
  }

  protected makeSubclip(): boolean {
    const [start, end] = [this.in(), this.out()];
    if (start === null || end === null) return false;
    this.subclipped.emit({ in: start, out: end });
    return true;
  }

  /** Lets a timecode be typed. */
  protected go(): void {
    this.going.set({ issue: '' });
  }

  protected goTo(text: string): void {
    const counting = this.counting();
    if (!counting || text.trim() === '') return this.going.set(null);
    const place = typedPlace(text, counting, {
      ...{ start: this.asset().startFrame ?? 0, length: this.total(), now: this.transport.frame() },
    });
    if ('issue' in place) return this.going.set({ issue: wordTimecodeIssue(place.issue) });
    this.going.set(null);
    this.transport.stop();
    this.seek(place.frame);
  }

  protected full(): void {
    // Browsers refuse it outside of an act of the person, which is no trouble of theirs.
    if (this.document.fullscreenElement) void this.document.exitFullscreen();
    else void this.host.requestFullscreen?.().catch(() => undefined);
  }
}
