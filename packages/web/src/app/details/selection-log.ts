import { computed, effect, inject, Injectable, untracked } from '@angular/core';
import { Store } from '@ngrx/store';
import { Subject } from 'rxjs';
import { valueText, type SettableField, type SetValue, type SettableFieldId, type Verdict } from '@larder/core/fields';
import { markersHit, type NewMarker } from '@larder/core/markers';
import { parseQuery } from '@larder/core/query';
import { fieldValues, type PosterWay } from '@larder/contract';
import { pullActions } from '../frame/pull.state';
import { libraryActions, type EditChange } from '../library/state/library.actions';
import { libraryFeature } from '../library/state/library.reducer';
import { markerActions, markersFeature } from '../markers/state';
import { Api, type Failure } from '../shared/api';
import { Fields } from '../shared/fields';
import { callOf, counted, placeText } from '../shared/format';
import { VERDICT_LABELS } from '../shared/icons';
import { Keys } from '../shared/keys';
import { Marked, NO_MARKS } from '../shared/marked';
import { mayOffer, sessionFeature } from '../shared/session';
import { Settings } from '../shared/settings';
import { Toasts } from '../shared/toasts';
import { WantedHit } from '../shared/wanted-hit';
import { Writes } from '../shared/writes';
import type { FieldSaved, Shared } from './field-edit';

const toggled = (groups: readonly string[], group: string): string[] =>
  groups.includes(group) ? groups.filter((each) => each !== group) : [...groups, group];

/** What each way to choose a poster frame is called. */
export const POSTER_LABELS: Readonly<Record<PosterWay, string>> = {
  frame: 'Poster frame: this one',
  'not-black': 'Poster frame: the first that is not black',
  start: 'Poster frame: the first',
  middle: 'Poster frame: the middle one',
  percent: 'Poster frame: at a percentage',
  library: 'Poster frame: as the library chooses',
};

/** As much of its clip's name as a subclip takes along. */
const SUBCLIP_NAME = 80;
const NOTHING_SAID: Shared<SetValue> = { same: true, value: null };

/** A field and what is said in it by what is selected. */
export interface ShownField {
  readonly field: SettableField;
  readonly said: Shared<SetValue>;
}

/** What all of some things say: the same, or not. */
export function sharedValue<From, T extends SetValue>(all: readonly From[], read: (one: From) => T): Shared<T> {
  const first = all[0];
  if (first === undefined) return { same: false };
  const value = read(first);
  return all.every((one) => valueText(read(one)) === valueText(value)) ? { same: true, value } : { same: false };
}

/** What is selected, what it says, and saying something else of it. Provided by each screen that logs. */
@Injectable()
export class SelectionLog {
  private readonly store = inject(Store);
  private readonly api = inject(Api);
  private readonly toasts = inject(Toasts);
  private readonly settings = inject(Settings);
  private readonly fields = inject(Fields);
  private readonly marked = inject(Marked);
  private readonly wanted = inject(WantedHit);
  private readonly writes = inject(Writes);
  private readonly person = this.store.selectSignal(sessionFeature.selectPerson);
  readonly revision = this.store.selectSignal(sessionFeature.selectRevision);
  readonly ids = this.store.selectSignal(libraryFeature.selectSelected);
  readonly assets = this.store.selectSignal(libraryFeature.selectSelectedAssets);
  readonly single = computed(() => (this.ids().length === 1 ? (this.assets()[0] ?? null) : null));
  private readonly singleId = computed(() => this.single()?.id ?? 0);
  readonly mayKeep = computed(() => mayOffer(this.person(), 'keep'));
  readonly mayLog = computed(() => mayOffer(this.person(), 'log'));
  readonly marks = this.marked.marks;
  readonly markers = this.store.selectSignal(markersFeature.selectMarkers);
  readonly query = this.store.selectSignal(libraryFeature.selectSearch);
  private readonly areThere = this.store.selectSignal(markersFeature.selectLoaded);
  private readonly markersOf = this.store.selectSignal(markersFeature.selectAssetId);
  /** The markers in which the search found something, in their order. */
  readonly hits = computed(() =>
    this.markersOf() === this.singleId()
      ? markersHit(parseQuery(this.query(), this.fields.registry()).tree, this.markers(), this.fields.registry())
      : [],
  );
  private readonly firstHit = computed(
    () => {
      const first = this.hits()[0];
      return first ? { place: first.start } : null;
    },
    // Markers that change elsewhere in the clip move nobody.
    { equal: (a, b) => a?.place === b?.place },
  );
  /** Where the clip is opened: at the hit that was chosen, whenever one is, or at the first. */
  readonly hit = computed((): { readonly place: number; readonly plays?: boolean } | null => {
    // With its markers the player has come to the clip too: one that is still at the last would be moved there.
    const isThere = this.markersOf() === this.singleId() && this.areThere();
    return (isThere ? this.wanted.placeIn(this.query(), this.singleId()) : null) ?? this.firstHit();
  });
  readonly hitIds = computed((): ReadonlySet<number | string> => new Set(this.hits().map(({ id }) => id)));
  /** A verdict was given, and was not taken back by it. */
  readonly verdictGiven = new Subject<void>();

