import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { FIELD_GROUPS, GROUP_LABELS, type FieldId, type RegisteredField } from '@larder/core/fields';
import {
  CALENDAR_WORDS,
  conditionsFor,
  criterionIssue,
  takesValue,
  type Condition,
  type CriteriaGroup,
  type Criterion,
} from '@larder/core/query';
import { Fields } from '../shared/fields';
import { Icon } from '../shared/icon';
import { wordValue } from '../shared/shown-value';

const CONDITION_LABELS: Readonly<Record<Condition, string>> = {
  says: 'says',
  exactly: 'says exactly',
  begins: 'has a word that begins',
  ends: 'has a word that ends',
  holds: 'has the letters',
  is: 'is',
  less: 'is less than',
  most: 'is at most',
  more: 'is more than',
  least: 'is at least',
  between: 'is between',
  in: 'is in',
  younger: 'is less old than',
  older: 'is older than',
  near: 'is near',
  heard: 'is heard as',
  anything: 'says anything',
  nothing: 'says nothing',
};
const DATE_LABELS: Readonly<Partial<Record<Condition, string>>> = {
  is: 'is on',
  less: 'is before',
  most: 'is until',
  more: 'is after',
  least: 'is from',
};
const GROUP_WORDS = { all: 'All of these', any: 'Any of these', none: 'None of these' } as const;
/** What a value may look like, by the type of its field. */
const EXAMPLES: Readonly<Partial<Record<RegisteredField['type'], string>>> = {
  durationMs: '1m30s',
  bytes: '2GB',
  dateMs: '2026-05-12',
  number: '24',
  position: '50.4120,-3.5180,2km',
};

/** Rows and groups within one another, each of which may be changed or taken away. */
@Component({
  selector: 'nl-criteria-group',
  imports: [Icon],
  templateUrl: './criteria-group.html',
  styleUrl: './criteria.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class CriteriaGroupRows {
  readonly group = input.required<CriteriaGroup>();
  readonly nested = input(false);
  readonly changed = output<CriteriaGroup>();
  readonly removed = output();
  private readonly registry = inject(Fields).registry;
  protected readonly ways = (['all', 'any', 'none'] as const).map((id) => ({ id, label: GROUP_WORDS[id] }));
  protected readonly calendar = CALENDAR_WORDS;

  protected readonly fields = computed(() =>
    FIELD_GROUPS.map((id) => ({
      label: GROUP_LABELS[id],
      of: this.registry().all.filter((field) => field.group === id && !field.retired),
    })).filter(({ of }) => of.length > 0),
  );

  protected readonly parts = computed(() => {
    const registry = this.registry();
    return this.group().parts.map((part) => {
      if (part.kind === 'group') return { part, row: null } as const;
      const field = part.field === null ? null : (registry.byId(part.field) ?? null);
      const offered = conditionsFor(field);
      const conditions = offered.includes(part.condition) ? offered : [part.condition, ...offered];
      const row = {
        field,
        // A field that was retired is no choice any more, and stays where it is asked for.
        retired: field?.retired ? field : null,
        conditions: conditions.map((id) => ({ id, label: labelOf(id, field) })),
        entry: entryOf(part, field),
        example:
          EXAMPLES[part.condition === 'younger' || part.condition === 'older' ? 'text' : (field?.type ?? 'text')] ?? '',
        choices: field?.choices?.map((value) => ({ value, label: wordValue(field.id, value) })) ?? [],
        issue: criterionIssue(part, registry),
        bounds: part.value.split('..', 2),
      };
      return { part, row } as const;
    });
  });

  protected choose(at: number, row: Criterion, field: string): void {
    const known = field === '' ? null : (this.registry().byId(field) ?? null);
    const offered = conditionsFor(known);
    const condition = offered.includes(row.condition) ? row.condition : (offered[0] ?? 'says');
    // What was said of one field is seldom what is meant of another with other values.
    const value = entryOf({ ...row, condition }, known) === 'text' && condition === row.condition ? row.value : '';
    this.put(at, { ...row, field: known?.id ?? null, condition, value });
  }

  protected condition(at: number, row: Criterion, condition: Condition): void {
    const field = row.field === null ? null : (this.registry().byId(row.field) ?? null);
    const alike = entryOf(row, field) === entryOf({ ...row, condition }, field);
    this.put(at, { ...row, condition, value: alike ? row.value : '' });
  }

  protected bound(at: number, row: Criterion, which: 0 | 1, text: string): void {
    const bounds = [...row.value.split('..', 2), ''];
    bounds[which] = text.trim();
    const [from = '', to = ''] = bounds;
    this.put(at, { ...row, value: from === '' && to === '' ? '' : `${from}..${to}` });
  }

  protected say(at: number, row: Criterion, change: Partial<Criterion>): void {
    this.put(at, { ...row, ...change });
  }

  /** Enter is for the row alone, not for a form that it stands in; leaving the box says what was written. */
  protected leave(event: Event): void {
    event.preventDefault();
    (event.target as HTMLElement).blur();
  }

  protected put(at: number, part: Criterion | CriteriaGroup): void {
    this.emit(this.group().parts.map((each, index) => (index === at ? part : each)));
  }

  protected drop(at: number): void {
    this.emit(this.group().parts.filter((_part, index) => index !== at));
  }

  protected add(): void {
    this.emit([...this.group().parts, NEW]);
  }

  protected addGroup(): void {
    const of = this.group().of === 'any' ? 'all' : 'any';
    this.emit([...this.group().parts, { kind: 'group', of, parts: [NEW] }]);
  }

  protected way(of: CriteriaGroup['of']): void {
    this.changed.emit({ ...this.group(), of });
  }

  private emit(parts: CriteriaGroup['parts']): void {
    this.changed.emit({ ...this.group(), parts });
  }
}

const NEW: Criterion = {
  kind: 'criterion',
  field: null as FieldId | null,
  negated: false,
  condition: 'says',
  value: '',
};

const labelOf = (condition: Condition, field: RegisteredField | null): string =>
  (field?.type === 'dateMs' ? DATE_LABELS[condition] : undefined) ??
  (field?.choices && condition === 'says' ? 'is' : CONDITION_LABELS[condition]);

/** How a value is entered. */
function entryOf(
  { condition }: Criterion,
  field: RegisteredField | null,
): 'none' | 'choice' | 'calendar' | 'bounds' | 'text' {
  if (!takesValue(condition)) return 'none';
  if (condition === 'in') return 'calendar';
  if (condition === 'between') return 'bounds';
  return field?.choices && condition === 'says' ? 'choice' : 'text';
}
