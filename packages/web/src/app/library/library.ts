import { ChangeDetectionStrategy, Component, computed, effect, inject, input } from '@angular/core';
import { Router, RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import type { SortBy, SortOrder } from '@larder/core/search';
import type { FieldChanges, FieldId } from '@larder/core/fields';
import { parseQuery, wordQueryIssue } from '@larder/core/query';
import type { Asset, EditEach } from '@larder/contract';
import { binActions } from '../bins/state';
import { NameDialog } from '../shared/name-dialog';
import { counted, formatCount } from '../shared/format';
import { Fields } from '../shared/fields';
import { Icon } from '../shared/icon';
import { Keys } from '../shared/keys';
import { mayOffer, sessionFeature } from '../shared/session';
import { Settings } from '../shared/settings';
import { Toasts } from '../shared/toasts';
import { TagBoard } from '../tags/tag-board';
import { ContactSheet } from './contact-sheet';
import { Ledger } from './ledger';
import { LedgerColumns } from './ledger-columns';
import { libraryActions, type SelectMode } from './state/library.actions';
import { libraryFeature } from './state/library.reducer';
import { TableMenu } from './table-menu';

const SORTS: readonly { field: FieldId; descending: boolean; label: string }[] = [
  { field: 'name', descending: false, label: 'Name' },
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

/** An order as the value of a choice. */
const sortKeyOf = ({ then = [], ...first }: SortOrder): string =>
  [first, ...then].map(({ field, descending }) => `${field}/${descending ? 'down' : 'up'}`).join(' ');

/** The list of what a search found, as a contact sheet or a ledger. Bins show their contents with it too. */
@Component({
  selector: 'nl-library',
  imports: [ContactSheet, Icon, Ledger, LedgerColumns, RouterLink, TableMenu, TagBoard],
  templateUrl: './library.html',
  styleUrl: './library.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Library {
  /** From the address: what the search line says. */
  readonly q = input<string | undefined>('');
  /** A fixed search and its title, in place of the search line's. */
  readonly fixed = input<{ readonly query: string; readonly title: string } | null>(null);

  private readonly store = inject(Store);
  private readonly fields = inject(Fields);
  private readonly router = inject(Router);
  private readonly names = inject(NameDialog);
  private readonly toasts = inject(Toasts);
  protected readonly settings = inject(Settings);
  protected readonly state = this.store.selectSignal(libraryFeature.selectLibraryState);
  protected readonly assetAt = this.store.selectSignal(libraryFeature.selectAssetAt);
  protected readonly selected = this.store.selectSignal(libraryFeature.selectSelectedSet);
  private readonly person = this.store.selectSignal(sessionFeature.selectPerson);
  protected readonly revision = this.store.selectSignal(sessionFeature.selectRevision);
  protected readonly count = formatCount;

  protected readonly query = computed(() => this.fixed()?.query ?? this.q() ?? '');
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
  protected readonly said = computed(() => counted(this.total(), 'asset'));
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
      .filter(({ retired, id }) => !retired && !SORTS.some(({ field }) => field === id))
      .map(({ id, label }) => ({ label, key: sortKeyOf({ field: id, descending: false }) }));
    const known = [...usual, ...others].some(({ key }) => key === inUse.key);
    return [
      { label: 'Usual', of: usual },
      ...(known ? [] : [{ label: 'As the ledger is sorted', of: [inUse] }]),
      { label: 'By any field', of: others },
    ];
  });
  protected readonly stamp = computed(
    () =>
      `${this.state().shown} ${Object.values(this.state().pages).filter((page) => page === 'fresh').length} ${this.state().ids.length}`,
  );

  constructor() {
    const { fields } = this;
    let asked: string | null = null;
    effect(() => {
      const query = this.query();
      const { issues } = parseQuery(query, fields.registry());
      // A name may be one of the shop's fields, which are on their way.
      if (issues.length > 0 && !fields.known()) return;
      // Fields that become known change nothing of a question that was asked already.
      const asking = JSON.stringify([query, issues]);
      if (asking === asked) return;
      asked = asking;
      this.store.dispatch(libraryActions.queryChanged({ query, issues }));
    });
    const keys = inject(Keys);
    keys.on('list.all', () => this.store.dispatch(libraryActions.selectAll()));
    keys.on('list.view', () => this.settings.view.update((view) => (view === 'sheet' ? 'ledger' : 'sheet')));
    keys.on('escape', () => this.store.dispatch(libraryActions.clearSelection()));
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

  protected sortBy(sort: SortOrder): void {
    this.store.dispatch(libraryActions.sortChanged({ sort }));
  }

  protected chooseSort(key: string): void {
    const [first = { field: 'name', descending: false }, ...then] = key.split(' ').map((part): SortBy => {
      const [field, way] = part.split('/');
      return { field: field as FieldId, descending: way === 'down' };
    });
    this.sortBy(then.length > 0 ? { ...first, then } : first);
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
    const name = await this.names.ask({
      title: 'Keep this search as a live bin',
      label: 'Name of the bin',
      suggestion: query.slice(0, 60),
      action: 'Keep it',
    });
    if (name) this.store.dispatch(binActions.keep({ name, query }));
  }
}
