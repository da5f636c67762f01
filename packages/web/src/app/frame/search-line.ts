import {
  ChangeDetectionStrategy,
  Component,
  computed,
  type ElementRef,
  inject,
  linkedSignal,
  signal,
  viewChild,
} from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { NavigationEnd, Router, RouterLink } from '@angular/router';
import { NgbTypeahead, type NgbTypeaheadSelectItemEvent } from '@ng-bootstrap/ng-bootstrap';
import { debounceTime, filter, map, merge, startWith, Subject, switchMap, type Observable } from 'rxjs';
import { parseQuery, taken } from '@larder/core/query';
import { Fields } from '../shared/fields';
import { formatCount } from '../shared/format';
import { Icon } from '../shared/icon';
import { Keys } from '../shared/keys';
import { Settings } from '../shared/settings';
import { SearchProposals, type Offer } from './search-proposals';

/** Proposals come when somebody pauses, not at each letter. */
const PAUSE_MS = 120;

/** Sections whose address says what the search line does; the first is come to from all others. */
const SEARCHED: readonly string[] = ['library', 'dialogue'];

/**
 * The one box in which every search is written. What is typed is the address, so a search can be sent to a colleague. What is
 * wrong with it is said by the list below, under `search-issue`.
 */
@Component({
  selector: 'nl-search-line',
  imports: [Icon, NgbTypeahead, RouterLink],
  template: `
    <div class="box" [class.wrong]="issue()" role="search">
      <nl-icon name="search" />
      <div class="field">
        <input
          #field
          id="search-line"
          type="text"
          spellcheck="false"
          autocomplete="off"
          [placeholder]="placeholder()"
          aria-label="Search the library"
          [value]="text()"
          [ngbTypeahead]="propose"
          #proposals="ngbTypeahead"
          [resultTemplate]="offered"
          [focusFirst]="false"
          container="body"
          popupClass="proposals"
          (selectItem)="take($event)"
          [attr.aria-invalid]="issue() !== null"
          aria-describedby="search-issue"
          (input)="write(field.value)"
          (keydown.escape)="leave($event)"
          (keydown.enter)="done($event)"
          (focus)="focused.set(true); began.next(field.value)"
          (click)="began.next(field.value)"
          (blur)="focused.set(false); offers.remember(field.value)"
        />
        <ng-template #offered let-offer="result">
          <span class="mono" dir="auto">{{ offer.proposal.insert }}</span>
          <span class="note" dir="auto">{{ note(offer) }}</span>
        </ng-template>
        @if (issue(); as wrong) {
          <!-- The same text in the same face, invisible but for a line under the characters at fault. -->
          <div class="under mono" aria-hidden="true">
            <span [textContent]="wrong.before"></span><u [textContent]="wrong.at"></u>
          </div>
        }
      </div>
      <button
        type="button"
        class="btn btn-quiet btn-sm"
        [class.active]="settings.criteria()"
        [attr.aria-pressed]="settings.criteria()"
        (click)="toggleCriteria()"
        title="Show the search as criteria (Shift W)"
        aria-label="Criteria"
      >
        <nl-icon name="criteria" />
      </button>
      <a class="btn btn-quiet btn-sm" routerLink="/how-to-search" title="How to search" aria-label="How to search">
        <nl-icon name="info" />
      </a>
      @if (text()) {
        <button
          type="button"
          class="btn btn-quiet btn-sm"
          (click)="write(''); field.focus()"
          aria-label="Clear the search"
        >
          <nl-icon name="close" />
        </button>
      } @else {
        <kbd title="Key to get here">/</kbd>
      }
    </div>
  `,
  styles: `
    :host {
      display: block;
      position: relative;
      min-width: 0;
    }
    .box {
      display: flex;
      align-items: center;
      gap: 8px;
      height: 36px;
      padding: 0 8px;
      background: var(--nl-paper);
      border: 1px solid var(--nl-line);
      border-radius: 4px;
    }
    .box:focus-within {
      border-color: var(--nl-accent);
      box-shadow: 0 0 0 2px var(--nl-accent-soft);
    }
    .wrong,
    .wrong:focus-within {
      border-color: var(--nl-bad);
      box-shadow: none;
    }
    .field {
      position: relative;
      flex: 1;
      min-width: 0;
    }
    input {
      width: 100%;
      border: 0;
      outline: 0;
      background: transparent;
      color: var(--nl-ink);
      font-family: var(--nl-mono);
      font-size: 14px;
      padding: 0;
    }
    input::placeholder {
      color: var(--nl-muted);
      font-family: var(--nl-sans);
    }
    .under {
      position: absolute;
      inset: 0;
      display: flex;
      font-size: 14px;
      line-height: 21px;
      white-space: pre;
      color: transparent;
      pointer-events: none;
      overflow: hidden;
    }
    u {
      text-decoration: underline wavy var(--nl-bad) 2px;
      text-underline-offset: 4px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SearchLine {
  private readonly router = inject(Router);
  private readonly fields = inject(Fields);
  protected readonly offers = inject(SearchProposals);
  /** Somebody came to the line: while it is empty, what they searched for before is proposed. */
  protected readonly began = new Subject<string>();
  private readonly field = viewChild.required<ElementRef<HTMLInputElement>>('field');
  private readonly proposals = viewChild.required<NgbTypeahead>('proposals');
  protected readonly settings = inject(Settings);
  protected readonly focused = signal(false);
  private readonly url = toSignal(
    this.router.events.pipe(
      filter((event) => event instanceof NavigationEnd),
      startWith(null),
      map(() => this.router.parseUrl(this.router.url)),
    ),
    { initialValue: this.router.parseUrl(this.router.url) },
  );
  private readonly section = computed(() => this.url().root.children['primary']?.segments[0]?.path ?? '');
  private readonly fromAddress = computed(() =>
    SEARCHED.includes(this.section()) ? String((this.url().queryParams as { q?: string }).q ?? '') : '',
  );
  /** What stands in the box: the address's search, until somebody types. */
  protected readonly text = linkedSignal(() => this.fromAddress());

  protected readonly placeholder = computed(() =>
    this.section() === 'dialogue'
      ? 'Narrow the files: shot:2026-05, tag:interview, people:wren, in:"Day one"'
      : 'Search: words, "a phrase", tag:dawn, kind:audio, duration>10s',
  );

  protected readonly issue = computed(() => {
    const text = this.text();
    const issue = parseQuery(text, this.fields.registry()).issues[0];
    return issue
      ? {
          before: text.slice(0, issue.at),
          at: text.slice(issue.at, issue.at + issue.length),
        }
      : null;
  });

  constructor() {
    const keys = inject(Keys);
    keys.on('criteria', () => this.toggleCriteria());
    keys.on('search', () => {
      this.field().nativeElement.focus();
      this.field().nativeElement.select();
    });
  }

  /** They stand above the list of the library. */
  protected toggleCriteria(): void {
    const there = this.router.url.startsWith('/library');
    this.settings.criteria.update((shown) => !shown || !there);
    if (!there) void this.router.navigate(['/library']);
  }

  protected write(text: string): void {
    this.text.set(text);
    // Each letter replaces the address, so that "back" leaves the search instead of spelling it backwards.
    const home = `/${SEARCHED.find((section) => this.router.url.startsWith(`/${section}`)) ?? SEARCHED[0]}`;
    const typing = this.router.url.startsWith(home);
    // In the dialogue section it narrows what is looked through, beside what that asks itself.
    const merge = home === '/dialogue' ? ({ queryParamsHandling: 'merge' } as const) : {};
    void this.router.navigate([home], { queryParams: { q: text || null }, replaceUrl: typing, ...merge });
  }

  protected readonly propose = (written: Observable<string>): Observable<readonly Offer[]> =>
    merge(written.pipe(debounceTime(PAUSE_MS)), this.began.pipe(filter((text) => text === ''))).pipe(
      switchMap((text) => this.offers.at(text, this.field().nativeElement.selectionStart ?? text.length)),
    );

  /** How many say it, or what the field is called. */
  protected note({ proposal: { insert, label, count } }: Offer): string {
    return count === null ? (insert === label ? '' : label) : formatCount(count);
  }

  protected take({ item, preventDefault }: NgbTypeaheadSelectItemEvent<Offer>): void {
    preventDefault();
    const input = this.field().nativeElement;
    const { begun, proposal } = item;
    const { text, caret } = begun
      ? taken(input.value, begun, proposal)
      : { text: proposal.insert, caret: proposal.insert.length };
    input.value = text;
    input.setSelectionRange(caret, caret);
    // As if it were typed: behind the name of a field come proposals of what is said in it. Not before the choice is done with,
    // which forgets what was asked meanwhile.
    queueMicrotask(() => input.dispatchEvent(new Event('input')));
  }

  protected done(event: Event): void {
    // The key may have chosen a proposal, or be about to.
    const input = this.field().nativeElement;
    if (!event.defaultPrevented && !input.getAttribute('aria-activedescendant')) input.blur();
  }

  protected leave(event: Event): void {
    event.stopPropagation();
    if (this.proposals().isPopupOpen()) this.proposals().dismissPopup();
    else this.field().nativeElement.blur();
  }
}
