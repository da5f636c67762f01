import {
  ChangeDetectionStrategy,
  Component,
  computed,
  inject,
  input,
  linkedSignal,
  output,
  signal,
} from '@angular/core';
import { FormsModule } from '@angular/forms';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import type { ConformAnswer, ConformRequest, ListRead } from '@larder/contract';
import { Api, type Failure } from '../shared/api';
import { counted } from '../shared/format';
import { Icon } from '../shared/icon';
import { storages } from '../storage/state';
import { projects } from './state';

interface Known {
  readonly id: number;
}

/** Lists come anew with all that happens; what was chosen stays chosen while it is there, also that nothing is. */
function chosenOrFirst(
  now: readonly Known[],
  before?: { readonly source: readonly Known[]; readonly value: number | null },
) {
  const isChosen = before !== undefined && before.source.length > 0;
  return isChosen && (before.value === null || now.some(({ id }) => id === before.value))
    ? before.value
    : (now[0]?.id ?? null);
}

/** Makes a string-out of a cut list that was checked, with clips that the library has never seen to be found later. */
@Component({
  selector: 'nl-read-list',
  imports: [FormsModule, Icon, RouterLink],
  template: `
    @if (read(); as done) {
      <p class="m-0" data-test="read">
        Brought in as <a [routerLink]="['/string-outs', done.stringOutId]">{{ done.name }}</a>,
        {{ counted(done.items, 'clip') }}.
        @if (done.unseen > 0) {
          {{ done.unseen === 1 ? 'One' : done.unseen }} that the library has never seen
          {{ done.unseen === 1 ? 'is' : 'are' }} missing now, with reel and timecode.
          <a routerLink="/upkeep" [queryParams]="{ of: 'string-out', id: done.stringOutId, named: done.name }"
            ><nl-icon name="search" />&ngsp;Find {{ done.unseen === 1 ? 'it' : 'them' }}</a
          >
        }
      </p>
      @for (loss of done.losses; track $index) {
        <p class="m-0 small loss">{{ loss }}</p>
      }
    } @else {
      <form (ngSubmit)="bringIn()">
        <div>
          <label class="form-label" for="list-project">A string-out of it in</label>
          <select
            id="list-project"
            name="project"
            class="form-select form-select-sm"
            [ngModel]="projectId()"
            (ngModelChange)="projectId.set($event)"
          >
            @for (project of all(); track project.id) {
              <option [ngValue]="project.id">{{ project.name }}</option>
            }
          </select>
        </div>
        <div class="flex-fill">
          <label class="form-label" for="list-name">Name</label>
          <input
            id="list-name"
            name="name"
            class="form-control form-control-sm"
            maxlength="120"
            autocomplete="off"
            [ngModel]="name()"
            (ngModelChange)="name.set($event)"
          />
        </div>
        @if (unfit() > 0) {
          <div>
            <label class="form-label" for="list-storage" title="They are missing there, until their files are found"
              >Clips never seen are expected on</label
            >
            <select
              id="list-storage"
              name="storage"
              class="form-select form-select-sm"
              [ngModel]="expectedOn()"
              (ngModelChange)="expectedOn.set($event)"
            >
              @for (storage of there(); track storage.id) {
                <option [ngValue]="storage.id">{{ storage.name }}</option>
              }
              <option [ngValue]="null">nowhere: leave them out</option>
            </select>
          </div>
        }
        <button type="submit" class="btn btn-primary btn-sm" [disabled]="busy() || projectId() === null">
          <nl-icon name="cut" />Bring it in
        </button>
      </form>
      @if (all().length === 0) {
        <p class="m-0 muted small">To bring it in as a string-out, make a project first.</p>
      }
      @if (failed(); as words) {
        <p class="m-0" role="alert">{{ words }}</p>
      }
    }
  `,
  styles: `
    :host {
      display: block;
      margin: 6px 0 10px;
    }
    form {
      display: flex;
      flex-wrap: wrap;
      align-items: end;
      gap: 10px;
    }
    select {
      max-width: 260px;
    }
    .loss {
      overflow-wrap: anywhere;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ReadList {
  readonly report = input.required<ConformAnswer>();
  /** The list as it was checked. */
  readonly list = input.required<ConformRequest>();
  readonly broughtIn = output();
  private readonly api = inject(Api);
  private readonly store = inject(Store);
  private readonly storages = this.store.selectSignal(storages.select);
  private readonly projects = this.store.selectSignal(projects.select);
  protected readonly all = computed(() => this.projects().value?.projects ?? []);
  protected readonly there = computed(() =>
    (this.storages().value?.storages ?? []).filter(({ state }) => state === 'online'),
  );
  protected readonly unfit = computed(() => this.report().events.filter(({ words }) => words.length > 0).length);
  protected readonly projectId = linkedSignal<readonly Known[], number | null>({
    source: this.all,
    computation: chosenOrFirst,
  });
  protected readonly expectedOn = linkedSignal<readonly Known[], number | null>({
    source: this.there,
    computation: chosenOrFirst,
  });
  protected readonly name = linkedSignal(() => (this.report().title || this.list().fileName).slice(0, 120));
  /** Of another list nothing is read yet. */
  protected readonly read = linkedSignal<ConformAnswer, ListRead | null>({
    source: this.report,
    computation: () => null,
  });
  protected readonly failed = linkedSignal<ConformAnswer, string | null>({
    source: this.report,
    computation: () => null,
  });
  protected readonly busy = signal(false);
  protected readonly counted = counted;

  constructor() {
    this.store.dispatch(storages.wanted());
  }

  protected bringIn(): void {
    const projectId = this.projectId();
    if (projectId === null || this.busy()) return;
    this.busy.set(true);
    this.failed.set(null);
    const expectedOn = this.unfit() > 0 ? this.expectedOn() : null;
    this.api.call('readList', { ...this.list(), name: this.name().trim(), projectId, expectedOn }).subscribe({
      next: (done) => {
        this.busy.set(false);
        this.read.set(done);
        this.broughtIn.emit();
        this.store.dispatch(projects.wanted());
      },
      error: (failure: Failure) => {
        this.busy.set(false);
        this.failed.set(failure.message);
      },
    });
  }
}
