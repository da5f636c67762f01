import {
  ChangeDetectionStrategy,
  Component,
  type ElementRef,
  inject,
  input,
  output,
  signal,
  viewChild,
} from '@angular/core';
import { FormsModule } from '@angular/forms';
import { NgbTypeahead, type NgbTypeaheadSelectItemEvent } from '@ng-bootstrap/ng-bootstrap';
import { catchError, debounceTime, map, of, switchMap, type Observable } from 'rxjs';
import { fold, tagSchema } from '@larder/core/fields';
import { Api } from '../shared/api';
import { Icon } from '../shared/icon';

const SUGGESTIONS = 8;

/** The tags of what is selected, and a field to add one: what is typed is compared with the tags already in use. */
@Component({
  selector: 'nl-tag-field',
  imports: [FormsModule, Icon, NgbTypeahead],
  template: `
    <label class="form-label" for="field-tag">Tags</label>
    <div class="slips">
      @for (tag of tags(); track tag.name) {
        <span class="slip" [class.some]="!tag.all" [title]="tag.all ? '' : 'Only some of the selected have this tag'">
          <span class="cut">{{ tag.name }}{{ tag.all ? '' : ' (some)' }}</span>
          @if (!disabled()) {
            <button type="button" (click)="removed.emit(tag.name)" [attr.aria-label]="'Remove tag ' + tag.name">
              <nl-icon name="close" size="0.85em" />
            </button>
          }
        </span>
      }
    </div>
    <input
      id="field-tag"
      #field
      class="form-control form-control-sm"
      placeholder="Add a tag (T)"
      autocomplete="off"
      [disabled]="disabled()"
      [class.is-invalid]="issue()"
      [(ngModel)]="text"
      [ngbTypeahead]="suggest"
      [focusFirst]="false"
      container="body"
      (selectItem)="choose($event)"
      (keydown.enter)="add()"
      (keydown.escape)="leave()"
      (keydown.,)="add(); $event.preventDefault()"
    />
    @if (issue(); as words) {
      <div class="invalid-feedback d-block" role="alert">{{ words }}</div>
    }
  `,
  styles: `
    .slips {
      display: flex;
      flex-wrap: wrap;
      gap: 4px;
      margin-bottom: 4px;
    }
    .slips:empty {
      display: none;
    }
    .some {
      border-style: dashed;
      color: var(--nl-muted);
    }
    button {
      all: unset;
      display: inline-flex;
      cursor: pointer;
      padding: 2px;
      border-radius: 2px;
    }
    button:focus-visible {
      outline: 2px solid var(--nl-accent);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class TagField {
  readonly tags = input.required<readonly { name: string; all: boolean }[]>();
  readonly disabled = input(false);
  readonly added = output<string>();
  readonly removed = output<string>();
  protected readonly issue = signal<string | null>(null);
  protected text = '';
  private readonly api = inject(Api);
  private readonly field = viewChild.required<ElementRef<HTMLInputElement>>('field');

  /** Tags in use that begin with what is typed, or hold it; the most used first. */
  protected readonly suggest = (typed$: Observable<string>): Observable<string[]> =>
    typed$.pipe(
      debounceTime(80),
      switchMap((typed) => {
        const wanted = fold(typed.trim());
        if (!wanted) return of([]);
        const have = new Set(
          this.tags()
            .filter((tag) => tag.all)
            .map((tag) => fold(tag.name)),
        );
        return this.api.call('tags', null).pipe(
          map(({ tags }) => {
            const fitting = tags
              .map((tag) => tag.name)
              .filter((name) => fold(name).includes(wanted) && !have.has(fold(name)));
            return [
              ...fitting.filter((name) => fold(name).startsWith(wanted)),
              ...fitting.filter((name) => !fold(name).startsWith(wanted)),
            ].slice(0, SUGGESTIONS);
          }),
          catchError(() => of([])),
        );
      }),
    );

  protected choose(event: NgbTypeaheadSelectItemEvent<string>): void {
    event.preventDefault();
    this.put(event.item);
  }

  protected add(): void {
    if (this.text.trim()) this.put(this.text);
  }

  protected leave(): void {
    this.text = '';
    this.issue.set(null);
    this.field().nativeElement.blur();
  }

  private put(name: string): void {
    try {
      this.added.emit(tagSchema.validateSync(name));
      this.text = '';
      this.field().nativeElement.value = '';
      this.issue.set(null);
    } catch (error) {
      this.issue.set((error as Error).message);
    }
  }
}
