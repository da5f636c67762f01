import {
  ChangeDetectionStrategy,
  Component,
  computed,
  type ElementRef,
  inject,
  input,
  output,
  signal,
  viewChild,
} from '@angular/core';
import {
  combine,
  EVERYTHING,
  isEverything,
  parseQuery,
  partsOf,
  printQuery,
  wordQueryIssue,
  type Query,
} from '@larder/core/query';
import { Fields } from '../shared/fields';
import { Icon } from '../shared/icon';
import { Keys } from '../shared/keys';

/** A search as it is to be, and whether it takes the place of the one before in the browser's history. */
export interface Narrowed {
  readonly tree: Query;
  readonly replaceUrl: boolean;
}

interface Step {
  readonly text: string;
  readonly part: Query;
}

/** What a list was narrowed by, step by step: each can be taken away, and what is found can be searched again. */
@Component({
  selector: 'nl-trail',
  imports: [Icon],
  template: `
    <label class="visually-hidden" for="within">Search within this list</label>
    <input
      #box
      id="within"
      class="form-control form-control-sm"
      type="text"
      spellcheck="false"
      autocomplete="off"
      placeholder="Search within this list"
      title="Narrows what is here further (Shift S)"
      [class.wrong]="issue() !== null"
      [attr.aria-invalid]="issue() !== null"
      aria-describedby="within-issue"
      [value]="text()"
      (input)="write(box.value)"
      (keydown.enter)="done()"
      (keydown.escape)="drop($event, box)"
      (blur)="done()"
    />
    @if (issue(); as words) {
      <span id="within-issue" class="issue small" role="status">{{ words }}</span>
    }
    @if (steps().length > 0) {
      <ol aria-label="What this list was narrowed by">
        @for (step of steps(); track $index) {
          <li>
            <span class="mono cut" dir="auto" [title]="step.text">{{ step.text }}</span>
            <button type="button" (click)="without($index)" [title]="'Without ' + step.text">
              <nl-icon name="close" /><span class="visually-hidden">Without {{ step.text }}</span>
            </button>
          </li>
        }
      </ol>
    }
    <ng-content />
  `,
  styles: `
    :host {
      display: flex;
      align-items: center;
      flex-wrap: wrap;
      gap: 6px;
      min-width: 0;
    }
    input {
      flex: none;
      width: 190px;
      font-family: var(--nl-mono);
    }
    input::placeholder {
      font-family: var(--nl-sans);
    }
    .wrong,
    .wrong:focus {
      border-color: var(--nl-bad);
      box-shadow: none;
    }
    .issue {
      color: var(--nl-bad);
    }
    ol {
      display: flex;
      flex-wrap: wrap;
      gap: 6px;
      min-width: 0;
      max-height: 66px;
      overflow: auto;
      margin: 0;
      padding: 0;
      list-style: none;
    }
    li {
      display: flex;
      align-items: center;
      min-width: 0;
      max-width: 320px;
      padding-left: 8px;
      border: 1px solid var(--nl-line);
      border-radius: 3px;
      background: var(--nl-paper);
      font-size: 0.8125rem;
    }
    li button {
      flex: none;
      display: grid;
      place-items: center;
      width: 24px;
      height: 26px;
      border: 0;
      background: none;
      color: var(--nl-muted);
    }
    li button:hover {
      color: var(--nl-bad);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Trail {
  /** What the list is narrowed by. */
  readonly tree = input.required<Query>();
  readonly narrowed = output<Narrowed>();
  private readonly registry = inject(Fields).registry;
  private readonly box = viewChild.required<ElementRef<HTMLInputElement>>('box');
  protected readonly text = signal('');
  /** What the list was narrowed by before somebody began to write here; null while nobody does. */
  private readonly base = signal<Query | null>(null);

  /** What is being written is no step yet. */
  protected readonly steps = computed((): readonly Step[] => {
    const tree = this.base() ?? this.tree();
    return isEverything(tree) ? [] : partsOf(tree).map((part) => ({ part, text: printQuery(part, this.registry()) }));
  });
  private readonly parsed = computed(() => parseQuery(this.text(), this.registry()));
  protected readonly issue = computed(() => {
    const issue = this.parsed().issues[0];
    return issue ? wordQueryIssue(issue) : null;
  });

  constructor() {
    inject(Keys).on('list.within', () => this.box().nativeElement.focus());
  }

  protected write(text: string): void {
    const base = this.base() ?? this.tree();
    this.base.set(base);
    this.text.set(text);
    // What cannot be read asks for nothing.
    const tree = this.issue() === null ? combine('all', [base, this.parsed().tree]) : base;
    this.narrowed.emit({ tree, replaceUrl: true });
  }

  /** What was written is a step of its own from here on. */
  protected done(): void {
    // Whatever else changes the search meanwhile is what it is narrowed from then.
    this.base.set(null);
    if (this.issue() === null) this.text.set('');
  }

  protected drop(event: Event, box: HTMLInputElement): void {
    event.stopPropagation();
    const base = this.base();
    if (base) this.narrowed.emit({ tree: base, replaceUrl: true });
    this.base.set(null);
    this.text.set('');
    box.blur();
  }

  protected without(at: number): void {
    this.base.set(null);
    this.text.set('');
    const rest = this.steps()
      .filter((_step, index) => index !== at)
      .map(({ part }) => part);
    this.narrowed.emit({ tree: rest.length > 0 ? combine('all', rest) : EVERYTHING, replaceUrl: false });
  }
}
