import {
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  inject,
  input,
  linkedSignal,
  untracked,
} from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { ActivatedRoute, Router, RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { map } from 'rxjs';
import { RELEVANCE, type Group, type SortOrder } from '@larder/core/search';
import type { FieldChanges, FieldId } from '@larder/core/fields';
import { combine, parseQuery, partsOf, printQuery, wordQueryIssue, type Query } from '@larder/core/query';
import { fieldValues, type AskedOrder, type Asset, type EditEach } from '@larder/contract';
import { LiveBinDialog } from '../bins/live-bin-dialog';
import { binActions } from '../bins/state';
import { Criteria } from '../criteria/criteria';
import { Api, type Failure } from '../shared/api';
import { Flags } from '../shared/flags';
import { counted, formatCount } from '../shared/format';
import { Fields } from '../shared/fields';
import { Icon } from '../shared/icon';
import { Keys } from '../shared/keys';
import { mayOffer, sessionFeature } from '../shared/session';
import { LIST_VIEWS, Settings, type Beside, type ListView } from '../shared/settings';
import { Toasts } from '../shared/toasts';
import { Writes } from '../shared/writes';
import { TagBoard } from '../tags/tag-board';
import { AnswerTabs } from './answer-tabs';
import { ArrangeMenu } from './arrange-menu';
import { CalendarView } from './calendar-view';
import { ContactSheet } from './contact-sheet';
import { Facets } from './facets';
import { HitsView } from './hits-view';
import { Ledger } from './ledger';
import { LedgerColumns } from './ledger-columns';
import { LiftBar } from './lift-bar';
import { MapView } from './map-view';
import { libraryActions, type SelectMode } from './state/library.actions';
import { libraryFeature } from './state/library.reducer';
import { within } from './narrowing';
import { OpenAnswers, type Answer } from './open-answers';
import { RowDrag } from './row-drag';
import { BY_HAND, BY_NAME, orderOf, sortKeyOf } from './sort-key';
import { Trail, type Narrowed } from './trail';
import { TableMenu } from './table-menu';
import type { TileLine } from './tile';
import { whyFound } from './why-found';
import { shownValue, wordValue } from '../shared/shown-value';

const SORTS: readonly (SortOrder & { label: string })[] = [
  { field: 'name', descending: false, label: 'Name' },
  // What no words were asked of stands by its name.
  { field: RELEVANCE, descending: true, then: [{ field: 'name', descending: false }], label: 'Best fit' },
  { field: 'shot', descending: false, label: 'Shot, oldest first' },
  { field: 'shot', descending: true, label: 'Shot, newest first' },
  { field: 'added', descending: true, label: 'Added, newest first' },
  { field: 'duration', descending: true, label: 'Longest first' },
  { field: 'reel', descending: false, label: 'Reel' },
];

interface Sort {
  readonly key: string;
  readonly label: string;
}

const VIEW_LABELS: Readonly<Record<ListView, string>> = {
  sheet: 'Contact sheet',
  ledger: 'Ledger',
  hits: 'Hits in time',
  map: 'Map',
  calendar: 'Calendar',
};

const FLAGGED: Query = { kind: 'field', field: 'flag', test: { op: 'text', text: 'mine', prefix: false } };
const isFlagged = (part: Query): boolean =>
  part.kind === 'field' && part.field === 'flag' && !(part.test.op === 'presence' && !part.test.present);

/** The list of what a search found, as a contact sheet or a ledger. Bins show their contents with it too. */
@Component({
  selector: 'nl-library',
  imports: [
    AnswerTabs,
    ArrangeMenu,
    CalendarView,
    ContactSheet,
    Criteria,
    Facets,
    HitsView,
    Icon,
    Ledger,
    LedgerColumns,
    LiftBar,
    MapView,
    RouterLink,
    RowDrag,
    TableMenu,
    TagBoard,
    Trail,
  ],
  templateUrl: './library.html',
  styleUrl: './library.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Library {
  /** From the address: what the search line says. */
  readonly q = input<string | undefined>('');
  /** A fixed search and its title, in place of the search line's. */
  readonly fixed = input<{ readonly query: string; readonly title: string } | null>(null);
  /** The bin filled by hand that is shown: it has an order of its own. */
  readonly bin = input<number | null | undefined>(null);

  // The router leaves inputs that it knows nothing of undefined.
  private readonly handBin = computed(() => this.bin() ?? null);
  private readonly store = inject(Store);
  private readonly fields = inject(Fields);
  private readonly router = inject(Router);
  private readonly liveBins = inject(LiveBinDialog);
  private readonly toasts = inject(Toasts);
  private readonly api = inject(Api);
  private readonly flags = inject(Flags);
  private readonly writes = inject(Writes);
  private readonly answers = inject(OpenAnswers);
  protected readonly settings = inject(Settings);
  protected readonly state = this.store.selectSignal(libraryFeature.selectLibraryState);
  protected readonly assetAt = this.store.selectSignal(libraryFeature.selectAssetAt);
  protected readonly selected = this.store.selectSignal(libraryFeature.selectSelectedSet);
  private readonly person = this.store.selectSignal(sessionFeature.selectPerson);
  protected readonly revision = this.store.selectSignal(sessionFeature.selectRevision);
  protected readonly count = formatCount;

  private readonly withinAsked = toSignal(
    inject(ActivatedRoute).queryParamMap.pipe(map((all) => all.get('within') ?? '')),
    {
      initialValue: '',
    },
  );
  /** What a list that is fixed is narrowed by. */
  private readonly withinFixed = computed(() => (this.fixed() ? this.withinAsked() : ''));
  protected readonly query = computed(() => {
    const fixed = this.fixed()?.query;
    return fixed === undefined ? (this.q() ?? '') : within(fixed, this.withinFixed(), this.fields.registry());
  });
  /** The list as it is before anything is searched for in it. */
  private readonly whole = computed(() => this.fixed()?.query ?? '');
  /** The part of the search that can be narrowed and widened step by step. */
  protected readonly narrowedBy = computed(
    () => parseQuery(this.fixed() ? this.withinFixed() : this.runnable(), this.fields.registry()).tree,
  );
  protected readonly title = computed(() => this.fixed()?.title ?? 'Library');
  protected readonly total = computed(() => this.state().total ?? 0);
  protected readonly waiting = computed(
    () => this.state().total === null && this.state().failure === null && this.state().issues.length === 0,
  );
  /** What was asked last is answered: by the list on the screen, or by what is wrong with the question. */
  protected readonly settled = computed(
    () => this.state().issues.length > 0 || this.state().shown === this.state().epoch,
  );
  protected readonly issue = computed(() => {
    const issue = this.state().issues[0];
    return issue ? wordQueryIssue(issue) : null;
  });
  protected readonly said = computed(() => {
    const { found, lifted } = this.state();
    return lifted ? `${formatCount(lifted.count)} of ${counted(found, 'asset')}` : counted(found, 'asset');
  });
  /** The search looks for something in a list that could be shown whole. */
  protected readonly mayLift = computed(() => this.isList() && this.query().trim() !== this.whole().trim());
  protected readonly search = this.store.selectSignal(libraryFeature.selectSearch);
  protected readonly isDim = this.store.selectSignal(libraryFeature.selectIsDim);
  protected readonly views = LIST_VIEWS.map((id) => ({
    id,
    label: VIEW_LABELS[id],
    key: id === 'sheet' || id === 'ledger' ? ' (V)' : '',
  }));
  /** Places of the list are on the screen, not what a map or a calendar gathers of them. */
  protected readonly isList = computed(() => this.settings.view() === 'sheet' || this.settings.view() === 'ledger');
  protected readonly isOrdered = computed(() => this.isList() || this.settings.view() === 'hits');
  protected readonly mayLog = computed(() => mayOffer(this.person(), 'log'));
  protected readonly mayKeep = computed(
    () =>
      mayOffer(this.person(), 'log') && !this.fixed() && this.query().trim() !== '' && this.state().issues.length === 0,
  );
  protected readonly sortKey = computed(() => sortKeyOf(this.state().sort));
  /** The usual orders, the one in use if it is none of them, and every other field. */
  protected readonly sorts = computed((): readonly { readonly label: string; readonly of: readonly Sort[] }[] => {
    const registry = this.fields.registry();
    const usual = SORTS.map(({ label, ...sort }) => ({ label, key: sortKeyOf(sort) }));
    const { sort } = this.state();
    const worded = [sort, ...(sort.then ?? [])]
      .map(({ field, descending }) => `${registry.labelOf(field)}${descending ? ', falling' : ''}`)
      .join(', then ');
    const inUse = { label: worded, key: sortKeyOf(sort) };
    const others = registry.all
      .filter(({ retired, unordered, id }) => !retired && !unordered && !SORTS.some(({ field }) => field === id))
      .map(({ id, label }) => ({ label, key: sortKeyOf({ field: id, descending: false }) }));
    const known = sort.hand !== undefined || [...usual, ...others].some(({ key }) => key === inUse.key);
    return [
      { label: 'Usual', of: this.handBin() === null ? usual : [{ key: BY_HAND, label: 'By hand' }, ...usual] },
      ...(known ? [] : [{ label: 'As the ledger is sorted', of: [inUse] }]),
      { label: 'By any field', of: others },
    ];
  });
  /** Cut into groups only where the list itself is shown, and only by a field that there still is. */
  private readonly by = computed((): FieldId | null => {
    const field = this.fields.registry().byId(this.settings.by() ?? '');
    return field && !field.retired && !field.unordered ? field.id : null;
  });
  protected readonly groupedBy = computed(() => {
    const { by } = this.state();
    return by === null ? '' : this.fields.registry().labelOf(by);
  });
  protected readonly groupLabel = computed(() => {
    const { by } = this.state();
    return (group: Group): string => (by === null ? group.label : wordValue(by, group.label));
  });
  protected readonly linesOf = computed(() => {
    const lines = this.settings.lines().flatMap((id) => this.fields.registry().byId(id) ?? []);
    return (asset: Asset): readonly TileLine[] => {
      const values = lines.length > 0 ? fieldValues(asset) : {};
      return lines.map((field) => ({
        ...{ id: field.id, label: field.label },
        // On one line: the breaks of a long text are gaps there.
        text: shownValue(field, values[field.id], asset).replace(/\s+/g, ' '),
      }));
    };
  });
  protected readonly matchOf = computed(() => {
    return whyFound(this.search(), this.fields.registry(), this.settings.lines() as FieldId[]);
  });
  private readonly parsed = computed(() => parseQuery(this.query(), this.fields.registry()));
  private readonly tree = computed(() => this.parsed().tree);
  /** The last search that can be run, as the list has it: what is wrong with the one that is being written is told above it. */
  protected readonly runnable = linkedSignal<string, string>({
    source: this.query,
    computation: (query, before) => (this.parsed().issues.length > 0 ? (before?.value ?? '') : query),
  });
  protected readonly onlyFlagged = computed(() => partsOf(this.tree()).some(isFlagged));

  constructor() {
    const { fields } = this;
    let asked: string | null = null;
    effect(() => {
      const query = this.query();
      const { issues } = parseQuery(query, fields.registry());
      // A name may be one of the shop's fields, which are on their way.
      if (issues.length > 0 && !fields.known()) return;
      // Fields that become known change nothing of a question that was asked already.
      const lifts = this.settings.lift() && this.mayLift();
      const list = lifts ? { query: this.whole(), lift: query } : { query, lift: null };
      const asking = JSON.stringify([list, issues]);
      if (asking === asked) return;
      asked = asking;
      this.store.dispatch(libraryActions.queryChanged({ ...list, issues }));
    });
    effect(() => {
      const by = this.by();
      if (by !== untracked(this.state).by) this.store.dispatch(libraryActions.groupBy({ by }));
    });
    effect(() => {
      const bin = this.handBin();
      const { hand } = untracked(this.state).sort;
      // A bin that is filled by hand is opened as its people have ordered it; no other list has such an order.
      if (bin !== (hand ?? null)) this.sortBy(bin === null ? BY_NAME : { ...BY_NAME, hand: bin });
    });
    this.followAnswers();
    const keys = inject(Keys);
    keys.on('list.flag', () => this.flags.toggle([...this.selected()]));
    keys.on('list.earlier', () => this.step(-1));
    keys.on('list.later', () => this.step(1));
    keys.on('list.all', () => this.store.dispatch(libraryActions.selectAll()));
    keys.on('list.narrow', () => this.toggleBeside('facets'));
    keys.on('list.view', () => this.settings.view.update((view) => (view === 'sheet' ? 'ledger' : 'sheet')));
    keys.on('escape', () => this.store.dispatch(libraryActions.clearSelection()));
  }

  /** The answer that is looked at is what the address says; it is come to in the order in which it was left. */
  private followAnswers(): void {
    let come = false;
    effect(() => {
      if (this.fixed()) return;
      const query = this.query();
      untracked(() => {
        if (come) return this.answers.asks(query);
        come = true;
        const { order } = this.answers.comesTo(query);
        if (order !== this.sortKey()) this.sortBy(orderOf(order));
      });
    });
    let ordered = false;
    effect(() => {
      const order = this.sortKey();
      if (ordered && !untracked(this.fixed)) untracked(() => this.answers.orders(order));
      ordered = true;
    });
  }

  protected pick(picked: { index: number; mode: SelectMode }): void {
    this.store.dispatch(libraryActions.select(picked));
  }

  protected clear(): void {
    this.store.dispatch(libraryActions.clearSelection());
  }

  protected need(places: { start: number; end: number }): void {
    this.store.dispatch(libraryActions.windowNeeded(places));
  }

  protected sortBy(sort: AskedOrder): void {
    this.store.dispatch(libraryActions.sortChanged({ sort }));
  }

  protected chooseSort(key: string): void {
    const bin = this.handBin();
    if (key === BY_HAND && bin !== null) return this.sortBy({ ...BY_NAME, hand: bin });
    this.sortBy(orderOf(key));
  }

  protected pickPlaces(places: { first: number; count: number }): void {
    this.store.dispatch(libraryActions.selectPlaces(places));
  }

  protected choose(ids: readonly number[]): void {
    this.store.dispatch(libraryActions.selectionFound({ ids, anchor: -1, focus: -1 }));
  }

  /** Selects them where they can be seen. */
  protected lookAt(ids: readonly number[]): void {
    this.choose(ids);
    this.settings.details.set(true);
  }

  protected narrowTo({ test }: Group): void {
    const { by } = this.state();
    if (test && by !== null) this.narrow({ kind: 'field', field: by, test });
  }

  /** Goes on to what is found by this beside what is searched for now, as a list. */
  protected narrow(part: Query): void {
    if (!this.isList()) this.settings.view.set('sheet');
    this.searchFor(combine('all', [this.tree(), part]));
  }

  protected stepToLifted(backwards: boolean): void {
    this.store.dispatch(libraryActions.stepToLifted({ backwards }));
  }

  protected toggleBeside(what: Beside): void {
    this.settings.beside.update((shown) => (shown === what ? null : what));
  }

  protected toggleFlagged(): void {
    const others = partsOf(this.tree()).filter((part) => !isFlagged(part));
    this.searchFor(combine('all', this.onlyFlagged() ? others : [...others, FLAGGED]));
  }

  protected searchFor(tree: Query): void {
    const q = printQuery(tree, this.fields.registry());
    void this.router.navigate(['/library'], { queryParams: q ? { q } : {} });
  }

  /** Step by step, in this list. While it is typed, each letter takes the place of the one before in the address. */
  protected narrowWithin({ tree, replaceUrl }: Narrowed): void {
    const text = printQuery(tree, this.fields.registry()) || null;
    const queryParams = this.fixed() ? { within: text } : { q: text };
    void this.router.navigate([], { queryParams, queryParamsHandling: 'merge', replaceUrl });
  }

  protected show({ query, order }: Answer): void {
    this.sortBy(orderOf(order));
    void this.router.navigate(['/library'], { queryParams: query ? { q: query } : {} });
  }

  /** Puts assets of the bin before another of it, or at its end. */
  protected move(assetIds: readonly number[], before: number | null): void {
    const bin = this.handBin();
    if (bin === null) return;
    // At once, so that keys pressed quickly go on from it.
    this.store.dispatch(libraryActions.reordered({ ids: assetIds, before }));
    this.writes
      .inTurn(() => this.api.call('orderBin', { assetIds: [...assetIds], before }, bin))
      .subscribe({
        error: (failure: Failure) => {
          this.store.dispatch(libraryActions.wentStale());
          this.toasts.failed(`The order was not changed. ${failure.message}`);
        },
      });
  }

  /** Moves what is selected one place earlier or later. */
  private step(by: 1 | -1): boolean {
    const { sort, order } = this.state();
    if (sort.hand === undefined || !this.mayLog() || this.selected().size === 0) return false;
    const places = Object.entries(order)
      .filter(([, id]) => this.selected().has(id))
      .map(([place]) => Number(place));
    const ids = places.flatMap((place) => order[place] ?? []);
    if (ids.length === 0) return false;
    const target = by < 0 ? Math.max(0, Math.min(...places) - 1) : Math.max(...places) + 2;
    this.move(ids, order[target] ?? null);
    return true;
  }

  protected again(): void {
    this.store.dispatch(libraryActions.tryAgain());
  }

  /** A tag was dropped on an asset: meant for the whole selection if it is one of it. */
  protected tag(name: string, id: number): void {
    this.tagThose(name, this.selected().has(id) ? [...this.selected()] : [id]);
  }

  protected tagThose(name: string, ids: readonly number[]): void {
    if (!mayOffer(this.person(), 'log')) return;
    this.store.dispatch(libraryActions.edit({ ids, change: { addTags: [name] }, label: `Tag “${name}” added` }));
  }

  protected say({
    set,
    ...asked
  }: {
    readonly ids: readonly number[];
    readonly set: FieldChanges;
    readonly label: string;
    readonly seen: number;
  }): void {
    this.store.dispatch(libraryActions.edit({ ...asked, change: { set } }));
  }

  protected paste(pasted: { readonly edits: EditEach['edits']; readonly label: string }): void {
    this.store.dispatch(libraryActions.editEach(pasted));
  }

  protected refuse(words: string): void {
    this.toasts.failed(words);
  }

  protected open(_asset: Asset): void {
    this.settings.details.set(true);
  }

  protected showAll(): void {
    void this.router.navigate(['/library']);
  }

  protected async keepAsBin(): Promise<void> {
    const query = this.query();
    const bin = await this.liveBins.keep({ name: query.slice(0, 60), query });
    if (bin) this.store.dispatch(binActions.kept({ bin }));
  }
}
