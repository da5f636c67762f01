import { ChangeDetectionStrategy, Component, computed, inject, input, viewChild, type ElementRef } from '@angular/core';
import { Router } from '@angular/router';
import { Store } from '@ngrx/store';
import { NOTCHES, readsAsQuestion, type SpokenHow } from '@larder/core/dialogue';
import { parseQuery, wordQueryIssue } from '@larder/core/query';
import { LONGEST_SAID } from '@larder/contract';
import { Fields } from '../shared/fields';
import { Icon } from '../shared/icon';
import { Keys } from '../shared/keys';
import { sessionFeature } from '../shared/session';
import { CustomWords } from './custom-words';
import type { SpeechAsked } from './speech-asked';
import { RelatedWords } from './related-words';
import { SpokenFiles } from './spoken-files';
import { SpokenPassages } from './spoken-passages';
import { SpokenTotalsView } from './spoken-totals';
import { ThemesView } from './themes';

const WITHIN_S = 10;
/** As the server takes them. */
const [LEAST_WITHIN_S, MOST_WITHIN_S] = [0.1, 3600];

const HOW_LABELS: Readonly<Record<SpokenHow, string>> = {
  all: 'all of it in one file',
  any: 'any of it',
  near: 'all of it close together',
};
const VIEWS = [
  { id: 'files', label: 'Files', title: 'What was said, file by file' },
  { id: 'passages', label: 'Passages', title: 'Whole thoughts in which it was said, the most telling first' },
  { id: 'totals', label: 'Totals', title: 'How much of it there is: when it was shot, in which reel, and who says it' },
  { id: 'themes', label: 'Themes', title: 'What the files are about' },
  { id: 'names', label: 'Names', title: 'Words of the production that the recogniser does not know' },
] as const;
type View = (typeof VIEWS)[number]['id'];
/** Something is looked for there. */
const IN_SPEECH: readonly View[] = ['files', 'passages', 'totals'];

/** Speech of the whole library: what was said where, and what it is about. */
@Component({
  selector: 'nl-dialogue',
  imports: [CustomWords, Icon, RelatedWords, SpokenFiles, SpokenPassages, SpokenTotalsView, ThemesView],
  templateUrl: './dialogue.html',
  styleUrl: './dialogue.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Dialogue {
  /** From the address: what is looked for in speech and how, what else holds of the files, and how it is shown. */
  readonly said = input<string | undefined>();
  readonly how = input<string | undefined>();
  readonly within = input<string | undefined>();
  readonly notch = input<string | undefined>();
  readonly sort = input<string | undefined>();
  readonly q = input<string | undefined>();
  readonly view = input<string | undefined>();
  readonly related = input<string | undefined>();
  private readonly fields = inject(Fields);
  private readonly router = inject(Router);
  private readonly box = viewChild<ElementRef<HTMLInputElement>>('box');
  private readonly revision = inject(Store).selectSignal(sessionFeature.selectRevision);

  protected readonly hows = Object.entries(HOW_LABELS).map(([how, label]) => ({ how, label }));
  protected readonly views = VIEWS;
  protected readonly longest = LONGEST_SAID;
  protected readonly isSearch = computed(() => IN_SPEECH.includes(this.isView()));
  protected readonly isView = computed((): View => VIEWS.find(({ id }) => id === this.view())?.id ?? 'files');
  protected readonly asksFor = computed(() => this.said() ?? '');
  protected readonly isHow = computed(() =>
    Object.hasOwn(HOW_LABELS, this.how() ?? '') ? (this.how() as SpokenHow) : 'all',
  );
  protected readonly withinS = computed(() => {
    const seconds = Number(this.within() ?? WITHIN_S);
    return seconds >= LEAST_WITHIN_S && seconds <= MOST_WITHIN_S ? seconds : WITHIN_S;
  });
  private readonly atNotch = computed(() => {
    const at = Number(this.notch() ?? 0);
    return NOTCHES[at] ? at : 0;
  });
  protected readonly narrowing = computed(() => (this.q() ?? '').trim());
  /** A search that cannot be read narrows nothing: it is said what is wrong with it. */
  protected readonly issue = computed(() => {
    const [issue] = parseQuery(this.narrowing(), this.fields.registry()).issues;
    return issue ? wordQueryIssue(issue) : null;
  });
  protected readonly asking = computed((): SpeechAsked => ({
    ...{ said: this.asksFor(), how: this.isHow(), withinS: this.withinS(), notch: this.atNotch() },
    ...{ query: this.issue() ? '' : this.narrowing(), atLeast: this.revision() },
  }));
  /** Where nothing is looked for, there is nothing to rank or to add up: it is told how to look for something. */
  protected readonly shown = computed((): View =>
    this.isSearch() && this.asksFor().trim() === '' ? 'files' : this.isView(),
  );

  protected readonly isQuestion = computed(() => readsAsQuestion(this.asksFor()));
  protected readonly showsRelated = computed(
    () => this.related() !== undefined && this.isSearch() && this.asksFor().trim() !== '',
  );

  constructor() {
    inject(Keys).on('hit.speech', () => {
      const box = this.box()?.nativeElement;
      box?.focus();
      box?.select();
      return box !== undefined;
    });
  }

  /** Each letter replaces the address, so that "back" leaves the search instead of spelling it backwards. */
  protected change(change: Readonly<Record<string, string | number | null>>): void {
    void this.router.navigate(['/dialogue'], {
      queryParams: change,
      queryParamsHandling: 'merge',
      replaceUrl: true,
    });
  }

  /** What cannot be is put as the nearest that can. */
  protected setWithin(box: HTMLInputElement): void {
    const seconds = Math.min(MOST_WITHIN_S, Math.max(LEAST_WITHIN_S, Number(box.value) || WITHIN_S));
    box.value = String(seconds);
    this.change({ within: seconds });
  }
}
