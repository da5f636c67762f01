import { computed, inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { FieldRegistry } from '@larder/core/fields';
import { serverSlice } from './server-slice';

/** The shop's own fields, as the server has them. */
export const shopFields = serverSlice('shopFields', 'fields', { entities: ['field'] });

/** All fields of the library; those built in until the server has said which there are besides. */
@Injectable({ providedIn: 'root' })
export class Fields {
  private readonly state = inject(Store).selectSignal(shopFields.select);
  readonly registry = computed(() => new FieldRegistry(this.state().value?.fields ?? []));
  /** The server has been asked: a name that is unknown now stays unknown. */
  readonly known = computed(() => this.state().value !== null || this.state().failure !== null);
}