  private readonly values = computed(() => this.assets().map(fieldValues));
  private readonly shared = computed(
    () =>
      Object.fromEntries(
        this.fields
          .registry()
          .settable.map(({ id }) => [id, sharedValue(this.values(), (values) => values[id] ?? null)]),
      ) as Record<SettableFieldId, Shared<SetValue>>,
  );
  /** The fields that are filled in, by their groups; verdict and tags have controls of their own. */
  readonly groups = computed(() =>
    this.fields
      .registry()
      .groups.map(({ id: group, label }) => {
        const fields = this.fields
          .registry()
          .settable.filter((field) => field.group === group && field.id !== 'verdict')
          .map((field) => ({ field, said: this.shared()[field.id] ?? NOTHING_SAID }))
          // A retired field is shown where something was said in it, and nowhere else.
          .filter(({ field, said }) => !field.retired || !said.same || said.value !== null);
        const filled = fields.filter(({ said }) => !said.same || said.value !== null).length;
        const pinned = this.settings.keptOpen().includes(group);
        return { group, label, fields, filled, pinned, open: pinned || !this.settings.folded().includes(group) };
      })
      .filter(({ fields }) => fields.length > 0)
      .sort((a, b) => Number(b.pinned) - Number(a.pinned)),
  );
  /** Tags that all have, and those that only some have. */
  readonly tags = computed(() => {
    const uses = new Map<string, number>();
    for (const asset of this.assets()) for (const tag of asset.tags) uses.set(tag, (uses.get(tag) ?? 0) + 1);
    return [...uses]
      .map(([name, number]) => ({ name, all: number === this.assets().length }))
      .sort((a, b) => (a.name < b.name ? -1 : 1));
  });

  constructor() {
    effect(() => {
      this.ids();
      untracked(() => this.marks.set(NO_MARKS));
    });
    effect(() => {
      const assetId = this.singleId();
      untracked(() => this.store.dispatch(markerActions.open({ assetId })));
    });
    const keys = inject(Keys);
    const verdict = (value: Verdict) => () => this.ids().length > 0 && this.mayLog() && void this.setVerdict(value);
    keys.on('log.circled', verdict('circled'));
    keys.on('log.hold', verdict('hold'));
    keys.on('log.ng', verdict('ng'));
    keys.on('list.pull', () => this.ids().length > 0 && this.pull());
  }

  labelOf(field: string): string {
    return this.fields.registry().labelOf(field);
  }

  /** A field by its id as it is shown now; undefined if the library has none of it. */
  fieldOf(id: string): ShownField | undefined {
    const field = this.fields.registry().settable.find((each) => each.id === id);
    return field && { field, said: this.shared()[field.id] ?? NOTHING_SAID };
  }

  fold(group: string): void {
    this.settings.folded.update((folded) => toggled(folded, group));
  }

  pin(group: string): void {
    this.settings.keptOpen.update((pinned) => toggled(pinned, group));
  }

  isVerdict(value: Verdict): boolean {
    const shared = this.shared().verdict;
    return shared.same && shared.value === value;
  }

  save({ field, value, seen }: FieldSaved): void {
    this.edit({ set: { [field]: value } }, `${this.labelOf(field)} changed`, seen);
  }

  setVerdict(value: Verdict): void {
    // The same key again takes the verdict back.
    const next = this.isVerdict(value) ? null : value;
    this.edit({ set: { verdict: next } }, next ? `Verdict ${VERDICT_LABELS[next].word}` : 'Verdict removed');
    if (next) this.verdictGiven.next();
  }

  addTag(name: string): void {
    this.edit({ addTags: [name] }, `Tag “${name}” added`);
  }

  removeTag(name: string): void {
    this.edit({ removeTags: [name] }, `Tag “${name}” removed`);
  }

  setMarker({ start, end, naming }: Pick<NewMarker, 'start' | 'end'> & { readonly naming: boolean }): void {
    const assetId = this.singleId();
    if (!this.mayLog() || assetId === 0) return;
    const marker: NewMarker = { kind: 'note', start, end, name: '', note: '', colour: 'none' };
    this.store.dispatch(markerActions.add({ assetId, marker, naming }));
    if (end !== null) this.marks.set(NO_MARKS);
  }

  /** Names the marked stretch of the clip; the name can be changed like any title. */
  makeSubclip(range: { readonly in: number; readonly out: number }): void {
    const asset = this.single();
    if (!this.mayLog() || !asset) return;
    const name = `${callOf(asset).slice(0, SUBCLIP_NAME)} ${placeText(asset, range.in)}`;
    this.writes
      .inTurn(() => this.api.call('newSubclip', { ...range, name }, asset.id))
      .subscribe({
        next: ({ id, ...written }) => {
          this.store.dispatch(libraryActions.edited({ ...written, label: 'Subclip made' }));
          this.marks.set(NO_MARKS);
          this.toasts.done(`Subclip “${name}” made.`, {
            label: 'Go to it',
            run: () => this.store.dispatch(libraryActions.selectionFound({ ids: [id], anchor: -1, focus: -1 })),
          });
        },
        error: (failure: Failure) => this.toasts.failed(`The subclip was not made. ${failure.message}`),
      });
  }

  /** Has what is selected shown by other frames; `frame` is where a single clip stands, `percent` how far in each is looked at. */
  setPosters(way: PosterWay, frame = 0, percent = 0): void {
    if (!this.mayLog() || this.ids().length === 0) return;
    this.writes
      .inTurn(() => this.api.call('posters', { assetIds: [...this.ids()], way, frame, percent }))
      .subscribe({
        next: (written) => {
          this.store.dispatch(libraryActions.edited({ ...written, label: POSTER_LABELS[way] }));
          if (written.changed === 1) this.toasts.done(`${POSTER_LABELS[way]}.`);
        },
        error: (failure: Failure) => this.toasts.failed(`The poster frame is as it was. ${failure.message}`),
      });
  }

  pull(): void {
    this.store.dispatch(pullActions.add({ assetIds: this.ids() }));
    this.toasts.done(`${counted(this.ids().length, 'asset')} put into the pull list.`);
  }

  edit(change: EditChange, label: string, seen?: number): void {
    this.store.dispatch(
      libraryActions.edit({ ids: this.ids(), change, label, ...(seen === undefined ? {} : { seen }) }),
    );
  }
}
