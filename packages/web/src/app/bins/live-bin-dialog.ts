import { ChangeDetectionStrategy, Component, computed, inject, Injectable, linkedSignal, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { NgbActiveModal, NgbModal } from '@ng-bootstrap/ng-bootstrap';
import { Store } from '@ngrx/store';
import { parseQuery, printQuery, wordQueryIssue, type Query } from '@larder/core/query';
import type { LiveBin } from '@larder/contract';
import { Criteria } from '../criteria/criteria';
import { Api, type Failure } from '../shared/api';
import { ask } from '../shared/ask';
import { askedAnew } from '../shared/asked-anew';
import { Fields } from '../shared/fields';
import { counted } from '../shared/format';
import { projects } from '../projects/state';
import { handBins } from './state';

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
            (focus)="id() === 0 && $any($event.target).select()"
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
        <div class="place">
          <div>
            <label class="form-label" for="live-bin-place">Stands in</label>
            <select id="live-bin-place" name="place" class="form-select" [(ngModel)]="place">
              <option value="">The live bins of the library</option>
              @for (group of places(); track group.label) {
                <optgroup [label]="group.label">
                  @for (each of group.of; track each.value) {
                    <option [value]="each.value">{{ each.name }}</option>
                  }
                </optgroup>
              }
            </select>
          </div>
          <div>
            <label class="form-label" for="live-bin-shared">Seen by</label>
            <select id="live-bin-shared" name="shared" class="form-select" [(ngModel)]="shared">
              <option [ngValue]="true">Everybody</option>
              <option [ngValue]="false">Only me</option>
            </select>
          </div>
        </div>
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
    .place {
      display: grid;
      grid-template-columns: 1fr 12rem;
      gap: 12px;
    }
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
  /** `bin/3`, `project/2`, or nothing for the top. */
  readonly place = signal('');
  readonly shared = signal(true);
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
  private readonly store = inject(Store);
  private readonly handState = this.store.selectSignal(handBins.select);
  private readonly projectState = this.store.selectSignal(projects.select);
  protected readonly places = computed(() =>
    [
      {
        label: 'Bins',
        of: (this.handState().value?.bins ?? []).map(({ id, path }) => ({ value: `bin/${id}`, name: path })),
      },
      {
        label: 'Projects',
        of: (this.projectState().value?.projects ?? []).map(({ id, name }) => ({ value: `project/${id}`, name })),
      },
    ].filter(({ of }) => of.length > 0),
  );
  private readonly found = askedAnew(this.readable, (query) => this.api.call('search', { query, limit: 0 }));
  protected readonly fits = computed(() => {
    const answer = this.found.value();
    return this.found.failure() ?? (answer ? `${counted(answer.found, 'asset')} now.` : '');
  });

  constructor() {
    this.store.dispatch(handBins.wanted());
    this.store.dispatch(projects.wanted());
  }

  protected write(tree: Query): void {
    this.query.set(printQuery(tree, this.registry()));
  }

  /** Stays open, with what was written, where it was refused. */
  protected done(): void {
    const [name, query] = [this.name().trim(), this.query().trim()];
    if (!name || !query || this.issue()) return;
    const [kind, of] = this.place().split('/');
    const bin = {
      ...{ name, query, shared: this.shared() },
      parentId: kind === 'bin' ? Number(of) : null,
      projectId: kind === 'project' ? Number(of) : null,
    };
    const written = this.id() === 0 ? this.api.call('newLiveBin', bin) : this.api.call('changeLiveBin', bin, this.id());
    written.subscribe({
      next: (kept) => this.modal.close(kept),
      error: ({ message }: Failure) => this.refused.set(message),
    });
  }
}

@Injectable({ providedIn: 'root' })
export class LiveBinDialog {
  private readonly modals = inject(NgbModal);

  /** Keeps a search under a name, or changes one that is kept: as it is then, or null if the person thought better of it. */
  keep(bin: Pick<LiveBin, 'name' | 'query'> & Partial<LiveBin>): Promise<LiveBin | null> {
    const { id = 0, name, query, parentId = null, projectId = null, shared = true } = bin;
    return ask<LiveBinForm, LiveBin>(
      this.modals,
      LiveBinForm,
      { ariaLabelledBy: 'live-bin-title', size: 'lg' },
      (form) => {
        form.id.set(id);
        form.name.set(name);
        form.query.set(query);
        form.shared.set(shared);
        form.place.set(parentId !== null ? `bin/${parentId}` : projectId !== null ? `project/${projectId}` : '');
      },
    );
  }
}
