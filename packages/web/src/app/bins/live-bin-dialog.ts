import { ChangeDetectionStrategy, Component, computed, inject, Injectable, linkedSignal, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { NgbActiveModal, NgbModal } from '@ng-bootstrap/ng-bootstrap';
import { parseQuery, printQuery, wordQueryIssue, type Query } from '@larder/core/query';
import type { LiveBin } from '@larder/contract';
import { Criteria } from '../criteria/criteria';
import { Api, type Failure } from '../shared/api';
import { ask } from '../shared/ask';
import { askedAnew } from '../shared/asked-anew';
import { Fields } from '../shared/fields';
import { counted } from '../shared/format';

/** A live bin's name and its search, as text and as criteria, with how much fits it. */
@Component({
  selector: 'nl-live-bin-form',
  imports: [Criteria, FormsModule],
  template: `
    <form (ngSubmit)="done()">
      <div class="modal-header">
        <h2 class="h5 m-0" id="live-bin-title">A live bin and its search</h2>
      </div>
      <div class="modal-body d-grid gap-3">
        <div>
          <label class="form-label" for="live-bin-name">Name of the bin</label>
          <input
            id="live-bin-name"
            name="name"
            class="form-control"
            maxlength="120"
            autocomplete="off"
            [ngModel]="name()"
            (ngModelChange)="name.set($event)"
            ngbAutofocus
          />
        </div>
        <div>
          <label class="form-label" for="live-bin-query">Search</label>
          <input
            id="live-bin-query"
            class="form-control mono"
            autocomplete="off"
            spellcheck="false"
            maxlength="2000"
            [value]="query()"
            [attr.aria-invalid]="issue() !== null"
            aria-describedby="live-bin-issue"
            (input)="query.set($any($event.target).value)"
          />
          <p id="live-bin-issue" class="m-0 mt-1 small" [class.wrong]="issue()" aria-live="polite">
            {{ issue() ?? fits() }}
          </p>
        </div>
        <nl-criteria [query]="readable()" (changed)="write($event)" />
        @if (refused(); as words) {
          <p class="m-0 wrong" role="alert">{{ words }}</p>
        }
      </div>
      <div class="modal-footer">
        <button type="button" class="btn btn-plain" (click)="modal.dismiss()">Cancel</button>
        <button
          type="submit"
          class="btn btn-primary"
          [disabled]="!name().trim() || !query().trim() || issue() !== null"
        >
          Save
        </button>
      </div>
    </form>
  `,
  styles: `
    nl-criteria {
      max-height: 40vh;
      overflow: auto;
      position: relative;
    }
    .wrong {
      color: var(--nl-bad);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
class LiveBinForm {
  protected readonly modal = inject(NgbActiveModal);
  private readonly registry = inject(Fields).registry;
  readonly id = signal(0);
  readonly name = signal('');
  readonly query = signal('');
  private readonly parsed = computed(() => parseQuery(this.query(), this.registry()));
  protected readonly issue = computed(() => {
    const [issue] = this.parsed().issues;
    return issue ? wordQueryIssue(issue) : null;
  });
  /** The last search that could be read: rows do not go while a quote is still open. */
  protected readonly readable = linkedSignal<string, string>({
    source: this.query,
    computation: (query, before) => (before && this.parsed().issues.length > 0 ? before.value : query),
  });
  protected readonly refused = signal<string | null>(null);
  private readonly api = inject(Api);
  private readonly found = askedAnew(this.readable, (query) => this.api.call('search', { query, limit: 0 }));
  protected readonly fits = computed(() => {
    const answer = this.found.value();
    return this.found.failure() ?? (answer ? `${counted(answer.found, 'asset')} now.` : '');
  });

  protected write(tree: Query): void {
    this.query.set(printQuery(tree, this.registry()));
  }

  /** Stays open, with what was written, where it was refused. */
  protected done(): void {
    const [name, query] = [this.name().trim(), this.query().trim()];
    if (!name || !query || this.issue()) return;
    this.api.call('changeLiveBin', { name, query }, this.id()).subscribe({
      next: () => this.modal.close(name),
      error: ({ message }: Failure) => this.refused.set(message),
    });
  }
}

@Injectable({ providedIn: 'root' })
export class LiveBinDialog {
  private readonly modals = inject(NgbModal);

  /** The name that it has now, or null if the person thought better of it. */
  change({ id, name, query }: Pick<LiveBin, 'id' | 'name' | 'query'>): Promise<string | null> {
    return ask<LiveBinForm, string>(
      this.modals,
      LiveBinForm,
      { ariaLabelledBy: 'live-bin-title', size: 'lg' },
      (form) => {
        form.id.set(id);
        form.name.set(name);
        form.query.set(query);
      },
    );
  }
}
