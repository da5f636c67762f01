import { inject, Injectable, signal } from '@angular/core';
import { valueText, type FieldChanges, type FieldRegistry } from '@larder/core/fields';
import { fieldValues, type Asset } from '@larder/contract';
import { Fields } from '../shared/fields';

/** What an asset says in fields that can be filled in, taken along to be said of others. */
export interface CopiedFields {
  readonly from: string;
  readonly set: FieldChanges;
  readonly tags: readonly string[];
}

const KEY = 'neat-larder.copied';

function read(): CopiedFields | null {
  try {
    const kept = JSON.parse(sessionStorage.getItem(KEY) ?? 'null') as Partial<CopiedFields> | null;
    return kept && typeof kept.from === 'string' && typeof kept.set === 'object' && Array.isArray(kept.tags)
      ? (kept as CopiedFields)
      : null;
  } catch {
    return null;
  }
}

/** What was copied last in this tab. */
@Injectable({ providedIn: 'root' })
export class CopiedStore {
  private readonly fields = inject(Fields);
  readonly copied = signal(read());

  copy(asset: Asset): CopiedFields {
    const values = fieldValues(asset);
    const set = Object.fromEntries(
      this.fields.registry().settable.flatMap(({ id }) => (values[id] === undefined ? [] : [[id, values[id]]])),
    ) as FieldChanges;
    const copied = { from: asset.title ?? asset.name, set, tags: asset.tags };
    this.copied.set(copied);
    try {
      sessionStorage.setItem(KEY, JSON.stringify(copied));
    } catch {
      // Then it is there until the page is left.
    }
    return copied;
  }
}

/** The fields that were copied, for a person to choose from; such as the library has no more are left out. */
export const choicesOf = ({ set, tags }: CopiedFields, registry: FieldRegistry) => [
  ...registry.settable
    .filter(({ id }) => set[id] !== undefined)
    .map(({ id, label, type }) => ({ id: id, label, text: valueText(set[id], type) })),
  ...(tags.length > 0 ? [{ id: 'tag' as const, label: 'Tags', text: tags.join(', ') }] : []),
];
