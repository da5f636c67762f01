import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { Store } from '@ngrx/store';
import type { Observable } from 'rxjs';
import type { Marking } from '@larder/core/markings';
import { Api, type Failure } from '../shared/api';
import { Icon } from '../shared/icon';
import { markingList } from '../shared/marking-list.state';
import { mayOffer, sessionFeature } from '../shared/session';
import { Toasts } from '../shared/toasts';
import { MarkingDialog } from './marking-dialog';

/** Colours with names: what they are called, and which assets have them by themselves. */
@Component({
  selector: 'nl-marking-list',
  imports: [Icon],
  template: `
    <div class="head">
      <h2>Markings</h2>
      @if (mayKeep()) {
        <button type="button" class="btn btn-plain btn-sm" (click)="add()"><nl-icon name="plus" />Add a marking</button>
      }
    </div>
    @if (failed()) {
      <p class="m-0" role="alert">The markings cannot be shown just now.</p>
    }
    @for (marking of all(); track marking.id; let first = $first, last = $last) {
      <div class="line" [attr.data-marking]="marking.name">
        <div class="what">
          <span class="mark" [attr.data-colour]="marking.colour"><i></i>{{ marking.name }}</span>
          <div class="muted small cut" [title]="marking.rule">
            @if (marking.rule) {
              by itself: <span class="mono">{{ marking.rule }}</span>
            } @else {
              only by hand
            }
          </div>
        </div>
        @if (mayKeep()) {
          <button
            type="button"
            class="btn btn-quiet btn-sm"
            [disabled]="first"
            (click)="move(marking, -1)"
            [attr.aria-label]="marking.name + ' one earlier'"
          >
            <nl-icon name="up" />
          </button>
          <button
            type="button"
            class="btn btn-quiet btn-sm"
            [disabled]="last"
            (click)="move(marking, 1)"
            [attr.aria-label]="marking.name + ' one later'"
          >
            <nl-icon name="down" />
          </button>
          <button type="button" class="btn btn-quiet btn-sm" (click)="change(marking)">Change</button>
          <button
            type="button"
            class="btn btn-quiet btn-sm"
            (click)="remove(marking)"
            title="Takes it off everything that has it. The assets stay."
          >
            Remove
          </button>
        }
      </div>
    } @empty {
      <p class="muted m-0">
        None yet. A marking is a colour with a name, such as “For the trailer”: put on by hand, or by a rule, and shown
        wherever the clip is.
      </p>
    }
    @if (all().length > 1) {
      <p class="muted small m-0">By hand comes first; then the first of these whose rule fits.</p>
    }
  `,
  styleUrl: './words.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class MarkingList {
  private readonly api = inject(Api);
  private readonly toasts = inject(Toasts);
  private readonly dialog = inject(MarkingDialog);
  private readonly store = inject(Store);
  private readonly state = this.store.selectSignal(markingList.select);
  private readonly person = this.store.selectSignal(sessionFeature.selectPerson);
  protected readonly mayKeep = computed(() => mayOffer(this.person(), 'keep'));
  protected readonly all = computed(() => this.state().value?.markings ?? []);
  protected readonly failed = computed(() => this.state().failure !== null);

  protected async add(): Promise<void> {
    const marking = await this.dialog.ask(null);
    if (marking) this.tell(this.api.call('newMarking', marking), `The marking “${marking.name}” is there.`);
  }

  protected async change(known: Marking): Promise<void> {
    const marking = await this.dialog.ask(known);
    if (marking)
      this.tell(this.api.call('changeMarking', marking, known.id), `The marking “${marking.name}” is changed.`);
  }

  protected remove({ id, name }: Marking): void {
    this.tell(this.api.call('removeMarking', null, id), `The marking “${name}” is gone.`);
  }

  protected move({ id }: Marking, by: -1 | 1): void {
    const ids = this.all().map((marking) => marking.id);
    const at = ids.indexOf(id);
    ids.splice(at, 1);
    ids.splice(at + by, 0, id);
    this.tell(this.api.call('orderMarkings', { ids }), null);
  }

  private tell(done: Observable<unknown>, words: string | null): void {
    done.subscribe({
      next: () => {
        this.store.dispatch(markingList.wanted());
        if (words) this.toasts.done(words);
      },
      error: (failure: Failure) => this.toasts.failed(failure.message),
    });
  }
}
