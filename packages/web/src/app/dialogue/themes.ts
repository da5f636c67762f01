import { ChangeDetectionStrategy, Component, computed, inject, input, linkedSignal, untracked } from '@angular/core';
import { Router } from '@angular/router';
import { Store } from '@ngrx/store';
import { map, of, type Observable } from 'rxjs';
import type { Passages, ThemesAnswer } from '@larder/contract';
import { PullDialog } from '../projects/pull-dialog';
import { Api } from '../shared/api';
import { askedAnew } from '../shared/asked-anew';
import { callOf, counted, formatCount } from '../shared/format';
import { Icon } from '../shared/icon';
import { mayOffer, sessionFeature } from '../shared/session';
import { Hearing } from './hearing';
import { listedPassages, PassageList, type ListedPassage } from './passage-list';

/** Files that have a column of their own; of more there is no room. */
const MOST_COLUMNS = 24;
/** Passages that are listed of a theme. */
const MOST_PASSAGES = 100;
/** What sets passages apart is said of them as they are by themselves. */
const LENGTH = 'thought';

/** One theme in one file. */
interface Cell {
  readonly assetId: number;
  readonly count: number;
  /** How much of the file it is, from 0 to 1. */
  readonly share: number;
  readonly title: string;
}

interface ShownTheme {
  readonly at: number;
  readonly first: string;
  readonly others: string;
  readonly files: number;
  readonly title: string;
  readonly cells: readonly Cell[];
}

/** Themes by how many of the files have them. */
interface ThemeGroup {
  readonly label: string;
  readonly themes: readonly ShownTheme[];
}

/** What is opened: a theme in a file, or in all of them. */
interface Opened {
  readonly at: number;
  readonly assetId: number | null;
}

/** A passage that goes into a string-out, and the theme that it was chosen for. */
interface Chosen {
  readonly at: number;
  readonly passage: ListedPassage;
}

