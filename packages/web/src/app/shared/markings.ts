import { computed, inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { MarkingRules, type Marking } from '@larder/core/markings';
import { fieldValues, type Asset } from '@larder/contract';
import { Fields } from './fields';
import { markingList } from './marking-list.state';

/** What assets are marked as, wherever they are shown. */
@Injectable({ providedIn: 'root' })
export class Markings {
  private readonly fields = inject(Fields);
  private readonly state = inject(Store).selectSignal(markingList.select);
  readonly all = computed(() => this.state().value?.markings ?? []);
  private readonly marked = computed(() => {
    const rules = new MarkingRules(this.all(), this.fields.registry());
    // Trying the rules on an asset once is enough for all the places that show it.
    const known = new WeakMap<Asset, { readonly marking: Marking | null }>();
    return (asset: Asset): Marking | null => {
      let found = known.get(asset);
      if (!found) known.set(asset, (found = { marking: rules.of({ values: fieldValues(asset) }) }));
      return found.marking;
    };
  });

  of(asset: Asset): Marking | null {
    return this.marked()(asset);
  }
}
