import { computed, effect, inject, Injectable, linkedSignal } from '@angular/core';
import { Store } from '@ngrx/store';
import { array, number, object, string, type InferType } from 'yup';
import { LONGEST_QUERY } from '@larder/contract';
import { sessionFeature } from '../shared/session';

/** Beyond that many, nobody finds one again. */
export const MOST_ANSWERS = 12;

const answersSchema = object({
  all: array(object({ query: string().defined().max(LONGEST_QUERY), order: string().required().max(400) }).required())
    .min(1)
    .max(MOST_ANSWERS)
    .required(),
  at: number().integer().min(0).required(),
});
type Answers = InferType<typeof answersSchema>;

/** One of the answers that stand open side by side: a search, and the order of its list. */
export type Answer = Answers['all'][number];

const FIRST: Answers = { all: [{ query: '', order: 'name/up' }], at: 0 };
const keyOf = (personId: number): string => `neat-larder.answers.${personId}`;

function read(personId: number): Answers {
  try {
    const kept = answersSchema.validateSync(JSON.parse(localStorage.getItem(keyOf(personId)) ?? 'null'), {
      strict: true,
    });
    return kept.at < kept.all.length ? kept : FIRST;
  } catch {
    // Nothing was kept, or storage is forbidden or holds something else.
    return FIRST;
  }
}

/**
 * The answers that somebody has open side by side. The one that is looked at follows the search line. Several are kept in the browser,
 * for whoever is signed in; a single one is what the address says.
 */
@Injectable({ providedIn: 'root' })
export class OpenAnswers {
  private readonly person = inject(Store).selectSignal(sessionFeature.selectPerson);
  private readonly answers = linkedSignal<number | null, Answers>({
    source: () => this.person()?.id ?? null,
    computation: (personId) => (personId === null ? FIRST : read(personId)),
  });
  readonly all = computed(() => this.answers().all);
  readonly at = computed(() => this.answers().at);
  readonly current = computed(() => this.all()[this.at()] as Answer);

  constructor() {
    effect(() => {
      const personId = this.person()?.id;
      const answers = this.answers();
      if (personId === undefined) return;
      try {
        if (answers.all.length > 1) localStorage.setItem(keyOf(personId), JSON.stringify(answers));
        else localStorage.removeItem(keyOf(personId));
      } catch {
        // Then they hold for this visit only.
      }
    });
  }

  /** The list is come to by an address: of those that are open, the one with that search; else it takes the place of none that was kept. */
  comesTo(query: string): Answer {
    const { all, at } = this.answers();
    const known = all[at]?.query === query ? at : all.findIndex((answer) => answer.query === query);
    if (known >= 0) this.answers.set({ all, at: known });
    else if (all.length > 1 && all.length < MOST_ANSWERS) this.open({ query, order: this.current().order });
    else this.asks(query);
    return this.current();
  }

  /** The one that is looked at has another search. */
  asks(query: string): void {
    this.change({ query });
  }

  orders(order: string): void {
    this.change({ order });
  }

  private change(changes: Partial<Answer>): void {
    this.answers.update(({ all, at }) => ({ all: all.with(at, { ...(all[at] as Answer), ...changes }), at }));
  }

  /** Opens another beside the one that is looked at, which is looked at from now on. */
  open(answer: Answer): void {
    this.answers.update(({ all, at }) => ({ all: all.toSpliced(at + 1, 0, answer), at: at + 1 }));
  }

  show(at: number): Answer {
    this.answers.update(({ all }) => ({ all, at }));
    return this.current();
  }

  /** Closes one; what is looked at then. */
  close(gone: number): Answer {
    this.answers.update(({ all, at }) => {
      const rest = all.toSpliced(gone, 1);
      return { all: rest, at: Math.max(0, Math.min(rest.length - 1, gone < at ? at - 1 : at)) };
    });
    return this.current();
  }
}