/** What files are about: themes by files, and the passages that say so. */
@Component({
  selector: 'nl-themes',
  imports: [Icon, PassageList],
  templateUrl: './themes.html',
  styleUrl: './themes.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ThemesView {
  /** Which files; all where it says nothing. */
  readonly query = input.required<string>();
  private readonly api = inject(Api);
  private readonly hearing = inject(Hearing);
  private readonly pullDialog = inject(PullDialog);
  private readonly router = inject(Router);
  private readonly store = inject(Store);
  private readonly person = this.store.selectSignal(sessionFeature.selectPerson);
  private readonly revision = this.store.selectSignal(sessionFeature.selectRevision);

  protected readonly mayCut = computed(() => mayOffer(this.person(), 'cut'));
  protected readonly counted = counted;
  protected readonly count = formatCount;

  /** Not with each change to the library: themes that move while one reads them help nobody. */
  private readonly asked = askedAnew(
    computed(() => ({ query: this.query(), atLeast: untracked(this.revision) })),
    (question) => this.api.call('themes', question),
  );
  protected readonly failure = this.asked.failure;
  protected readonly again = this.asked.again;
  protected readonly answer = this.asked.value;
  protected readonly against = computed(() => {
    const { against, rest } = this.answer() ?? { against: 'each-other', rest: 0 };
    return against === 'rest' ? `in the ${counted(rest, 'other file')} with a transcript` : 'in the others among them';
  });
  protected readonly files = computed(() => columnsOf(this.answer()));
  /** Files that say nothing of any theme, and files that say less than those that have columns. */
  protected readonly silent = computed(() => {
    const { files, themes } = this.answer() ?? { files: [], themes: [] };
    return files.filter((_file, at) => themes.every(({ passages }) => passages[at] === 0)).length;
  });
  protected readonly beside = computed(() => (this.answer()?.files.length ?? 0) - this.silent() - this.files().length);
  protected readonly groups = computed(() => groupsOf(this.answer(), this.files()));

  protected readonly opened = linkedSignal({
    source: () => this.answer(),
    computation: (): Opened | null => null,
  });
  private readonly told = askedAnew(
    computed(() => this.opened()),
    (opened): Observable<{ opened: Opened; found: Passages } | null> => {
      const theme = opened && this.answer()?.themes[opened.at];
      if (!theme) return of(null);
      const terms = theme.terms.map(({ text }) => text);
      const assetIds = opened.assetId === null ? (this.answer()?.files ?? []).map(({ id }) => id) : [opened.assetId];
      return this.api
        .call('themePassages', { terms, assetIds, query: this.query(), length: LENGTH, limit: MOST_PASSAGES })
        .pipe(map((found) => ({ opened, found })));
    },
  );
  protected readonly toldFailure = this.told.failure;
  /** The passages of what is opened; null until they are there. */
  protected readonly passages = computed(() => {
    const told = this.told.value();
    return told?.opened === this.opened() && told ? { ...told.found, listed: listedPassages(told.found) } : null;
  });
  protected readonly openedTitle = computed(() => {
    const opened = this.opened();
    const theme = this.groups()
      .flatMap(({ themes }) => themes)
      .find(({ at }) => at === opened?.at);
    const file = this.files().find(({ id }) => id === opened?.assetId);
    return theme ? `${theme.title} ${file ? `in “${file.call}”` : 'in all files'}` : '';
  });

  protected readonly chosen = linkedSignal({
    source: () => this.answer(),
    computation: (): ReadonlyMap<string, Chosen> => new Map(),
  });
  protected readonly chosenKeys = computed((): ReadonlySet<string> => new Set(this.chosen().keys()));
  protected readonly chosenThemes = computed(() => new Set([...this.chosen().values()].map(({ at }) => at)).size);
  protected readonly current = linkedSignal({ source: () => this.opened(), computation: (): string | null => null });

  protected isOpen(at: number, assetId: number | null): boolean {
    const opened = this.opened();
    return opened?.at === at && opened.assetId === assetId;
  }

  protected open(at: number, assetId: number | null): void {
    this.opened.set(this.isOpen(at, assetId) ? null : { at, assetId });
  }

  protected go({ asset, key, startMs }: ListedPassage): void {
    this.current.set(key);
    this.hearing.from(asset, startMs);
  }

  protected toggle(passage: ListedPassage): void {
    const at = this.opened()?.at;
    if (at === undefined) return;
    this.chosen.update((before) => {
      const chosen = new Map(before);
      if (!chosen.delete(passage.key)) chosen.set(passage.key, { at, passage });
      return chosen;
    });
  }

  protected chooseAll(passages: readonly ListedPassage[]): void {
    const at = this.opened()?.at;
    if (at !== undefined)
      this.chosen.update(
        (before) => new Map([...before, ...passages.map((passage) => [passage.key, { at, passage }] as const)]),
      );
  }

  protected forget(): void {
    this.chosen.set(new Map());
  }

  /** One theme after the other, each in the order of the files. */
  protected async toStringOut(): Promise<void> {
    const chosen = [...this.chosen().values()].sort(
      (a, b) => a.at - b.at || a.passage.id - b.passage.id || a.passage.startMs - b.passage.startMs,
    );
    const parts = chosen.map(({ passage: { endMs, id, startMs } }) => ({ assetId: id, startMs, endMs }));
    const themes = [...new Set(chosen.map(({ at }) => this.answer()?.themes[at]?.terms[0]?.text ?? ''))];
    const name = `Themes: ${themes.join(', ')}`;
    const made = await this.pullDialog.askOf(parts, { name, what: 'passage', handlesS: 0 });
    if (made) void this.router.navigate(['/string-outs', made.id]);
  }
}

interface Column {
  readonly id: number;
  readonly call: string;
  readonly name: string;
  /** Its place among all files of the answer. */
  readonly at: number;
  readonly passages: number;
}

/** The files, or of many those that say most of what they have in common. */
function columnsOf(answer: ThemesAnswer | null): readonly Column[] {
  if (!answer) return [];
  const said = answer.files.map((_file, at) =>
    answer.themes.reduce((sum, { passages }) => sum + (passages[at] as number), 0),
  );
  return answer.files
    .map(({ id, passages }, at) => {
      const asset = answer.assets.find((each) => each.id === id);
      return { id, at, passages, call: asset ? callOf(asset) : '', name: asset?.name ?? '' };
    })
    .filter(({ at }) => (said[at] as number) > 0)
    .toSorted((a, b) => (said[b.at] as number) - (said[a.at] as number) || a.at - b.at)
    .slice(0, MOST_COLUMNS)
    .sort((a, b) => a.at - b.at);
}

function groupsOf(answer: ThemesAnswer | null, columns: readonly Column[]): readonly ThemeGroup[] {
  if (!answer) return [];
  const all = answer.files.length;
  const themes = answer.themes.map(({ passages, terms }, at): ShownTheme => {
    const [first = '', ...others] = terms.map(({ text }) => text);
    return {
      ...{ at, first, others: others.join(', '), title: `“${first}”` },
      files: passages.filter((count) => count > 0).length,
      cells: columns.map((column) => {
        const count = passages[column.at] as number;
        const title = `${counted(count, 'passage')} of ${formatCount(column.passages)} in “${column.call}”`;
        return { assetId: column.id, count, share: count / Math.max(1, column.passages), title };
      }),
    };
  });
  const groups = [
    { label: 'In all of them', themes: themes.filter(({ files }) => all > 1 && files === all) },
    { label: 'In several', themes: themes.filter(({ files }) => files > 1 && files < all) },
    { label: all > 1 ? 'In one only' : 'In it', themes: themes.filter(({ files }) => files === 1) },
  ];
  return groups.filter((group) => group.themes.length > 0);
}
