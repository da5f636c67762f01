import { inject, Injectable } from '@angular/core';
import { words } from '@larder/core/fields';
import {
  begunAt,
  proposedChoices,
  proposedFields,
  proposedValues,
  type Begun,
  type Proposal,
} from '@larder/core/query';
import { catchError, map, of, type Observable } from 'rxjs';
import { Api } from '../shared/api';
import { Fields } from '../shared/fields';

/** As many as are taken in at a glance. */
const MOST = 8;
/** A single letter begins too many names of fields. */
const LEAST_OF_A_NAME = 2;

export interface Offer {
  readonly begun: Begun;
  readonly proposal: Proposal;
}

/** What somebody who is writing a search may mean: names of fields, and what is said in them in the library. */
@Injectable({ providedIn: 'root' })
export class SearchProposals {
  private readonly api = inject(Api);
  private readonly fields = inject(Fields);

  /** What may come in place of what ends at the caret. */
  at(text: string, caret: number): Observable<readonly Offer[]> {
    const begun = begunAt(text, caret, this.fields.registry());
    if (!begun) return of([]);
    return this.proposed(begun).pipe(
      map((all) => all.filter(({ insert }) => insert !== begun.text).map((proposal): Offer => ({ begun, proposal }))),
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
    const query = [rest, said ? `${registry.nameOf(field.id)}:${said}*` : ''].filter(Boolean).join(' ');
    return this.api.call('facet', { query, field: field.id }).pipe(
      map(({ values }) => proposedValues(begun, values, MOST)),
      // Without them one writes it out; the list below says what is wrong.
      catchError(() => of([])),
    );
  }
}
