import { NgTemplateOutlet } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { Router, RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { Library } from '../library/library';
import type { Observable } from 'rxjs';
import type { Bin, LiveBin } from '@larder/contract';
import { libraryFeature } from '../library/state/library.reducer';
import { Api, type Failure } from '../shared/api';
import { counted, formatCount, formatMoment } from '../shared/format';
import { Broken } from '../shared/broken';
import { Icon } from '../shared/icon';
import { NameDialog } from '../shared/name-dialog';
import { NothingFits, quick, QuickBox } from '../shared/quick-box';
import { mayOffer, sessionFeature } from '../shared/session';
import { Toasts } from '../shared/toasts';
import { projects } from '../projects/state';
import { LiveBinsMenu } from './live-bins-menu';
import { LiveBinDialog } from './live-bin-dialog';
import { binActions, bins, handBins } from './state';

/** Bins filled by hand and live bins at the left, and what is in the chosen one. */
@Component({
  selector: 'nl-bins',
  imports: [Broken, Icon, Library, LiveBinsMenu, NgTemplateOutlet, NothingFits, QuickBox, RouterLink],
  template: `
    <nav class="list" aria-label="Bins">
      <h1 class="plate">Bins</h1>
      <nl-quick-box class="quick" label="In these bins" [(text)]="quick.text" />
      @if (state().failure; as failure) {
        <p role="alert">{{ failure.message }}</p>
      }
      @if (quick.text().trim() && shownHand().length + shownLive().length === 0) {
        <nl-nothing-fits class="none" [(text)]="quick.text" />
      }
      @for (bin of shownHand(); track bin.id) {
        <a
          class="bin"
          [style.padding-left.px]="indent(bin)"
          routerLink="/bins"
          [queryParams]="{ in: bin.path }"
          [class.active]="bin.path === inBin()?.path"
          [attr.aria-current]="bin.path === inBin()?.path ? 'page' : null"
        >
          <nl-icon name="folder" /><span class="cut" dir="auto" [title]="bin.path">{{ bin.name }}</span
          ><span class="mono n" [attr.data-bin]="bin.path">{{ count(bin.count) }}</span>
        </a>
        <nl-broken
          [style.padding-left.px]="indent(bin) + 22"
          of="bin"
          [count]="bin.broken"
          [id]="bin.id"
          [named]="bin.path"
        />
        @for (live of liveIn(bin.id); track live.id) {
          <ng-container [ngTemplateOutlet]="row" [ngTemplateOutletContext]="{ bin: live, indent: indent(bin) + 14 }" />
        }
      }
      @if (mayKeep()) {
        <button type="button" class="btn btn-quiet btn-sm new" (click)="make()"><nl-icon name="plus" />New bin</button>
      }
      <h2 class="live">Live bins</h2>
      @for (bin of atTop(); track bin.id) {
        <ng-container [ngTemplateOutlet]="row" [ngTemplateOutletContext]="{ bin, indent: 8 }" />
      } @empty {
        @if (state().value && all().length === 0) {
          <p class="muted small">
            None yet. Write a search, then choose “Keep as live bin”: it stays current by itself.
          </p>
        }
      }
      @for (project of inProjects(); track project.id) {
        <h2 class="live cut" dir="auto" [title]="'Live bins of ' + project.name">{{ project.name }}</h2>
        @for (bin of project.bins; track bin.id) {
          <ng-container [ngTemplateOutlet]="row" [ngTemplateOutletContext]="{ bin, indent: 8 }" />
        }
      }
      @if (mayKeep()) {
        <nl-live-bins-menu class="many" />
      }
    </nav>
    <ng-template #row let-bin="bin" let-indent="indent">
      <a
        class="bin"
        [style.padding-left.px]="indent"
        [routerLink]="['/bins', bin.id]"
        [class.active]="bin.id === chosen()?.id"
        [attr.aria-current]="bin.id === chosen()?.id ? 'page' : null"
      >
        <nl-icon name="bins" /><span class="cut" dir="auto" [title]="bin.name">{{ bin.name }}</span>
        @if (!bin.shared) {
          <span class="only" title="Nobody else sees this bin.">only me</span>
        }
        @if (bin.watch?.cameIn; as came) {
          <span class="came" [title]="counted(came, 'asset') + ' came in that you have not seen'"
            >{{ count(came) }} new</span
          >
        }
        <span class="mono n" [attr.data-bin]="bin.name">{{ count(bin.count) }}</span>
      </a>
    </ng-template>
    @if (fixed(); as shown) {
      <nl-library [fixed]="shown" [bin]="inBin()?.id ?? null">
        <a
          class="mono query cut"
          routerLink="/library"
          [queryParams]="{ q: shown.query }"
          [title]="'Open this search in the search line: ' + shown.query"
          >{{ shown.query }}</a
        >
        @if (chosen(); as live) {
          <button
            type="button"
            class="btn btn-quiet btn-sm"
            [attr.aria-pressed]="live.watch !== null"
            [class.active]="live.watch !== null"
            (click)="watch(live)"
            [title]="
              (live.watch ? 'You are told' : 'To be told') +
              ', here and on the front page, what others, scans and ingests bring into this bin'
            "
          >
            <nl-icon name="bell" />Notices
          </button>
        }
        @if (news(); as news) {
          <span class="news" ngProjectAs="[news]">
            <button
              type="button"
              class="btn btn-plain btn-sm"
              (click)="showArrivals(news.bin)"
              [title]="'Since ' + moment(news.watch.sinceMs) + ', by others and by what was cut, scanned or brought in'"
            >
              {{ counted(news.watch.cameIn, 'asset') }} came in
            </button>
            <button type="button" class="btn btn-quiet btn-sm" (click)="saw(news.bin)">Seen</button>
          </span>
        }
        @if (mayKeep() && open(); as bin) {
          @if (inBin(); as hand) {
            <button
              type="button"
              class="btn btn-quiet btn-sm"
              (click)="takeOut(hand)"
              [disabled]="selected().length === 0"
            >
              Take {{ counted(selected().length, 'asset') }} out
            </button>
          }
          @if (chosen(); as live) {
            <button
              type="button"
              class="btn btn-quiet btn-sm"
              (click)="freeze(live)"
              title="Makes an ordinary bin of what is here now. This one goes on following its search."
            >
              Freeze
            </button>
          }
          <button type="button" class="btn btn-quiet btn-sm" (click)="bin.change()">{{ bin.word }}</button>
          <button
            type="button"
            class="btn btn-quiet btn-sm"
            (click)="bin.remove()"
            title="Only the bin goes. What it shows is not touched."
          >
            <nl-icon name="remove" /><span class="visually-hidden">Remove this bin</span>
          </button>
        }
      </nl-library>
    } @else {
      <div class="nothing">
        <nl-icon name="bins" size="2em" />
        <h3>Choose a bin</h3>
        <p>
          A bin holds what people put there: <kbd>B</kbd> in any list. A live bin is a search under a name; its contents
          are whatever fits the search at this moment.
        </p>
      </div>
    }
  `,
  styles: `
    :host {
      display: grid;
      grid-template-columns: 220px minmax(0, 1fr);
      height: 100%;
    }
    .list {
      border-right: 1px solid var(--nl-line);
      padding: 12px;
      position: relative;
      overflow: auto;
      display: flex;
      flex-direction: column;
      gap: 3px;
    }
    .plate {
      align-self: flex-start;
      margin-bottom: 8px;
    }
    .bin {
      display: flex;
      align-items: center;
      gap: 7px;
      padding: 5px 8px;
      border-radius: 4px;
      color: var(--nl-ink);
      text-decoration: none;
    }
    .bin .cut {
      flex: 1;
      min-width: 0;
    }
    .bin:hover {
      background: var(--nl-sunk);
    }
    .bin.active {
      background: var(--nl-accent-soft);
      font-weight: 600;
    }
    .n {
      color: var(--nl-muted);
    }
    .new {
      align-self: flex-start;
    }
    .only {
      font-size: 0.75rem;
      color: var(--nl-muted);
      border: 1px solid var(--nl-line);
      border-radius: 3px;
      padding: 0 4px;
    }
    .came {
      flex: none;
      font-size: 0.75rem;
      font-weight: 600;
      color: var(--nl-accent);
    }
    .quick {
      margin-bottom: 6px;
    }
    .none {
      font-size: 0.875rem;
    }
    .news {
      white-space: nowrap;
    }
    .many {
      margin-top: 8px;
    }
    .live {
      margin: 12px 0 2px;
      font-size: 0.875rem;
      color: var(--nl-muted);
    }
    .query {
      flex: 1;
      min-width: 0;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Bins {
  readonly id = input<string>();
  /** From the address: the path of a bin that is filled by hand. */
  readonly in = input<string>();
  private readonly store = inject(Store);
  private readonly names = inject(NameDialog);
  private readonly liveBins = inject(LiveBinDialog);
  protected readonly state = this.store.selectSignal(bins.select);
  private readonly person = this.store.selectSignal(sessionFeature.selectPerson);
  protected readonly mayKeep = computed(() => mayOffer(this.person(), 'log'));
  protected readonly all = computed(() => this.state().value?.bins ?? []);
  protected readonly quick = quick();
  protected readonly shownLive = computed(() => this.all().filter(({ name, query }) => this.quick.fits()(name, query)));
  /** Those that fit, or have a live bin that does, and those that they stand in. */
  protected readonly shownHand = computed(() => {
    const around = new Set<string>();
    for (const { id, path } of this.hand()) {
      if (!this.quick.fits()(path) && this.liveIn(id).length === 0) continue;
      const names = path.split('/');
      names.forEach((_name, at) => around.add(names.slice(0, at + 1).join('/')));
    }
    return this.hand().filter(({ path }) => around.has(path));
  });
  protected readonly atTop = computed(() =>
    this.shownLive().filter(({ parentId, projectId }) => parentId === null && projectId === null),
  );
  private readonly projectState = this.store.selectSignal(projects.select);
  protected readonly inProjects = computed(() =>
    (this.projectState().value?.projects ?? [])
      .map(({ id, name }) => ({ id, name, bins: this.shownLive().filter(({ projectId }) => projectId === id) }))
      .filter((project) => project.bins.length > 0),
  );
  private readonly handState = this.store.selectSignal(handBins.select);
  private readonly api = inject(Api);
  private readonly router = inject(Router);
  private readonly toasts = inject(Toasts);
  protected readonly hand = computed(() => this.handState().value?.bins ?? []);
  protected readonly inBin = computed(() => this.hand().find((bin) => bin.path === this.in()) ?? null);
  protected readonly selected = this.store.selectSignal(libraryFeature.selectSelected);
  protected readonly counted = counted;
  protected readonly moment = formatMoment;
  protected readonly chosen = computed(() => this.all().find((bin) => String(bin.id) === this.id()) ?? null);
  /** The chosen live bin, if something came in that was not seen. */
  protected readonly news = computed(() => {
    const bin = this.chosen();
    return bin?.watch && bin.watch.cameIn > 0 ? { bin, watch: bin.watch } : null;
  });
  /** What can be done with the bin that is shown, whichever kind it is. */
  protected readonly open = computed(() => {
    const [hand, live] = [this.inBin(), this.chosen()];
    if (hand) return { word: 'Rename', change: () => this.renameBin(hand), remove: () => this.removeBin(hand) };
    return live ? { word: 'Edit', change: () => this.change(live), remove: () => this.remove(live) } : null;
  });
  // Compared by value: a count that changes must not begin the list anew.
  protected readonly fixed = computed(
    () => {
      const [bin, live] = [this.inBin(), this.chosen()];
      if (bin) return { query: `in:"${bin.path}"`, title: bin.name };
      return live ? { query: live.query, title: live.name } : null;
    },
    { equal: (a, b) => a?.query === b?.query && a?.title === b?.title },
  );
  protected readonly count = formatCount;

  constructor() {
    this.store.dispatch(bins.wanted());
    this.store.dispatch(handBins.wanted());
    this.store.dispatch(projects.wanted());
  }

  protected indent({ path }: Bin): number {
    return 8 + (path.split('/').length - 1) * 14;
  }

  protected liveIn(parentId: number): readonly LiveBin[] {
    return this.shownLive().filter((bin) => bin.parentId === parentId);
  }

  protected async make(): Promise<void> {
    const within = this.inBin();
    const name = await this.names.ask({
      title: within ? `A new bin in “${within.name}”` : 'A new bin',
      label: 'Name of the bin',
      suggestion: '',
      action: 'Make it',
    });
    if (!name) return;
    const path = [within?.path, name].filter(Boolean).join('/');
    this.carry(this.api.call('newBin', { name, parentId: within?.id ?? null }), path);
  }

  private async renameBin(bin: Bin): Promise<void> {
    const question = { title: 'Rename the bin', label: 'Name of the bin', suggestion: bin.name, action: 'Rename' };
    const name = await this.names.ask(question);
    if (!name || name === bin.name) return;
    const path = [...bin.path.split('/').slice(0, -1), name].join('/');
    this.carry(this.api.call('changeBin', { name, parentId: bin.parentId }, bin.id), path);
  }

  private removeBin(bin: Bin): void {
    this.carry(
      this.api.call('removeBin', null, bin.id),
      null,
      `The bin “${bin.name}” is gone; what was in it is where it was.`,
    );
  }

  protected takeOut(bin: Bin): void {
    const remove = [...this.selected()];
    this.carry(
      this.api.call('binAssets', { remove }, bin.id),
      bin.path,
      `${counted(remove.length, 'asset')} taken out of “${bin.name}”. They stay in the library.`,
    );
  }

  private carry(asked: Observable<unknown>, path: string | null, said?: string): void {
    asked.subscribe({
      next: () => {
        this.store.dispatch(handBins.wanted());
        if (said) this.toasts.done(said);
        void this.router.navigate(['/bins'], { queryParams: path === null ? {} : { in: path } });
      },
      error: (failure: Failure) => this.toasts.failed(`The bin was not changed. ${failure.message}`),
    });
  }

  private async change(bin: LiveBin): Promise<void> {
    const kept = await this.liveBins.keep(bin);
    if (kept === null) return;
    this.store.dispatch(bins.wanted());
    this.toasts.done(`“${kept.name}” changed.`);
  }

  protected async freeze(bin: LiveBin): Promise<void> {
    const question = {
      title: `Freeze “${bin.name}”`,
      label: `Name of the bin that keeps these ${counted(bin.count, 'asset')}`,
      suggestion: `${bin.name}, ${new Date().toISOString().slice(0, 10)}`,
      action: 'Freeze',
    };
    const name = await this.names.ask(question);
    if (!name) return;
    const within = this.hand().find(({ id }) => id === bin.parentId) ?? null;
    const path = [within?.path, name].filter(Boolean).join('/');
    this.carry(
      this.api.call('freezeLiveBin', { name, parentId: within?.id ?? null }, bin.id),
      path,
      `“${name}” keeps what was in “${bin.name}”.`,
    );
  }

  protected watch({ id, watch }: LiveBin): void {
    this.tell(this.api.call('watchLiveBin', { on: watch === null }, id));
  }

  /** As a search within the bin: they can be looked at, selected and logged like any list. */
  protected showArrivals({ id }: LiveBin): void {
    this.api.call('cameIn', null, id).subscribe({
      next: ({ ids }) => {
        const within = ids.length > 0 ? `number:(${ids.join(' or ')})` : null;
        void this.router.navigate(['/bins', id], { queryParams: { within } });
      },
      error: ({ message }: Failure) => this.toasts.failed(message),
    });
  }

  /** What came in since they were counted is still news. */
  protected saw({ id, watch }: LiveBin): void {
    this.tell(this.api.call('sawLiveBin', { revision: watch?.upTo ?? 0 }, id));
  }

  private tell(asked: Observable<unknown>): void {
    asked.subscribe({
      next: () => this.store.dispatch(bins.wanted()),
      error: ({ message }: Failure) => this.toasts.failed(message),
    });
  }

  private remove({ id, name }: { id: number; name: string }): void {
    this.store.dispatch(binActions.remove({ id, name }));
  }
}
