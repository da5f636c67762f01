import { inject, Injectable } from '@angular/core';
import { fold, words } from '@larder/core/fields';
import {
  begunAt,
  parseQuery,
  proposedChoices,
  proposedFields,
  proposedValues,
  type Begun,
  type Proposal,
} from '@larder/core/query';
import { Store } from '@ngrx/store';
import { catchError, filter, forkJoin, map, of, take, type Observable } from 'rxjs';
import { Api } from '../shared/api';
import { Fields } from '../shared/fields';
import { serverSlice } from '../shared/server-slice';

/** As many as are taken in at a glance. */
const MOST = 8;
/** A single letter begins too many names of fields. */
const LEAST_OF_A_NAME = 2;

/** Of what somebody has begun to write, a few may be what they searched for before. */
const MOST_PAST = 3;

/** What whoever is signed in searched for before, the last one first. */
export const pastSearches = serverSlice('pastSearches', 'pastSearches', { entities: [] });

/** Something in place of what is begun, or in place of all (`begun` null): a search from before. */
export interface Offer {
  readonly begun: Begun | null;
  readonly proposal: Proposal;
}

const pastOffer = (query: string): Offer => ({
  begun: null,
  proposal: { insert: query, label: 'searched before', count: null },
});

/** What somebody who is writing a search may mean: names of fields, and what is said in them in the library. */
@Injectable({ providedIn: 'root' })
export class SearchProposals {
  private readonly api = inject(Api);
  private readonly fields = inject(Fields);
  private readonly store = inject(Store);
  private readonly before = this.store.selectSignal(pastSearches.select);

  /** What may come in place of what ends at the caret. */
  at(text: string, caret: number): Observable<readonly Offer[]> {
    if (text === '') return this.past().pipe(map((all) => all.slice(0, MOST).map(pastOffer)));
    const begun = begunAt(text, caret, this.fields.registry());
    if (!begun) return of([]);
    const proposed = this.proposed(begun).pipe(
      map((all) => all.filter(({ insert }) => insert !== begun.text).map((proposal): Offer => ({ begun, proposal }))),
    );
    if (begun.kind !== 'name' || caret < text.length || text.length < LEAST_OF_A_NAME) return proposed;
    const like = fold(text);
    return forkJoin([proposed, this.past()]).pipe(
      map(([offers, past]) => [
        ...offers,
        ...past
          .filter((query) => query !== text && fold(query).includes(like))
          .slice(0, MOST_PAST)
          .map(pastOffer),
      ]),
    );
  }

  /** A search that somebody was done with. */
  remember(text: string): void {
    const query = text.trim();
    if (
      query === '' ||
      query === this.before().value?.queries[0] ||
      parseQuery(query, this.fields.registry()).issues.length > 0
    )
      return;
    // Nothing is lost but a proposal.
    this.api
      .call('rememberSearch', { query })
      .subscribe({ next: () => this.store.dispatch(pastSearches.wanted()), error: () => undefined });
  }

  private past(): Observable<readonly string[]> {
    const { value, failure } = this.before();
    if (value === null || failure !== null) this.store.dispatch(pastSearches.wanted());
    return this.store.select(pastSearches.select).pipe(
      // After a failure nobody waits: it is asked again, for the next time.
      filter((said) => said.value !== null || said.failure !== null),
      take(1),
      map((said) => said.value?.queries ?? []),
    );
  }

  private proposed(begun: Begun): Observable<readonly Proposal[]> {
    const registry = this.fields.registry();
    const { kind, field, text, rest } = begun;
    if (kind !== 'value' || !field)
      return of(kind === 'name' && text.length < LEAST_OF_A_NAME ? [] : proposedFields(begun, registry, MOST));
    const known = proposedChoices(begun, MOST);
    if (known) return of(known);
    const said = words(text).join('-');
    // Something is near a place, by the names of those that have a position.
    const counted = field.type === 'position' ? 'place' : field.id;
    const placed = field.type === 'position' ? `has:${registry.nameOf(field.id)}` : '';
    const query = [rest, placed, said ? `${registry.nameOf(counted)}:${said}*` : ''].filter(Boolean).join(' ');
    return this.api.call('facet', { query, field: counted }).pipe(
      map(({ values }) => proposedValues(begun, values, MOST)),
      // Without them one writes it out; the list below says what is wrong.
      catchError(() => of([])),
    );
  }
}
