import {
  ChangeDetectionStrategy,
  Component,
  computed,
  ElementRef,
  inject,
  input,
  linkedSignal,
  output,
  signal,
} from '@angular/core';
import { Router } from '@angular/router';
import { Store } from '@ngrx/store';
import { PASSAGE_LENGTHS, type PassageLength } from '@larder/core/dialogue';
import { PullDialog } from '../projects/pull-dialog';
import { Api } from '../shared/api';
import { askedAnew } from '../shared/asked-anew';
import { counted } from '../shared/format';
import { Icon } from '../shared/icon';
import { Keys } from '../shared/keys';
import { mayOffer, sessionFeature } from '../shared/session';
import { Hearing } from './hearing';
import { Keeping } from './keeping';
import { listedPassages, PassageList, type ListedPassage } from './passage-list';
import { searchOf, type SpeechAsked } from './speech-asked';
import { Strictness } from './strictness';

/** So many are listed at once, as one likes. */
const LIMITS = [10, 25, 50, 100, 200] as const;

const LENGTH_LABELS: Readonly<Record<PassageLength, string>> = {
  sentence: 'Sentences',
  thought: 'Thoughts',
  talk: 'Until the next speaker',
};

/** Whole thoughts in which something is said, the most telling first. */
@Component({
  selector: 'nl-spoken-passages',
  imports: [Icon, PassageList, Strictness],
  templateUrl: './spoken-passages.html',
  styleUrl: './spoken-files.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SpokenPassages {
  readonly asking = input.required<SpeechAsked>();
  /** Of the address. */
  readonly changed = output<Readonly<Record<string, string | number | null>>>();
  private readonly api = inject(Api);
  private readonly hearing = inject(Hearing);
  private readonly keeping = inject(Keeping);
  private readonly pullDialog = inject(PullDialog);
  private readonly router = inject(Router);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
  private readonly person = inject(Store).selectSignal(sessionFeature.selectPerson);

  protected readonly mayLog = computed(() => mayOffer(this.person(), 'log'));
  protected readonly mayCut = computed(() => mayOffer(this.person(), 'cut'));
  protected readonly counted = counted;
  protected readonly limits = LIMITS;
  protected readonly limit = signal<number>(LIMITS[0]);
  /** From the shortest to the longest. */
  protected readonly lengths = PASSAGE_LENGTHS.toReversed().map((id) => ({ id, label: LENGTH_LABELS[id] }));
  protected readonly length = signal<PassageLength>('thought');

  private readonly asked = askedAnew(
    computed(() => ({ ...this.asking(), length: this.length(), limit: this.limit() })),
    (question) => this.api.call('spokenPassages', question),
  );
  protected readonly failure = this.asked.failure;
  protected readonly again = this.asked.again;
  protected readonly answer = this.asked.value;
  protected readonly passages = computed(() => listedPassages(this.answer() ?? { assets: [], passages: [] }));
  private readonly search = computed(() => searchOf(this.asking()));
  /** Of another search, or of passages of another length, none is chosen or heard yet. */
  protected readonly chosen = linkedSignal({
    source: () => `${this.search()}\n${this.length()}`,
    computation: (): ReadonlySet<string> => new Set(),
  });
  protected readonly current = linkedSignal({
    source: () => `${this.search()}\n${this.length()}`,
    computation: (): string | null => null,
  });
  /** What goes on: what is chosen, or all that is listed. */
  protected readonly taken = computed(() => {
    const chosen = this.passages().filter(({ key }) => this.chosen().has(key));
    return chosen.length > 0 ? chosen : this.passages();
  });

  constructor() {
    const keys = inject(Keys);
    keys.on('hit.next', () => this.step(1));
    keys.on('hit.before', () => this.step(-1));
    keys.on('hit.keep', () => this.keep());
    keys.on('passage.longer', () => this.lengthen(1));
    keys.on('passage.shorter', () => this.lengthen(-1));
  }

  private lengthen(by: 1 | -1): boolean {
    const at = this.lengths.findIndex(({ id }) => id === this.length());
    const next = this.lengths[at + by];
    if (next) this.length.set(next.id);
    return next !== undefined;
  }

  protected toggle({ key }: ListedPassage): void {
    this.chosen.update((before) => {
      const chosen = new Set(before);
      if (!chosen.delete(key)) chosen.add(key);
      return chosen;
    });
  }

  protected go({ asset, key, startMs }: ListedPassage): void {
    this.current.set(key);
    this.hearing.from(asset, startMs);
  }

  private step(by: 1 | -1): boolean {
    const all = this.passages();
    const now = all.findIndex(({ key }) => key === this.current());
    const next = all[now < 0 ? (by > 0 ? 0 : all.length - 1) : now + by];
    if (!next) return false;
    this.go(next);
    this.host.querySelector(`[data-passage="${next.key}"]`)?.scrollIntoView({ block: 'nearest' });
    return true;
  }

  private keep(): boolean {
    const passage = this.passages().find(({ key }) => key === this.current());
    if (!passage || !this.mayLog()) return false;
    const { asset, best, endMs, speaker, startMs } = passage;
    const note = [speaker, `${best}% likely`].filter(Boolean).join(', ');
    this.keeping.keep({ asset, startMs, endMs, name: this.asking().said, note });
    return true;
  }

  /** As they stand, without anything around them: they begin and end where a thought does. */
  protected async toStringOut(): Promise<void> {
    const parts = this.taken().map(({ endMs, id, startMs }) => ({ assetId: id, startMs, endMs }));
    const name = `Said: ${this.asking().said}`;
    const made = await this.pullDialog.askOf(parts, { name, what: 'passage', handlesS: 0 });
    if (made) void this.router.navigate(['/string-outs', made.id]);
  }
}
