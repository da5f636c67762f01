import { ChangeDetectionStrategy, Component, computed, inject, input, output, resource, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { firstValueFrom, type Observable } from 'rxjs';
import { formatTimecode, typedPlace, wordTimecodeIssue } from '@larder/core/timecode';
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
          <button type="button" class="link cut" (click)="select(part.id)" title="Select it, to log it by itself">
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

  /** The ends as a person reads them: both inclusive, in the timecode of the whole. */
  protected readonly ends = computed(() => {
    const { inPlace, durationFrames, durationMs } = this.asset();
    const length = durationFrames ?? durationMs ?? 0;
    return [
      { which: 'in' as const, label: 'In', text: this.text(inPlace) },
      { which: 'out' as const, label: 'Last frame', text: this.text(inPlace + length - 1) },
    ];
  });

  /** The timecode of a place of the whole. */
  private text(place: number): string {
    const asset = this.asset();
    const counting = countingOf(asset);
    return counting
      ? formatTimecode((asset.startFrame ?? 0) - asset.inPlace + place, counting)
      : placeText(asset, place);
  }

  protected place(part: Asset): string {
    return placeText(this.asset(), part.inPlace);
  }

  protected select(id: number): void {
    this.store.dispatch(libraryActions.selectionFound({ ids: [id], anchor: -1, focus: -1 }));
  }

  protected move(which: 'in' | 'out', field: HTMLInputElement): void {
    const asset = this.asset();
    const counting = countingOf(asset);
    this.issue.set(null);
    if (!counting) return this.issue.set('The ends of a sound are moved by making it anew.');
    const length = asset.durationFrames ?? 0;
    const [start, end] = [asset.inPlace, asset.inPlace + length];
    const typed = typedPlace(field.value, counting, {
      start: (asset.startFrame ?? 0) - asset.inPlace,
      // How long the whole is, is the server's to say.
      length: Number.MAX_SAFE_INTEGER,
      now: which === 'in' ? start : end - 1,
    });
    if ('issue' in typed) return this.issue.set(wordTimecodeIssue(typed.issue));
    const range = which === 'in' ? { in: typed.frame, out: end } : { in: start, out: typed.frame + 1 };
    this.write(this.api.call('changeSubclip', range, asset.id), 'Subclip changed', () => {
      field.value = this.ends().find((each) => each.which === which)?.text ?? '';
    });
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
