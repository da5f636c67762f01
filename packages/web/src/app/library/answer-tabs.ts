import { ChangeDetectionStrategy, Component, computed, inject, output, signal } from '@angular/core';
import { NgbDropdown, NgbDropdownMenu, NgbDropdownToggle } from '@ng-bootstrap/ng-bootstrap';
import { combined, isEverything, parseQuery, printQuery, WAYS_TO_COMBINE, type WayToCombine } from '@larder/core/query';
import { Fields } from '../shared/fields';
import { Icon } from '../shared/icon';
import { MOST_ANSWERS, OpenAnswers, type Answer } from './open-answers';

const WAY_LABELS: Readonly<Record<WayToCombine, string>> = {
  both: 'What is in both',
  either: 'What is in either',
  one: 'What is in one only',
  first: 'What is here only',
};

/** The answers that stand open side by side, to go from one to the other and to put two of them together. */
@Component({
  selector: 'nl-answer-tabs',
  imports: [Icon, NgbDropdown, NgbDropdownMenu, NgbDropdownToggle],
  template: `
    @if (answers.all().length > 1) {
      <div class="tabs" role="group" aria-label="Open answers">
        @for (answer of answers.all(); track $index) {
          <span class="tab" [class.active]="$index === answers.at()">
            <button
              type="button"
              class="name"
              [attr.aria-current]="$index === answers.at() ? 'true' : null"
              [title]="label(answer)"
              (click)="show($index)"
            >
              <span class="cut" dir="auto" [class.mono]="answer.query !== ''">{{ label(answer) }}</span>
            </button>
            <button type="button" class="close" (click)="close($index)" [title]="'Close ' + label(answer)">
              <nl-icon name="close" /><span class="visually-hidden">Close {{ label(answer) }}</span>
            </button>
          </span>
        }
      </div>
    }
    <button
      type="button"
      class="btn btn-quiet btn-sm"
      [disabled]="isFull()"
      (click)="open()"
      [title]="
        isFull()
          ? 'So many answers are open that one must be closed first'
          : 'Keep this answer open and go on beside it'
      "
      data-test="another-answer"
    >
      <nl-icon name="plus" /><span [class.visually-hidden]="answers.all().length > 1">Another answer</span>
    </button>
    @if (answers.all().length > 1) {
      <div ngbDropdown autoClose="outside" placement="bottom-end" #menu="ngbDropdown">
        <button type="button" class="btn btn-quiet btn-sm" ngbDropdownToggle>Combine</button>
        <div ngbDropdownMenu class="menu" aria-label="Put two answers together">
          @if (others().length > 0) {
            <label for="combine-with">This answer, and</label>
            <select
              id="combine-with"
              class="form-select form-select-sm"
              (change)="other.set(+$any($event.target).value)"
            >
              @for (each of others(); track each.at) {
                <option [value]="each.at" [selected]="each.at === chosen()">{{ each.label }}</option>
              }
            </select>
            @for (way of ways; track way.id) {
              <button
                type="button"
                class="btn btn-plain btn-sm"
                [disabled]="isFull()"
                (click)="combine(way.id); menu.close()"
              >
                {{ way.label }}
              </button>
            }
            <p class="small muted">
              {{
                isFull()
                  ? 'Close an answer first: this would be one more.'
                  : 'It opens beside them, as a search of its own.'
              }}
            </p>
          } @else {
            <p class="small muted">The whole library can be put together with nothing. Search for something first.</p>
          }
        </div>
      </div>
    }
  `,
  host: { '[class.several]': 'answers.all().length > 1' },
  styles: `
    :host {
      display: flex;
      align-items: center;
      gap: 4px;
      min-width: 0;
    }
    .tabs {
      display: flex;
      flex: 0 1 auto;
      gap: 4px;
      min-width: 0;
    }
    .tab {
      display: flex;
      flex: 0 1 200px;
      min-width: 44px;
      align-items: center;
      border: 1px solid var(--nl-line);
      border-radius: 3px;
      font-size: 0.8125rem;
    }
    .tab.active {
      border-color: var(--nl-accent);
      background: var(--nl-accent-soft);
    }
    .tab button {
      border: 0;
      background: none;
      color: inherit;
      height: 28px;
    }
    .name {
      flex: 1;
      min-width: 0;
      padding: 0 0 0 8px;
      text-align: left;
    }
    .name .cut {
      display: block;
    }
    .close {
      flex: none;
      width: 24px;
      color: var(--nl-muted);
    }
    .close:hover {
      color: var(--nl-bad);
    }
    .btn {
      flex: none;
    }
    .menu {
      width: 280px;
      padding: 12px;
    }
    .menu.show {
      display: grid;
      gap: 6px;
    }
    .menu p {
      margin: 0;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class AnswerTabs {
  /** An answer to be looked at. */
  readonly shown = output<Answer>();
  protected readonly answers = inject(OpenAnswers);
  private readonly registry = inject(Fields).registry;
  protected readonly ways = WAYS_TO_COMBINE.map((id) => ({ id, label: WAY_LABELS[id] }));
  protected readonly isFull = computed(() => this.answers.all().length >= MOST_ANSWERS);
  protected readonly other = signal(-1);
  private readonly tree = (answer: Answer) => parseQuery(answer.query, this.registry()).tree;
  /** Those that the one which is looked at can be put together with. */
  protected readonly others = computed(() =>
    isEverything(this.tree(this.answers.current()))
      ? []
      : this.answers
          .all()
          .map((answer, at) => ({ at, answer, label: this.label(answer) }))
          .filter(({ at, answer }) => at !== this.answers.at() && !isEverything(this.tree(answer))),
  );
  protected readonly chosen = computed(() => {
    const known = this.others().find(({ at }) => at === this.other());
    return (known ?? this.others()[0])?.at ?? -1;
  });

  protected label({ query }: Answer): string {
    return query.trim() || 'Whole library';
  }

  protected show(at: number): void {
    this.shown.emit(this.answers.show(at));
  }

  protected close(at: number): void {
    const before = this.answers.current();
    const now = this.answers.close(at);
    if (now !== before) this.shown.emit(now);
  }

  protected open(): void {
    this.answers.open(this.answers.current());
  }

  protected combine(way: WayToCombine): void {
    const other = this.answers.all()[this.chosen()];
    if (!other || this.isFull()) return;
    const { order } = this.answers.current();
    const tree = combined(this.tree(this.answers.current()), this.tree(other), way);
    const answer = { query: printQuery(tree, this.registry()), order };
    this.answers.open(answer);
    this.shown.emit(answer);
  }
}
