import { ChangeDetectionStrategy, Component, computed, inject, Injectable, linkedSignal, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { NgbActiveModal, NgbModal } from '@ng-bootstrap/ng-bootstrap';
import { Store } from '@ngrx/store';
import { of, switchMap, type Observable } from 'rxjs';
import { COUNTING_IDS, type CountingId } from '@larder/core/timecode';
import type { StringOutFull } from '@larder/contract';
import { Api, type Failure } from '../shared/api';
import { ask } from '../shared/ask';
import { counted } from '../shared/format';
import { projects } from './state';

type StretchKind = 'hit' | 'passage';

/** A stretch of an asset, in milliseconds. */
interface Stretch {
  readonly assetId: number;
  readonly startMs: number;
  readonly endMs: number;
}

/** What is made of stretches, unless somebody says otherwise. */
interface StretchesAsked {
  readonly name: string;
  readonly what: StretchKind;
  readonly handlesS: number;
}

/** Stretches that go into a string-out at once. */
const MOST_STRETCHES = 2000;
const LONGEST_NAME = 120;

/** The pull list, or hits, become a string-out, in a project that exists or a new one. */
@Component({
  selector: 'nl-pull-form',
  imports: [FormsModule],
  template: `
    <form (ngSubmit)="make()">
      <div class="modal-header">
        <h2 class="h5 m-0" id="pull-title">Make a string-out of {{ what() }}</h2>
      </div>
      <div class="modal-body d-grid gap-2">
        <div>
          <label class="form-label" for="pull-project">Project</label>
          <select
            id="pull-project"
            name="project"
            class="form-select"
            [ngModel]="projectId()"
            (ngModelChange)="projectId.set(+$event)"
          >
            @for (project of all(); track project.id) {
              <option [value]="project.id">{{ project.name }} ({{ project.counting }})</option>
            }
            <option [value]="0">A new project …</option>
          </select>
        </div>
        @if (projectId() === 0) {
          <div class="d-flex gap-2">
            <div class="flex-fill">
              <label class="form-label" for="pull-new">Name of the project</label
              ><input
                id="pull-new"
                name="projectName"
                class="form-control"
                [(ngModel)]="projectName"
                autocomplete="off"
                maxlength="120"
              />
            </div>
            <div>
              <label class="form-label" for="pull-rate">Rate</label
              ><select id="pull-rate" name="rate" class="form-select mono" [(ngModel)]="counting">
                @for (rate of rates; track rate) {
                  <option [value]="rate">{{ rate }}</option>
                }
              </select>
            </div>
          </div>
        }
        <div>
          <label class="form-label" for="pull-name">Name of the string-out</label
          ><input
            id="pull-name"
            name="name"
            class="form-control"
            [(ngModel)]="name"
            autocomplete="off"
            maxlength="120"
            ngbAutofocus
          />
        </div>
        @if (hits().length > 0) {
          <div>
            <label class="form-label" for="pull-handles">Before and after each {{ each() }}, in seconds</label
            ><input
              id="pull-handles"
              name="handles"
              type="number"
              min="0"
              max="600"
              step="any"
              class="form-control"
              [(ngModel)]="handlesS"
            />
          </div>
          <p class="muted small m-0">
            They go in as they are listed; those that run into each other become one, and what has no moving picture is
            left out.
          </p>
        } @else {
          <p class="muted small m-0">
            Clips go in whole and in the order of the pull list; what has no moving picture is left out.
          </p>
        }
        @if (issue(); as words) {
          <p class="m-0" role="alert">{{ words }}</p>
        }
      </div>
      <div class="modal-footer">
        <button type="button" class="btn btn-plain" (click)="modal.dismiss()">Cancel</button
        ><button type="submit" class="btn btn-primary" [disabled]="busy()">Make it</button>
      </div>
    </form>
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
class PullForm {
  protected readonly modal = inject(NgbActiveModal);
  private readonly api = inject(Api);
  private readonly store = inject(Store);
  readonly assetIds = signal<readonly number[]>([]);
  /** In place of whole assets, stretches of them. */
  readonly hits = signal<readonly Stretch[]>([]);
  /** What one of them is called. */
  readonly each = signal<StretchKind>('hit');
  private readonly state = this.store.selectSignal(projects.select);
  protected readonly all = computed(() => this.state().value?.projects ?? []);
  /** 0 for a new one; the newest project until somebody chooses. */
  protected readonly projectId = linkedSignal(computed(() => this.all()[0]?.id ?? 0));
  protected readonly rates = COUNTING_IDS;
  protected readonly busy = signal(false);
  protected readonly issue = signal<string | null>(null);
  protected projectName = '';
  protected counting: CountingId = '25';
  name = '';
  handlesS = 1;
  protected readonly what = computed(() =>
    this.hits().length > 0 ? counted(this.hits().length, this.each()) : counted(this.assetIds().length, 'asset'),
  );

  constructor() {
    this.store.dispatch(projects.wanted());
  }

  protected make(): void {
    if (!this.name.trim()) return this.issue.set('The string-out needs a name.');
    if (this.projectId() === 0 && !this.projectName.trim()) return this.issue.set('The project needs a name.');
    this.busy.set(true);
    const project: Observable<{ id: number }> =
      this.projectId() === 0
        ? this.api.call('newProject', { name: this.projectName.trim(), description: null, counting: this.counting })
        : of({ id: this.projectId() });
    project
      .pipe(
        switchMap(({ id }) =>
          this.api.call('newStringOut', {
            ...{ name: this.name.trim(), projectId: id },
            ...(this.hits().length > 0
              ? { parts: [...this.hits()], handlesMs: (this.handlesS ?? 0) * 1000 }
              : { assetIds: [...this.assetIds()] }),
          }),
        ),
      )
      .subscribe({
        next: (made) => this.modal.close(made),
        error: (failure: Failure) => {
          this.busy.set(false);
          this.issue.set(failure.message);
        },
      });
  }
}

@Injectable({ providedIn: 'root' })
export class PullDialog {
  private readonly modals = inject(NgbModal);

  /** The string-out that was made, or null. */
  ask(assetIds: readonly number[]): Promise<StringOutFull | null> {
    return ask(this.modals, PullForm, { ariaLabelledBy: 'pull-title' }, (form) => form.assetIds.set(assetIds));
  }

  /** As `ask`, of places where something was found. */
  askOf(hits: readonly Stretch[], { name, what, handlesS }: StretchesAsked): Promise<StringOutFull | null> {
    return ask(this.modals, PullForm, { ariaLabelledBy: 'pull-title' }, (form) => {
      form.hits.set(hits.slice(0, MOST_STRETCHES));
      form.each.set(what);
      form.name = name.slice(0, LONGEST_NAME);
      form.handlesS = handlesS;
    });
  }
}
