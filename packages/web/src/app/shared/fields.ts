import { computed, inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { FieldRegistry } from '@larder/core/fields';
import { markingList } from './marking-list.state';
import { serverSlice } from './server-slice';

/** The shop's own fields, as the server has them. */
export const shopFields = serverSlice('shopFields', 'fields', { entities: ['field'] });

/** All fields of the library; those built in until the server has said which there are besides. */
@Injectable({ providedIn: 'root' })
export class Fields {
  private readonly store = inject(Store);
  private readonly state = this.store.selectSignal(shopFields.select);
  private readonly markings = this.store.selectSignal(markingList.select);
  readonly registry = computed(
    () =>
      new FieldRegistry(
        this.state().value?.fields ?? [],
        this.markings().value?.markings.map(({ name }) => name) ?? [],
        this.state().value?.plain,
      ),
  );
  /** The server has been asked: a name that is unknown now stays unknown. */
  readonly known = computed(() => this.state().value !== null || this.state().failure !== null);
}
