import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { RouterLink } from '@angular/router';
import { PASSED_OVER } from '@larder/core/relink';
import type { FindMissing, LostOriginals, Storage } from '@larder/contract';
import { Icon } from '../shared/icon';
import { Settings } from '../shared/settings';
import { LookPlace, type Place } from './look-place';

/** Where missing originals are looked for, and which of them. */
@Component({
  selector: 'nl-look-form',
  imports: [FormsModule, Icon, LookPlace, RouterLink],
  template: `
    <form class="card-paper look" (ngSubmit)="look()">
      <div class="head">
        <h2>Find missing files</h2>
        @if (scope(); as words) {
          <span>{{ words }}</span>&ngsp;<a routerLink="/upkeep">Look for all that are missing</a>
        }
        <span class="flex-fill"></span>
        @if (!nothing()) {
          <a routerLink="/upkeep/restore" [queryParams]="{ plan: null }" queryParamsHandling="merge"
            >Restore list of {{ scope() ? 'these' : 'all that is lost' }}</a
          >
        }
      </div>
      @for (place of places(); track $index; let at = $index) {
        <nl-look-place
          [place]="place"
          [number]="at"
          [storages]="storages()"
          [removable]="places().length > 1"
          (changed)="change(at, $event)"
          (removed)="remove(at)"
        />
      }
      <div class="line">
        <button type="button" class="btn btn-quiet btn-sm" (click)="add()">
          <nl-icon name="plus" />Look in another place too
        </button>
        <button type="button" class="btn btn-quiet btn-sm" [attr.aria-expanded]="more()" (click)="more.set(!more())">
          <nl-icon [name]="more() ? 'up' : 'down'" />What is looked at
        </button>
        <label class="check"
          ><input
            type="checkbox"
            class="form-check-input"
            name="exact"
            [checked]="acceptsExact()"
            (change)="acceptsExact.set($any($event.target).checked)"
          />
          Accept exact ones without a look</label
        >
        @if (away().length > 0) {
          <label class="check" [title]="'Not mounted: ' + awayNames()"
            ><input
              type="checkbox"
              class="form-check-input"
              name="away"
              [checked]="takesAway()"
              (change)="saidAway.set($any($event.target).checked)"
            />
            Also what is on storages that are away</label
          >
        }
        <span class="flex-fill"></span>
        <button type="submit" class="btn btn-primary" [disabled]="isNothing()"><nl-icon name="search" />Look</button>
      </div>
      @if (more()) {
        <div class="more">
          <div>
            <label class="form-label" for="look-names">Only files of such names</label>
            <input
              id="look-names"
              name="names"
              class="form-control mono"
              placeholder="all, or such as A0??_*.mxf"
              [attr.maxlength]="200"
              [ngModel]="names()"
              (ngModelChange)="names.set($event)"
            />
          </div>
          <div class="flex-fill">
            <label class="form-label" for="look-over">Folders that are passed over, by their names</label>
            <input
              id="look-over"
              name="over"
              class="form-control mono"
              [ngModel]="passOver()"
              (ngModelChange)="settings.passedOver.set($event)"
            />
          </div>
          <p class="muted small m-0">
            <span class="mono">*</span> stands for any letters, <span class="mono">?</span> for one; folders are parted
            by commas. What belongs to the operating system is never looked at. Names and extensions need not be as they
            were.
            @if (passOver() !== usual) {
              <button type="button" class="btn btn-plain btn-sm" (click)="settings.passedOver.set(null)">
                Pass over what is usual
              </button>
            }
          </p>
        </div>
      }
    </form>
  `,
  styles: `
    .look {
      display: grid;
      gap: 10px;
      padding: 12px 14px;
      margin-bottom: 14px;
    }
    .head {
      display: flex;
      flex-wrap: wrap;
      gap: 10px;
      align-items: baseline;
    }
    h2 {
      margin: 0;
      font-size: 1rem;
    }
    .line,
    .more {
      display: flex;
      flex-wrap: wrap;
      gap: 12px;
      align-items: end;
    }
    .line {
      align-items: center;
    }
    .more p {
      flex-basis: 100%;
    }
    #look-names {
      width: 260px;
    }
    .check {
      display: flex;
      gap: 6px;
      align-items: center;
    }
    .check input {
      margin: 0;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class LookForm {
  /** Those that are mounted. */
  readonly storages = input.required<readonly Storage[]>();
  readonly lost = input.required<LostOriginals>();
  /** Which those are, in words; null for all. */
  readonly scope = input.required<string | null>();
  /** Those that are not mounted. */
  readonly away = input.required<readonly Storage[]>();
  /** Whether nothing is missing at all. */
  readonly nothing = input.required<boolean>();
  readonly looked = output<FindMissing>();

  protected readonly settings = inject(Settings);
  protected readonly usual = PASSED_OVER.join(', ');
  protected readonly passOver = computed(() => this.settings.passedOver() ?? this.usual);
  protected readonly more = signal(false);
  protected readonly names = signal('');
  protected readonly acceptsExact = signal(true);
  protected readonly awayNames = computed(() =>
    this.away()
      .map(({ name }) => name)
      .join(', '),
  );
  /** What a person said of it; null for nothing yet. */
  protected readonly saidAway = signal<boolean | null>(null);
  /** Whoever looks for what is on one of these, means it. */
  protected readonly takesAway = computed(
    () => this.saidAway() ?? (this.lost().of === 'storage' && this.away().some(({ id }) => id === this.lost().id)),
  );
  protected readonly isNothing = computed(
    () => this.places().length === 0 || (this.nothing() && !(this.takesAway() && this.away().length > 0)),
  );
  private readonly chosen = signal<readonly Place[] | null>(null);
  /** To begin with the storage that misses most. */
  protected readonly places = computed((): readonly Place[] => {
    const [worst] = this.storages().toSorted((a, b) => b.counts.missing - a.counts.missing);
    return this.chosen() ?? (worst ? [{ storageId: worst.id, folder: '', deep: true }] : []);
  });

  protected change(at: number, place: Place): void {
    this.chosen.set(this.places().map((each, n) => (n === at ? place : each)));
  }

  protected remove(at: number): void {
    this.chosen.set(this.places().filter((_each, n) => n !== at));
  }

  protected add(): void {
    const used = new Set(this.places().map(({ storageId }) => storageId));
    const next = this.storages().find(({ id }) => !used.has(id)) ?? this.storages()[0];
    if (next) this.chosen.set([...this.places(), { storageId: next.id, folder: '', deep: true }]);
  }

  protected look(): void {
    if (this.isNothing()) return;
    const passOver = this.passOver()
      .split(',')
      .map((name) => name.trim())
      .filter((name) => name !== '');
    this.looked.emit({
      ...{ lost: this.lost(), places: [...this.places()], passOver },
      ...{ names: this.names().trim(), acceptsExact: this.acceptsExact() },
      away: this.takesAway() && this.away().length > 0,
    });
  }
}
