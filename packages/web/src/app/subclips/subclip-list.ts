import { ChangeDetectionStrategy, Component, computed, inject, input, output, resource, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { firstValueFrom, type Observable } from 'rxjs';
import { formatSoundTime, formatTimecode, typedSoundTime, typedPlace, wordTimecodeIssue } from '@larder/core/timecode';
import { countingOf, type Asset, type Written } from '@larder/contract';
import { libraryActions } from '../library/state/library.actions';
import { Api, type Failure } from '../shared/api';
import { callOf, durationOf, placeText } from '../shared/format';
import { Icon } from '../shared/icon';
import { Toasts } from '../shared/toasts';

/** The subclips of an asset; of a subclip, its whole and its ends. */
@Component({
  selector: 'nl-subclip-list',
  imports: [Icon],
  template: `
    @if (asset().parentId !== null) {
      <p class="m-0">
        Part of
        <button type="button" class="link" (click)="select(asset().parentId!)">{{ asset().parentName }}</button>
      </p>
      @if (!disabled()) {
        <div class="ends">
          @for (end of ends(); track end.which) {
            <label [for]="'subclip-' + end.which">{{ end.label }}</label>
            <input
              #field
              [id]="'subclip-' + end.which"
              class="form-control form-control-sm mono"
              autocomplete="off"
              [value]="end.text"
              (change)="move(end.which, field)"
              (keydown.enter)="field.blur()"
            />
          }
        </div>
        @if (issue(); as words) {
          <p class="bad small m-0" role="alert">{{ words }}</p>
        }
      }
    } @else {
      @for (part of parts(); track part.id) {
        <div class="part" [attr.data-subclip]="part.id">
          <button type="button" class="link mono small" (click)="gone.emit(part.inPlace)" title="Go there">
            {{ place(part) }}
          </button>
          <button
            type="button"
            class="link cut"
            dir="auto"
            (click)="select(part.id)"
            title="Select it, to log it by itself"
          >
            {{ call(part) }}
          </button>
          <span class="mono muted small">{{ duration(part) }}</span>
          @if (!disabled()) {
            <button type="button" class="btn btn-quiet btn-sm" (click)="remove(part)" aria-label="Remove the subclip">
              <nl-icon name="close" />
            </button>
          }
        </div>
      } @empty {
        <p class="muted small m-0"><kbd>I</kbd> <kbd>O</kbd> mark a stretch, <kbd>S</kbd> makes a subclip of it.</p>
      }
    }
  `,
  styleUrl: './subclip-list.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SubclipList {
  readonly asset = input.required<Asset>();
  readonly disabled = input(false);
  /** What the window has been told of. */
  readonly revision = input.required<number>();
  readonly gone = output<number>();
  private readonly store = inject(Store);
  private readonly api = inject(Api);
  private readonly toasts = inject(Toasts);
  protected readonly issue = signal<string | null>(null);
  protected readonly call = callOf;
  protected readonly duration = durationOf;
  private readonly answer = resource({
    params: () => ({ id: this.asset().id, whole: this.asset().parentId === null, revision: this.revision() }),
    loader: async ({ params }) =>
      params.whole ? (await firstValueFrom(this.api.call('subclips', null, params.id))).assets : [],
  });
  protected readonly parts = computed(() => (this.answer.hasValue() ? this.answer.value() : []));

  private readonly counting = computed(() => countingOf(this.asset()));
  private readonly length = computed(() => this.asset().durationFrames ?? this.asset().durationMs ?? 0);

  /** The ends as a person reads them: both inclusive, in the timecode of the whole; of a sound to the millisecond. */
  protected readonly ends = computed(() => {
    const { inPlace } = this.asset();
    // Sound has no last frame; it is heard up to where it ends.
    const [label, last] = this.counting() ? ['Last frame', 1] : ['Ends at', 0];
    return [
      { which: 'in' as const, label: 'In', text: this.text(inPlace) },
      { which: 'out' as const, label, text: this.text(inPlace + this.length() - last) },
    ];
  });

  private text(place: number): string {
    const [asset, counting] = [this.asset(), this.counting()];
    return counting
      ? formatTimecode((asset.startFrame ?? 0) - asset.inPlace + place, counting)
      : formatSoundTime(place);
  }

  protected place(part: Asset): string {
    return placeText(this.asset(), part.inPlace);
  }

  protected select(id: number): void {
    this.store.dispatch(libraryActions.selectionFound({ ids: [id], anchor: -1, focus: -1 }));
  }

  protected move(which: 'in' | 'out', field: HTMLInputElement): void {
    this.issue.set(null);
    const [start, end] = [this.asset().inPlace, this.asset().inPlace + this.length()];
    const typed = this.typed(which, field.value, start, end);
    if ('issue' in typed) return this.issue.set(typed.issue);
    const range = which === 'in' ? { in: typed.place, out: end } : { in: start, out: typed.place };
    this.write(this.api.call('changeSubclip', range, this.asset().id), 'Subclip changed', () => {
      field.value = this.ends().find((each) => each.which === which)?.text ?? '';
    });
  }

  /** A place of the whole; of an end the first that is outside. */
  private typed(
    which: 'in' | 'out',
    text: string,
    start: number,
    end: number,
  ): { readonly place: number } | { readonly issue: string } {
    const [asset, counting] = [this.asset(), this.counting()];
    if (!counting) {
      const place = typedSoundTime(text, which === 'in' ? start : end);
      return place === null
        ? { issue: 'That is no moment of a sound. Write 1:02.5 for a minute and two and a half seconds, or +0.5.' }
        : { place };
    }
    const typed = typedPlace(text, counting, {
      start: (asset.startFrame ?? 0) - asset.inPlace,
      // How long the whole is, is the server's to say.
      length: Number.MAX_SAFE_INTEGER,
      now: which === 'in' ? start : end - 1,
    });
    if ('issue' in typed) return { issue: wordTimecodeIssue(typed.issue) };
    return { place: which === 'in' ? typed.frame : typed.frame + 1 };
  }

  protected remove(part: Asset): void {
    this.write(this.api.call('removeSubclips', { ids: [part.id] }), null, () => undefined);
  }

  private write(done: Observable<Written>, label: string | null, failed: () => void): void {
    done.subscribe({
      next: (written) => {
        if (label) this.store.dispatch(libraryActions.edited({ ...written, label }));
        else this.toasts.done('The subclip is gone; its clip is as it was.');
      },
      error: (failure: Failure) => {
        this.issue.set(failure.message);
        failed();
      },
    });
  }
}
