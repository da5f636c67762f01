import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import { NgbDropdown, NgbDropdownMenu, NgbDropdownToggle } from '@ng-bootstrap/ng-bootstrap';
import { saysSeveral, type FieldId, type FieldRegistry, type RegisteredField } from '@larder/core/fields';
import { choiceIn, parseQuery, printQuery, sameTest, withChoice, type Choice, type Query } from '@larder/core/query';
import type { FieldTest, SpanTest } from '@larder/core/query';
import type { Facet, Spread } from '@larder/core/search';
import { Api } from '../shared/api';
import { Fields } from '../shared/fields';
import { formatCount } from '../shared/format';
import { Icon } from '../shared/icon';
import { Settings } from '../shared/settings';
import { askedAnew } from '../shared/asked-anew';
import { barLabelOf, wordValue } from '../shared/shown-value';
import { SpreadChart } from './spread-chart';

/** Things said in a field that stand there without being asked for. */
const FEW = 6;
const MANY = 100;

interface Row {
  readonly label: string;
  /** How many assets would be found; null where that is no question. */
  readonly count: number | null;
  /** Null where no search can ask for it. */
  readonly test: FieldTest | null;
  readonly chosen: boolean;
  readonly refused: boolean;
}

interface Shown {
  readonly field: RegisteredField;
  readonly choice: Choice;
  readonly rows: readonly Row[];
  /** Something was found, and none of it says anything here. */
  readonly unsaid: boolean;
  readonly more: number;
  /** Whether several may be wanted of one asset. */
  readonly several: boolean;
  readonly folded: boolean;
  readonly expanded: boolean;
  /** How the numbers, dates or lengths of what was found are spread; null where there is nothing to tell apart. */
  readonly spread: Spread | null;
  readonly barLabel: (from: number, to: number) => string;
}

