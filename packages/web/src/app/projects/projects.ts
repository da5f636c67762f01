import { ChangeDetectionStrategy, Component, computed, inject, linkedSignal, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { COUNTING_IDS, type CountingId } from '@larder/core/timecode';
import type { ConformAnswer, ConformRequest, LiveBin } from '@larder/contract';
import { Api, type Failure } from '../shared/api';
import { counted, formatMoment } from '../shared/format';
import { Broken } from '../shared/broken';
import { Icon } from '../shared/icon';
import { NothingFits, quick, QuickBox } from '../shared/quick-box';
import { mayOffer, sessionFeature } from '../shared/session';
import { Toasts } from '../shared/toasts';
import { LiveBinsMenu } from '../bins/live-bins-menu';
import { bins } from '../bins/state';
import { ConformReportView } from './conform-report';
import { ReadList } from './read-list';
import { projects } from './state';

/** Every project with its string-outs, and checking a cut list that came back. */
@Component({
  selector: 'nl-projects',
  imports: [Broken, ConformReportView, FormsModule, Icon, LiveBinsMenu, NothingFits, QuickBox, ReadList, RouterLink],
  template: `
    <div class="page">
      <div class="page-head">
        <h1 class="plate">Projects</h1>
        <nl-quick-box label="In these projects" [(text)]="quick.text" />
        <span class="flex-fill"></span>
        <label class="form-label m-0" for="list-rate">Lists without a rate count at</label>
        <select id="list-rate" class="form-select form-select-sm mono rate" [(ngModel)]="listRate">
          @for (rate of rates; track rate) {
            <option [value]="rate">{{ rate }}</option>
          }
        </select>
        <label class="btn btn-plain m-0" tabindex="0" (keydown.enter)="picker.click()"
          ><nl-icon name="upload" />Check a cut list
          <input
            #picker
            type="file"
            class="visually-hidden"
            accept=".edl,.otio,.txt,.json"
            (change)="check(picker)"
            tabindex="-1"
          />
        </label>
        @if (mayCut()) {
          <button type="button" class="btn btn-plain" (click)="adding.set(!adding())">
            <nl-icon name="plus" />New project
          </button>
        }
      </div>

      @if (adding()) {
        <form class="card-paper new" (ngSubmit)="add()">
          <div class="flex-fill">
            <label class="form-label" for="project-name">Name</label
            ><input
              id="project-name"
              name="name"
              class="form-control"
              [(ngModel)]="name"
              autocomplete="off"
              maxlength="120"
            />
          </div>
          <div>
            <label class="form-label" for="project-rate">Rate</label
            ><select id="project-rate" name="rate" class="form-select mono" [(ngModel)]="counting">
              @for (rate of rates; track rate) {
                <option [value]="rate">{{ rate }}</option>
              }
            </select>
          </div>
          <button type="submit" class="btn btn-primary" [disabled]="!name.trim()">Make it</button>
          <button type="button" class="btn btn-plain" (click)="adding.set(false)">Cancel</button>
        </form>
      }
      @if (report(); as answer) {
        <section class="card-paper conform">
          <div class="d-flex">
            <h2 class="flex-fill">{{ list()?.fileName }}</h2>
            <button type="button" class="btn btn-quiet" (click)="report.set(null)" aria-label="Close the report">
              <nl-icon name="close" />
            </button>
          </div>
          @if (mayCut() && list(); as asked) {
            <nl-read-list [report]="answer" [list]="asked" (broughtIn)="isIn.set(true)" />
          }
          @if (!isIn()) {
            <nl-conform-report [report]="answer" />
          }
        </section>
      }
      @if (state().failure; as failure) {
        <p role="alert">{{ failure.message }}</p>
      }
      @for (project of shown(); track project.id) {
        <section class="card-paper project">
          <header>
            <h2 dir="auto">{{ project.name }}</h2>
            <span class="mono muted">{{ project.counting }}</span><span class="muted small text-nowrap"
              >{{ project.by ?? '' }}, {{ moment(project.createdMs) }}</span
            >
            <nl-broken of="project" [count]="project.broken" [id]="project.id" [named]="project.name" />
            @if (mayLog()) {
              <span class="flex-fill"></span><nl-live-bins-menu word="Live bins" [projectId]="project.id" />
            }
          </header>
          @if (project.description) {
            <p class="m-0 said" dir="auto" tabindex="0">{{ project.description }}</p>
          }
          <ul>
            @for (out of project.stringOuts; track out.id) {
              <li>
                <a [routerLink]="['/string-outs', out.id]"><nl-icon name="cut" />{{ out.name }}</a
                ><span class="muted small"
                  >{{ counted(out.items, 'clip') }}, last saved {{ moment(out.updatedMs) }}</span
                >&ngsp;<nl-broken of="string-out" [count]="out.broken" [id]="out.id" [named]="out.name" />
              </li>
            } @empty {
              <li class="muted">No string-outs yet. Put clips into the pull list and make one of them.</li>
            }
            @for (bin of liveIn(project.id); track bin.id) {
              <li>
                <a [routerLink]="['/bins', bin.id]"
                  ><nl-icon name="bins" /><span dir="auto">{{ bin.name }}</span></a
                ><span class="muted small"
                  >live bin, {{ counted(bin.count, 'asset') }}{{ bin.shared ? '' : ', seen only by you' }}</span
                >
              </li>
            }
          </ul>
        </section>
      } @empty {
        @if (all().length > 0) {
          <nl-nothing-fits [(text)]="quick.text" />
        } @else if (state().value) {
          <div class="nothing">
            <nl-icon name="cut" size="2em" />
            <h3>No projects yet</h3>
            <p>Pull clips with <kbd>P</kbd>, then make a string-out of the pull list; it asks for a project.</p>
          </div>
        }
      }
    </div>
  `,
  styles: `
    .rate {
      width: auto;
    }
    .new {
      display: flex;
      align-items: end;
      gap: 10px;
      padding: 12px;
      margin-bottom: 14px;
    }
    .project,
    .conform {
      padding: 14px 18px;
      margin-bottom: 14px;
    }
    header {
      display: flex;
      align-items: baseline;
      gap: 12px;
    }
    h2 {
      font-size: 1.1rem;
      margin: 0 0 4px;
    }
    /* Long ones are scrolled, so that the next project is not pushed off the screen. */
    .said {
      max-width: 90ch;
      max-height: 7.5em;
      position: relative;
      overflow: auto;
      white-space: pre-line;
      overflow-wrap: anywhere;
    }
    ul {
      list-style: none;
      margin: 8px 0 0;
      padding: 0;
    }
    li {
      display: flex;
      align-items: center;
      gap: 14px;
      padding: 4px 0;
      border-top: 1px solid var(--nl-line);
    }
    li a {
      display: inline-flex;
      align-items: center;
      gap: 7px;
      min-width: 260px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Projects {
  private readonly store = inject(Store);
  private readonly api = inject(Api);
  private readonly toasts = inject(Toasts);
  protected readonly state = this.store.selectSignal(projects.select);
  private readonly person = this.store.selectSignal(sessionFeature.selectPerson);
  protected readonly mayCut = computed(() => mayOffer(this.person(), 'cut'));
  protected readonly all = computed(() => this.state().value?.projects ?? []);
  protected readonly quick = quick();
  protected readonly shown = computed(() =>
    this.all().filter(({ id, name, description, by, stringOuts }) =>
      this.quick.fits()(
        ...[name, description, by],
        ...stringOuts.map((out) => out.name),
        ...this.liveIn(id).map((bin) => bin.name),
      ),
    ),
  );
  protected readonly rates = COUNTING_IDS;
  protected readonly report = signal<ConformAnswer | null>(null);
  /** What was said of a list that is in by now, holds no more. */
  protected readonly isIn = linkedSignal({ source: this.report, computation: () => false });
  protected readonly adding = signal(false);
  /** The list that is reported on. */
  protected readonly list = signal<ConformRequest | null>(null);
  protected readonly counted = counted;
  protected readonly moment = formatMoment;
  protected name = '';
  protected counting: CountingId = '25';
  protected listRate: CountingId = '25';

  private readonly live = this.store.selectSignal(bins.select);
  protected readonly mayLog = computed(() => mayOffer(this.person(), 'log'));

  constructor() {
    this.store.dispatch(projects.wanted());
    this.store.dispatch(bins.wanted());
  }

  protected liveIn(projectId: number): readonly LiveBin[] {
    return (this.live().value?.bins ?? []).filter((bin) => bin.projectId === projectId);
  }

  protected add(): void {
    this.api.call('newProject', { name: this.name.trim(), description: null, counting: this.counting }).subscribe({
      next: () => {
        this.store.dispatch(projects.wanted());
        this.adding.set(false);
        this.name = '';
      },
      error: (failure: Failure) => this.toasts.failed(failure.message),
    });
  }

  protected async check(picker: HTMLInputElement): Promise<void> {
    const file = picker.files?.[0];
    picker.value = '';
    if (!file) return;
    const list = { fileName: file.name, text: await file.text(), counting: this.listRate };
    this.api.call('conform', list).subscribe({
      next: (answer) => {
        this.list.set(list);
        this.report.set(answer);
      },
      error: (failure: Failure) => this.toasts.failed(failure.message),
    });
  }
}
