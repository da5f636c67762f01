import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { Router } from '@angular/router';
import { Store } from '@ngrx/store';
import { counted, formatBytes } from '../shared/format';
import { Icon } from '../shared/icon';
import { Settings } from '../shared/settings';
import { StateBadge } from '../shared/state-badge';
import { Thumb } from '../shared/thumb';
import { formatDuration } from '@larder/core/timecode';
import { callOf } from '../shared/format';
import { pullActions, pullFeature } from './pull.state';
import { PullDialog } from '../projects/pull-dialog';

/** The pull list along the lower edge, folded to one line or open. */
@Component({
  selector: 'nl-tray',
  imports: [Icon, StateBadge, Thumb],
  template: `
    <div class="line">
      <button
        type="button"
        class="btn btn-quiet btn-sm fold"
        (click)="settings.tray.set(!settings.tray())"
        [attr.aria-expanded]="settings.tray()"
      >
        <nl-icon [name]="settings.tray() ? 'down' : 'up'" /><nl-icon name="pull" />Pull list
      </button>
      <span data-test="pull-count">{{ said() }}</span>
      @if (troubled() > 0) {
        <span class="trouble"><nl-icon name="warning" />{{ troubled() }} not online</span>
      }
      <span class="space"></span>
      @if (state().assetIds.length > 0) {
        <button type="button" class="btn btn-quiet btn-sm" (click)="clear()">Empty it</button>
        <button type="button" class="btn btn-primary btn-sm" (click)="toStringOut()">
          <nl-icon name="cut" />Make a string-out
        </button>
      }
    </div>
    @if (settings.tray()) {
      <div class="shelf">
        @for (asset of assets(); track asset.id) {
          <div class="item">
            <nl-thumb [asset]="asset" [scrub]="false" />
            <div class="cut small" dir="auto" [title]="asset.name">{{ call(asset) }}</div>
            <nl-state class="state" [asset]="asset" />
            <button
              type="button"
              class="btn btn-plain btn-sm out"
              (click)="remove(asset.id)"
              [attr.aria-label]="'Take ' + asset.name + ' out of the pull list'"
            >
              <nl-icon name="close" size="0.9em" />
            </button>
          </div>
        } @empty {
          <p class="muted m-0 p-3">Empty. <kbd>P</kbd> puts what is selected in here, to go into a project together.</p>
        }
      </div>
    }
  `,
  styles: `
    :host {
      display: block;
      background: var(--nl-card);
      border-top: 1px solid var(--nl-line);
      min-width: 0;
    }
    .line {
      display: flex;
      align-items: center;
      gap: 12px;
      height: 40px;
      padding: 0 12px;
    }
    .fold {
      font-family: var(--nl-serif);
      font-weight: 650;
    }
    .space {
      flex: 1;
    }
    .trouble {
      color: var(--nl-bad);
      display: inline-flex;
      gap: 4px;
      align-items: center;
    }
    .shelf {
      display: flex;
      gap: 10px;
      overflow-x: auto;
      padding: 4px 12px 10px;
      min-height: 116px;
    }
    .item {
      position: relative;
      width: 132px;
      flex: none;
    }
    .state {
      position: absolute;
      left: 4px;
      top: 4px;
    }
    .out {
      position: absolute;
      right: 4px;
      top: 4px;
      padding: 1px 4px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Tray {
  private readonly store = inject(Store);
  private readonly router = inject(Router);
  private readonly dialog = inject(PullDialog);
  protected readonly settings = inject(Settings);
  protected readonly state = this.store.selectSignal(pullFeature.selectPullState);
  protected readonly assets = computed(() => this.state().assetIds.flatMap((id) => this.state().assets[id] ?? []));
  protected readonly troubled = computed(() => this.assets().filter((asset) => asset.state !== 'online').length);
  protected readonly call = callOf;
  protected readonly said = computed(() => {
    const all = this.assets();
    if (this.state().assetIds.length === 0) return 'empty';
    const ms = all.reduce((sum, asset) => sum + (asset.durationMs ?? 0), 0);
    return `${counted(this.state().assetIds.length, 'asset')}, ${formatDuration(ms, { num: 1000, den: 1 })}, ${formatBytes(all.reduce((sum, asset) => sum + asset.bytes, 0))}`;
  });

  protected remove(assetId: number): void {
    this.store.dispatch(pullActions.remove({ assetId }));
  }

  protected clear(): void {
    this.store.dispatch(pullActions.clear());
  }

  protected async toStringOut(): Promise<void> {
    const made = await this.dialog.ask(this.state().assetIds);
    if (made) void this.router.navigate(['/string-outs', made.id]);
  }
}
