import {
  ChangeDetectionStrategy,
  Component,
  computed,
  inject,
  input,
  linkedSignal,
  output,
  signal,
} from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { Actions, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import { filter, map, type Observable } from 'rxjs';
import {
  msOfPlace,
  passagesOf,
  placeOfMs,
  saidText,
  spokenHits,
  TRANSCRIPT_SOURCE_LABELS,
  type Passage,
  type SpokenWord,
  type TranscriptSource,
} from '@larder/core/dialogue';
import { parseQuery } from '@larder/core/query';
import { FILE_PATHS, TRANSCRIPT_FORMATS, type Asset, type TranscriptFormat, type Written } from '@larder/contract';
import { libraryActions } from '../library/state/library.actions';
import { Api, type Failure } from '../shared/api';
import { askedAnew } from '../shared/asked-anew';
import { Fields } from '../shared/fields';
import { FileChoice, type ChosenText } from '../shared/file-choice';
import { counted, placeText } from '../shared/format';
import { Icon } from '../shared/icon';
import { liveActions } from '../shared/live.actions';
import { leftOut, ReadIn } from '../shared/read-in';
import { NothingFits, quick, QuickBox } from '../shared/quick-box';
import { Toasts } from '../shared/toasts';
import { Writes } from '../shared/writes';
import { Recognition } from './recognition';
import { PassageEdit, type PassageChange } from './passage-edit';

/** Passages drawn at once: some minutes of speech. */
const SHOWN = 40;
/** Words that a recogniser is less sure of are told as such; by judgement, no source. */
const UNSURE = 0.5;
const FEW = 8;

const FORMAT_LABELS: Readonly<Record<TranscriptFormat, string>> = {
  vtt: 'WebVTT',
  srt: 'SRT',
  ttml: 'TTML',
  txt: 'Text',
  csv: 'Table',
};

interface ShownWord {
  /** Its place among all words. */
  readonly at: number;
  readonly text: string;
  readonly hit: boolean;
  readonly unsure: boolean;
  readonly title: string;
}

interface ShownPassage {
  readonly from: number;
  readonly to: number;
  readonly speaker: string;
  readonly place: string;
  readonly words: readonly ShownWord[];
}

/** What is said in an asset: read along while it plays, gone to by a word, searched, corrected, brought in and taken along. */
@Component({
  selector: 'nl-transcript',
  imports: [FileChoice, Icon, NothingFits, PassageEdit, QuickBox],
  templateUrl: './transcript-view.html',
  styleUrl: './transcript-view.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class TranscriptView {
  readonly asset = input.required<Asset>();
  readonly mayLog = input.required<boolean>();
  /** Where the player stands: a frame, or a millisecond of a sound. */
  readonly place = input.required<number>();
  /** What the list is searched for. */
  readonly query = input('');
  readonly gone = output<number>();
  /** Words were marked with the mouse: from where to where they are said. */
  readonly marked = output<{ readonly in: number; readonly out: number }>();
  private readonly api = inject(Api);
  private readonly fields = inject(Fields);
  private readonly readIn = inject(ReadIn);
  private readonly recognition = inject(Recognition);
  private readonly store = inject(Store);
  private readonly toasts = inject(Toasts);
  private readonly writes = inject(Writes);

  /** Transcripts are those of files: a subclip shows its part. */
  private readonly wholeId = computed(() => this.asset().parentId ?? this.asset().id);
  protected readonly source = linkedSignal({
    source: () => this.wholeId(),
    computation: (): TranscriptSource | null => null,
  });
  /** How often it has changed: a long one is not asked for anew whenever anything in the library changes. */
  private readonly changes = signal(0);
  private readonly asked = askedAnew(
    computed(() => ({ id: this.wholeId(), source: this.source(), times: this.changes() })),
    ({ id, source }) => this.api.call('transcript', { source }, id).pipe(map((answer) => ({ id, answer }))),
  );
  protected readonly failure = this.asked.failure;
  protected readonly again = this.asked.again;
  /** Not that of the asset before, which stays until the next answer is there. */
  protected readonly answer = computed(() => {
    const asked = this.asked.value();
    return asked?.id === this.wholeId() ? asked.answer : null;
  });
  protected readonly sourceLabels = TRANSCRIPT_SOURCE_LABELS;
  protected readonly counted = counted;
  protected readonly few = FEW;
  protected readonly formats = TRANSCRIPT_FORMATS.map((format) => ({ format, label: FORMAT_LABELS[format] }));
  protected readonly path = FILE_PATHS.transcript;
  protected readonly quick = quick();
  /** The first word of the passage that is being corrected. */
  protected readonly editing = linkedSignal({ source: () => this.wholeId(), computation: (): number | null => null });
  protected readonly saving = signal(false);
  /** What was corrected goes on from there; what it began as stays as it is. */
  protected readonly mayCorrect = computed(() => {
    const { sources, shown } = this.answer() ?? { sources: [], shown: null };
    return this.mayLog() && (shown?.source === 'corrected' || !sources.some(({ source }) => source === 'corrected'));
  });

  private readonly offsetMs = computed(() => msOfPlace(this.asset().inPlace, this.asset().rate));
  private readonly shown = computed(() => this.answer()?.shown ?? null);
  private readonly passages = computed((): readonly Passage[] => {
    const shown = this.shown();
    const from = this.offsetMs();
    const isPart = this.asset().parentId !== null;
    const to = isPart ? from + (this.asset().durationMs ?? 0) : Infinity;
    return (shown ? passagesOf(shown) : []).filter(({ startMs, endMs }) => endMs > from && startMs < to);
  });
  protected readonly total = computed(() => this.passages().length);
  private readonly hits = computed((): ReadonlySet<number> => {
    const words = this.shown()?.words ?? [];
    const { tree } = parseQuery(this.query(), this.fields.registry());
    const hits = new Set<number>();
    for (const { from, to } of spokenHits(tree, words, this.fields.registry()))
      for (let at = from; at < to; at += 1) hits.add(at);
    return hits;
  });
  private readonly fitting = computed(() =>
    this.passages().filter(({ speaker, words }) => this.quick.fits()(speaker, saidText(words))),
  );
  /** Up to the end of the frame that is shown: a word that begins within it is being said. */
  private readonly ms = computed(() => {
    const { rate } = this.asset();
    return this.offsetMs() + (rate ? msOfPlace(this.place() + 1, rate) - 1 : this.place());
  });
  /** The word that is being said, or was said last. */
  protected readonly current = computed(() => {
    const words = this.shown()?.words ?? [];
    const ms = this.ms();
    let [low, high] = [0, words.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((words[middle] as SpokenWord).startMs <= ms) low = middle + 1;
      else high = middle;
    }
    return low - 1;
  });
  private readonly currentPassage = computed(() =>
    this.fitting().findIndex(({ from, to }) => this.current() >= from && this.current() < to),
  );
  /** The first passage that is drawn: the window goes along with what is said. */
  protected readonly first = linkedSignal<{ readonly current: number; readonly count: number }, number>({
    source: () => ({ current: this.currentPassage(), count: this.fitting().length }),
    computation: ({ current, count }, before) => {
      const first = Math.min(before?.value ?? 0, Math.max(0, count - 1));
      if (current < 0) return count <= SHOWN ? 0 : first;
      return current >= first && current < first + SHOWN ? first : Math.max(0, current - 2);
    },
  });
  protected readonly later = computed(() => Math.max(0, this.fitting().length - this.first() - SHOWN));
  protected readonly drawn = computed((): readonly ShownPassage[] =>
    this.fitting()
      .slice(this.first(), this.first() + SHOWN)
      .map(({ from, to, speaker, startMs, words }) => ({
        ...{ from, to, speaker },
        place: placeText(this.asset(), this.placeOf(startMs)),
        words: words.map((word, n) => this.shownWord(word, from + n)),
      })),
  );

  constructor() {
    inject(Actions)
      .pipe(
        ofType(liveActions.changed, liveActions.connected),
        filter(
          (action) =>
            action.type === liveActions.connected.type ||
            action.changed.some(({ entity, id }) => entity === 'asset' && id === this.wholeId()),
        ),
        takeUntilDestroyed(),
      )
      .subscribe(() => this.changes.update((before) => before + 1));
  }

  private shownWord({ text, certainty, others = [] }: SpokenWord, at: number): ShownWord {
    const sure = certainty === null ? '' : `${Math.round(certainty * 100)}% sure`;
    const instead = others.length > 0 ? `or: ${others.map((other) => other.text).join(', ')}` : '';
    return {
      ...{ at, text, hit: this.hits().has(at), unsure: certainty !== null && certainty < UNSURE },
      title: [sure, instead].filter(Boolean).join('; '),
    };
  }

  private placeOf(ms: number): number {
    return placeOfMs(Math.max(0, ms - this.offsetMs()), this.asset().rate);
  }

  protected textOf({ words }: ShownPassage): string {
    return saidText(words);
  }

  protected go(at: number): void {
    const word = this.shown()?.words[at];
    if (word) this.gone.emit(this.placeOf(word.startMs));
  }

  protected move(by: number): void {
    this.first.update((first) => Math.min(Math.max(0, first + by * SHOWN), Math.max(0, this.fitting().length - 1)));
  }

  /** A word that is pointed at is gone to; words that are marked with the mouse become in and out of the player. */
  protected point({ target }: Event): void {
    const selection = getSelection();
    const [a, b] = [wordAt(selection?.anchorNode ?? null), wordAt(selection?.focusNode ?? null)];
    if (!selection || selection.isCollapsed || a === null || b === null || a === b) {
      const at = wordAt(target as Node);
      if (at !== null) this.go(at);
      return;
    }
    const words = this.shown()?.words ?? [];
    const [first, last] = [words[Math.min(a, b)], words[Math.max(a, b)]];
    if (!first || !last) return;
    this.marked.emit({ in: this.placeOf(first.startMs), out: this.placeOf(last.endMs) + 1 });
  }

  protected correct({ from, to }: ShownPassage, { text, speaker }: PassageChange): void {
    const shown = this.shown();
    if (!shown) return;
    const { source, version } = shown;
    const change = {
      source,
      version,
      from,
      to,
      ...(text === null ? {} : { text }),
      ...(speaker === null ? {} : { speaker }),
    };
    this.saving.set(true);
    this.write(
      () => this.api.call('correctTranscript', change, this.wholeId()),
      'Transcript corrected',
      () => {
        this.editing.set(null);
        // What was corrected is another source, and the best there is.
        this.source.set(null);
      },
    );
  }

  private write(ask: () => Observable<Written>, label: string, done: () => void): void {
    this.writes.inTurn(ask).subscribe({
      next: (written) => {
        this.saving.set(false);
        this.store.dispatch(libraryActions.edited({ ...written, label }));
        done();
      },
      error: ({ message }: Failure) => {
        this.saving.set(false);
        this.toasts.failed(message);
        this.again();
      },
    });
  }

  protected remove(): void {
    const shown = this.shown();
    if (!shown) return;
    const { source, version } = shown;
    this.saving.set(true);
    this.write(
      () => this.api.call('removeTranscript', { source, version }, this.wholeId()),
      `Transcript (${TRANSCRIPT_SOURCE_LABELS[source].toLowerCase()}) taken away`,
      () => this.source.set(null),
    );
  }

  protected readonly hasChannels = computed(() => (this.asset().sound?.channels ?? 0) > 1);

  protected recognise(apart: boolean): void {
    this.recognition.of([this.asset().id], apart);
  }

  protected read({ name, text }: ChosenText): void {
    this.readIn.from(
      () => this.api.call('readTranscript', { text, name }, this.wholeId()),
      (read) => ({
        label: `${name} read`,
        done: `${counted(read.words, 'word')} from ${name}.`,
        left: leftOut(read),
      }),
      `${name} was not read.`,
    );
    this.source.set(null);
  }
}

/** The word that a node is in. */
function wordAt(node: Node | null): number | null {
  const element = node instanceof Element ? node : node?.parentElement;
  const at = element?.closest<HTMLElement>('[data-word]')?.dataset['word'];
  return at === undefined ? null : Number(at);
}
