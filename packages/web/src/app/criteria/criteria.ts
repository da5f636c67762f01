import { ChangeDetectionStrategy, Component, computed, inject, input, linkedSignal, output } from '@angular/core';
import { criteriaOf, parseQuery, treeOfCriteria, type CriteriaGroup, type Query } from '@larder/core/query';
import { Fields } from '../shared/fields';
import { CriteriaGroupRows } from './criteria-group';

interface Draft {
  readonly rows: CriteriaGroup;
  /** The search that they ask for, as it compares. */
  readonly asks: string;
}

/** A search as rows of field, condition and value. Whatever is changed here is the search line's text at once, and the other way round. */
@Component({
  selector: 'nl-criteria',
  imports: [CriteriaGroupRows],
  template: `<nl-criteria-group [group]="draft().rows" (changed)="change($event)" />`,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Criteria {
  readonly query = input.required<string>();
  /** The search that the rows ask for now. */
  readonly changed = output<Query>();
  private readonly registry = inject(Fields).registry;
  private readonly tree = computed(() => parseQuery(this.query(), this.registry()).tree);

  /** Rows that are still being filled in ask for nothing, and stay while the search is what the others ask for. */
  protected readonly draft = linkedSignal<Query, Draft>({
    source: this.tree,
    computation: (tree, before) => {
      const asks = JSON.stringify(tree);
      if (before?.value.asks === asks) return before.value;
      const rows = criteriaOf(tree, this.registry());
      return { rows: rows.parts.length > 0 ? rows : { ...rows, parts: [FIRST] }, asks };
    },
  });

  protected change(rows: CriteriaGroup): void {
    const tree = treeOfCriteria(rows, this.registry());
    const [asks, before] = [JSON.stringify(tree), this.draft().asks];
    this.draft.set({ rows, asks });
    if (asks !== before) this.changed.emit(tree);
  }
}

/** A row to begin with. */
const FIRST = { kind: 'criterion', field: null, negated: false, condition: 'says', value: '' } as const;
