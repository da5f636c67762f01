import { ChangeDetectionStrategy, Component, computed, inject, resource } from '@angular/core';
import { Store } from '@ngrx/store';
import { firstValueFrom } from 'rxjs';
import type { SimulatedVolume } from '@larder/contract';
import { Api, type Failure } from '../shared/api';
import { Icon } from '../shared/icon';
import { mayOffer, sessionFeature } from '../shared/session';
import { Toasts } from '../shared/toasts';

/** The demo's card readers: volumes that are plugged in and pulled by a click instead of by hand. */
@Component({
  selector: 'nl-volumes',
  imports: [Icon],
  template: `
    @if (volumes.hasValue() && volumes.value().slots.length > 0) {
      <div class="card-paper part">
        <h2>Simulated volumes</h2>
        <p class="muted small">
          They stand in for cards and disks. Pull one while something is copied from it, and plug it in elsewhere: the
          library knows it again.
        </p>
        @for (volume of volumes.value().volumes; track volume.name) {
          <div class="line" [attr.data-volume]="volume.name">
            <b class="mono">{{ volume.name }}</b>
            <span [class.in]="volume.slot !== null">
              <nl-icon [name]="volume.slot === null ? 'offline' : 'check'" />{{
                volume.slot === null ? 'in the drawer' : 'in ' + volume.slot
              }}
            </span>
            <span class="space"></span>
            @if (mayKeep()) {
              @for (slot of volumes.value().slots; track slot) {
                @if (volume.slot !== slot) {
                  <button type="button" class="btn btn-plain btn-sm" (click)="put(volume, slot)">
                    Plug into {{ slot }}
                  </button>
                }
              }
              @if (volume.slot !== null) {
                <button type="button" class="btn btn-plain btn-sm" (click)="put(volume, null)">Pull</button>
              }
            }
          </div>
        }
      </div>
    }
  `,
  styles: `
    .part {
      padding: 14px 18px;
      margin-bottom: 14px;
      max-width: 900px;
    }
    h2 {
      font-size: 1rem;
    }
    .line {
      display: flex;
      align-items: center;
      gap: 12px;
      padding: 3px 0;
    }
    .space {
      flex: 1;
    }
    .line > span:first-of-type {
      display: inline-flex;
      align-items: center;
      gap: 5px;
    }
    .in {
      color: var(--nl-good);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Volumes {
  private readonly api = inject(Api);
  private readonly toasts = inject(Toasts);
  private readonly person = inject(Store).selectSignal(sessionFeature.selectPerson);
  protected readonly mayKeep = computed(() => mayOffer(this.person(), 'keep'));
  protected readonly volumes = resource({ loader: () => firstValueFrom(this.api.call('volumes', null)) });

  protected put({ name }: SimulatedVolume, slot: string | null): void {
    this.api.call('mountVolume', { name, slot }).subscribe({
      next: ({ volumes }) => this.volumes.update((before) => before && { ...before, volumes }),
      error: (failure: Failure) => this.toasts.failed(failure.message),
    });
  }
}
