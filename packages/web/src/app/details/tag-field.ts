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
import { map, type Observable } from 'rxjs';
import { fold, tagSchema } from '@larder/core/fields';
import { foldTag, nearDoubles } from '@larder/core/tags';
import { Icon } from '../shared/icon';
import { Tags } from '../shared/tags';

const SUGGESTIONS = 8;

/** The tags of what is selected, and a field to add one: what is typed is compared with the tags already in use. */
@Component({
  selector: 'nl-tag-field',
  imports: [FormsModule, Icon, NgbTypeahead],
  template: `
    <label class="form-label" for="field-tag">Tags</label>
    <div class="slips">
      @for (tag of tags(); track tag.name) {
        <span
          class="slip"
          [class.some]="!tag.all"
          [attr.data-pattern]="patternOf(tag.name)"
          [title]="tag.all ? '' : 'Only some of the selected have this tag'"
        >
          <span class="cut" dir="auto">{{ tag.name }}{{ tag.all ? '' : ' (some)' }}</span>
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
      placeholder="Add a tag (T /)"
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
    @if (near(); as name) {
      <div class="near" role="alert">
        There is “{{ name }}” already.
        <button type="button" class="btn btn-plain btn-sm" (click)="take(name)">Use it</button>
        <span class="muted">Enter again adds yours.</span>
      </div>
    }
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
    .near {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 6px;
      margin-top: 4px;
      font-size: 0.85rem;
    }
    .some {
      border-style: dashed;
      color: var(--nl-muted);
    }
    .slip button {
      all: unset;
      display: inline-flex;
      cursor: pointer;
      padding: 2px;
      border-radius: 2px;
    }
    .slip button:focus-visible {
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
  protected readonly patternOf = (name: string): string => this.known.patternOf(name);
  private readonly known = inject(Tags);
  /** A tag that what was typed may be another spelling of. */
  protected readonly near = signal<string | null>(null);
  private readonly field = viewChild.required<ElementRef<HTMLInputElement>>('field');

  /** Tags that begin with what is typed, or hold it, by any of their words; the most used first. */
  protected readonly suggest = (typed$: Observable<string>): Observable<string[]> =>
    typed$.pipe(
      map((typed) => {
        const wanted = fold(typed.trim());
        this.near.set(null);
        if (!wanted) return [];
        const have = new Set(
          this.tags()
            .filter((tag) => tag.all)
            .map((tag) => foldTag(tag.name)),
        );
        const fitting = this.known
          .book()
          .tags.filter(({ name }) => !have.has(foldTag(name)))
          .toSorted((a, b) => b.uses - a.uses)
          .map(({ name, synonyms }) => ({ name, words: [name, ...synonyms].map(foldTag) }));
        const begins = fitting.filter(({ words }) => words.some((word) => word.startsWith(wanted)));
        const holds = fitting.filter((tag) => !begins.includes(tag) && tag.words.some((word) => word.includes(wanted)));
        return [...begins, ...holds].slice(0, SUGGESTIONS).map(({ name }) => name);
      }),
    );

  /** The tag that a word would be a second spelling of; null if it is a tag itself, or a word of its own. */
  private doubleOf(word: string): string | null {
    const { tags } = this.known.book();
    const folded = foldTag(word);
    if (tags.some(({ name, synonyms }) => [name, ...synonyms].some((each) => foldTag(each) === folded))) return null;
    const near = nearDoubles([...tags, { name: word, uses: -1 }]).find(({ merge }) => merge === word);
    return near?.keep ?? null;
  }

  protected choose(event: NgbTypeaheadSelectItemEvent<string>): void {
    event.preventDefault();
    this.put(event.item);
  }

  /** Puts on what was typed. A word that looks like a tag in another spelling is asked about first; Enter again keeps it. */
  protected add(): void {
    const word = this.text.trim();
    if (!word) return;
    const near = this.near() === null ? this.doubleOf(word) : null;
    if (near === null) return this.put(word);
    this.near.set(near);
  }

  protected take(name: string): void {
    this.put(name);
    this.field().nativeElement.focus();
  }

  protected leave(): void {
    this.text = '';
    this.issue.set(null);
    this.near.set(null);
    this.field().nativeElement.blur();
  }

  private put(name: string): void {
    try {
      this.added.emit(tagSchema.validateSync(name));
      this.text = '';
      this.field().nativeElement.value = '';
      this.issue.set(null);
      this.near.set(null);
    } catch (error) {
      this.issue.set((error as Error).message);
    }
  }
}