/** Beside a list: what is said in it, field by field, counted. What is chosen here stands in the search line, and the other way round. */
@Component({
  selector: 'nl-facets',
  imports: [Icon, NgbDropdown, NgbDropdownMenu, NgbDropdownToggle, SpreadChart],
  templateUrl: './facets.html',
  styleUrl: './facets.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Facets {
  readonly query = input.required<string>();
  readonly revision = input.required<number>();
  /** The search with another choice. */
  readonly narrowed = output<Query>();
  private readonly api = inject(Api);
  private readonly settings = inject(Settings);
  private readonly registry = inject(Fields).registry;
  private readonly expanded = signal<ReadonlySet<FieldId>>(new Set());
  /** How what was offered is spelled: a search knows its folded words only. */
  private readonly labels = new Map<string, string>();
  protected readonly count = formatCount;

  private readonly tree = computed(() => parseQuery(this.query(), this.registry()).tree);
  private readonly offered = computed(() => offeredBy(this.settings.facets(), this.registry()));
  private readonly open = computed(() => this.offered().filter(({ id }) => !this.settings.foldedFacets().includes(id)));
  private readonly asked = askedAnew(
    computed(() => ({
      query: this.query(),
      fields: this.open().map(({ id }) => id),
      limit: this.expanded().size > 0 ? MANY : FEW,
      spread: true,
      atLeast: this.revision(),
    })),
    (question) => this.api.call('facets', question),
  );
  protected readonly failure = this.asked.failure;
  protected readonly again = this.asked.again;
  protected readonly waiting = computed(() => this.asked.value() === null && this.failure() === null);
  protected readonly choosable = computed(() => {
    const on = new Set(this.offered().map(({ id }) => id));
    return this.registry()
      .all.filter(isOfferable)
      .map((field) => ({ field, on: on.has(field.id) }));
  });

  protected readonly shown = computed((): readonly Shown[] => {
    const counted = new Map(this.asked.value()?.facets.map((facet) => [facet.field, facet]));
    return this.offered().map((field) => {
      const choice = choiceIn(this.tree(), field.id);
      const expanded = this.expanded().has(field.id);
      const folded = this.settings.foldedFacets().includes(field.id);
      const facet = folded ? undefined : counted.get(field.id);
      return {
        field,
        choice,
        several: saysSeveral(field.type),
        folded,
        expanded,
        spread: facet?.spread && facet.spread.bars.length > 1 ? facet.spread : null,
        barLabel: barLabelOf(field, facet?.spread?.unit ?? null),
        ...this.rows(field, choice, facet, expanded),
      };
    });
  });

  private rows(
    field: RegisteredField,
    { chosen, refused }: Choice,
    facet: Facet | undefined,
    expanded: boolean,
  ): Pick<Shown, 'rows' | 'unsaid' | 'more'> {
    const within = (tests: readonly FieldTest[], test: FieldTest | null) =>
      test !== null && tests.some((each) => sameTest(each, test));
    const groups = facet?.groups ?? [];
    const rowOf = (test: FieldTest | null, label: string, count: number | null): Row => ({
      ...{ label, count, test },
      ...{ chosen: within(chosen, test), refused: within(refused, test) },
    });
    const rows = groups
      .map(({ label, count, test }) => rowOf(test, this.labelled(field, test, label), count))
      .filter((row, at) => expanded || at < FEW || row.chosen || row.refused);
    // What is asked for by hand in another way, or is not there any more, stands with the rest, so that it can be taken away.
    const others = [...chosen, ...refused].filter((test) => !rows.some((row) => row.test && sameTest(row.test, test)));
    const written = others.map((test) => rowOf(test, this.labelOf(field, test), null));
    const all = [...rows, ...written];
    const more = (facet?.more ?? 0) + groups.length - rows.length;
    // That nobody says anything in a field leaves nothing to choose.
    const empty = all.every(({ test, chosen: on }) => !on && test?.op === 'presence');
    return { rows: empty ? [] : all, unsaid: empty && all.length > 0, more };
  }

  private labelled(field: RegisteredField, test: FieldTest | null, label: string): string {
    const words = wordValue(field.id, label);
    if (test) this.labels.set(JSON.stringify([field.id, test]), words);
    return words;
  }

  private labelOf(field: RegisteredField, test: FieldTest): string {
    const known = this.labels.get(JSON.stringify([field.id, test]));
    if (known !== undefined) return known;
    const asked = printQuery({ kind: 'field', field: field.id, test }, this.registry());
    return test.op === 'whole' || (test.op === 'text' && field.choices && !test.prefix)
      ? wordValue(field.id, test.text)
      : asked;
  }

  protected choose({ field, choice }: Shown, { test, chosen, refused }: Row): void {
    if (!test) return;
    const without = (tests: readonly FieldTest[]) => tests.filter((each) => !sameTest(each, test));
    if (refused) return this.ask(field, { ...choice, refused: without(choice.refused) });
    this.ask(field, { ...choice, chosen: chosen ? without(choice.chosen) : [...choice.chosen, test] });
  }

  protected refuse({ field, choice }: Shown, { test, refused }: Row): void {
    if (!test) return;
    const without = (tests: readonly FieldTest[]) => tests.filter((each) => !sameTest(each, test));
    this.ask(field, {
      mode: choice.mode,
      chosen: without(choice.chosen),
      refused: refused ? without(choice.refused) : [...choice.refused, test],
    });
  }

  protected clear({ field }: Shown): void {
    this.ask(field, { mode: 'any', chosen: [], refused: [] });
  }

  protected switchMode({ field, choice }: Shown): void {
    this.ask(field, { ...choice, mode: choice.mode === 'any' ? 'all' : 'any' });
  }

  private ask(field: RegisteredField, choice: Choice): void {
    this.narrowed.emit(withChoice(this.tree(), field.id, choice));
  }

  /** A stretch takes the place of what was chosen before, in which it lies. */
  protected pick({ field, choice }: Shown, { from, to }: Pick<SpanTest, 'from' | 'to'>): void {
    this.ask(field, { mode: 'any', chosen: [{ op: 'span', from, to }], refused: choice.refused });
  }

  protected fold({ field }: Shown): void {
    this.settings.foldedFacets.update((ids) => toggled(ids, field.id));
  }

  protected expand({ field, expanded }: Shown): void {
    this.expanded.update((ids) => new Set(expanded ? [...ids].filter((id) => id !== field.id) : [...ids, field.id]));
  }

  protected offer(id: FieldId): void {
    this.settings.facets.set(
      toggled(
        this.offered().map((field) => field.id),
        id,
      ),
    );
  }
}

const toggled = <T>(all: readonly T[], one: T): readonly T[] =>
  all.includes(one) ? all.filter((each) => each !== one) : [...all, one];

// Of a long text hardly two say the same.
const isOfferable = ({ retired, unordered, type }: RegisteredField): boolean =>
  !retired && !unordered && type !== 'longText' && type !== 'position' && type !== 'url' && type !== 'timecode';

const offeredBy = (ids: readonly string[], registry: FieldRegistry): readonly RegisteredField[] =>
  ids.map((id) => registry.byId(id)).filter((field) => field !== undefined && isOfferable(field)) as RegisteredField[];
