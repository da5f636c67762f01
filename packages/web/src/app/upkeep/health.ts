import { NgTemplateOutlet } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, inject, resource, signal } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { firstValueFrom } from 'rxjs';
import type { HealthFolder } from '@larder/contract';
import { Api, troubleOf } from '../shared/api';
import { counted, formatCount, formatMoment } from '../shared/format';
import { Icon } from '../shared/icon';
import { sessionFeature } from '../shared/session';

/** Shown at once; the worst are first. */
const SHOWN = 5;
const NAMED = 3;

/** Where originals are missing or changed, folder by folder, worst first, and what depends on them. */
@Component({
  selector: 'nl-health',
  imports: [Icon, NgTemplateOutlet, RouterLink],
  template: `
    @if (health.hasValue() && health.value(); as said) {
      @if (said.away.length > 0) {
        <section class="card-paper" data-test="away">
          <h2>Storages that are away</h2>
          <p class="muted m-0">
            Their originals are not lost: they can be found, logged and cut with, and are there again when the storage
            is. Where they were copied to another storage, they can be found there, and have both places then.
          </p>
          <table class="table table-sm">
            <tbody>
              @for (storage of said.away; track storage.storageId) {
                <tr>
                  <td class="path">{{ storage.storage }}</td>
                  <td class="n">{{ counted(storage.originals, 'original') }}</td>
                  <td class="text-nowrap since">since {{ moment(storage.sinceMs) }}</td>
                  <td><ng-container *ngTemplateOutlet="uses; context: { of: storage }" /></td>
                  <td class="find">
                    <a
                      class="btn btn-quiet btn-sm"
                      routerLink="/upkeep"
                      [queryParams]="{ of: 'storage', id: storage.storageId, named: storage.storage }"
                      [attr.aria-label]="'Find elsewhere what is on ' + storage.storage"
                      ><nl-icon name="search" />Find elsewhere</a
                    >
                  </td>
                </tr>
              }
            </tbody>
          </table>
        </section>
      }
      @if (said.folders.length > 0) {
        <section class="card-paper">
          <h2>Where originals are lost, worst first</h2>
          <table class="table table-sm">
            <thead>
              <tr>
                <th>Folder</th>
                <th class="n">Missing</th>
                <th class="n">Changed</th>
                <th class="n">Of</th>
                <th class="since">Since</th>
                <th>What depends on them</th>
                <th></th>
              </tr>
            </thead>
            <tbody>
              @for (folder of shown(); track folder.storageId + '/' + folder.folder) {
                <tr data-test="lost-folder">
                  <td class="mono path">{{ pathOf(folder) }}</td>
                  <td class="n mono">{{ count(folder.missing) }}</td>
                  <td class="n mono">{{ count(folder.changed) }}</td>
                  <td class="n mono">{{ count(folder.online + folder.missing + folder.changed) }}</td>
                  <td class="text-nowrap since">{{ moment(folder.sinceMs) }}</td>
                  <td>
                    <ng-container *ngTemplateOutlet="uses; context: { of: folder }" />
                  </td>
                  <td class="find">
                    <a
                      class="btn btn-quiet btn-sm"
                      routerLink="/upkeep"
                      [queryParams]="{
                        of: 'storage',
                        id: folder.storageId,
                        named: folder.storage,
                        folder: folder.folder || null,
                      }"
                      [attr.aria-label]="'Find what is lost from ' + pathOf(folder)"
                      ><nl-icon name="search" />Find</a
                    >
                  </td>
                </tr>
              }
            </tbody>
          </table>
          @if (said.folders.length > few) {
            <button type="button" class="btn btn-quiet btn-sm" [attr.aria-expanded]="all()" (click)="all.set(!all())">
              <nl-icon [name]="all() ? 'up' : 'down'" />{{
                all() ? 'Only the worst' : counted(said.folders.length + said.more - few, 'more folder')
              }}
            </button>
          }
          @if (all() && said.more > 0) {
            <p class="muted m-0">and {{ counted(said.more, 'more folder') }} that are not shown.</p>
          }
        </section>
      }
    } @else if (failed(); as words) {
      <p role="alert">Where originals are lost cannot be shown. {{ words }}</p>
    }
    <ng-template #uses let-of="of">
      @for (use of of.uses.slice(0, named); track use.kind + use.id) {
        <a
          class="use"
          [routerLink]="use.kind === 'bin' ? '/bins' : ['/string-outs', use.id]"
          [queryParams]="use.kind === 'bin' ? { in: use.name } : {}"
          ><nl-icon [name]="use.kind === 'bin' ? 'folder' : 'cut'" />{{ use.name }}</a
        >
      } @empty {
        <span class="muted">no bin, no string-out</span>
      }
      @if (others(of) > 0) {
        <span class="muted">and {{ count(others(of)) }} more</span>
      }
    </ng-template>
  `,
  styles: `
    section {
      padding: 10px 14px;
      margin-bottom: 14px;
    }
    h2 {
      margin: 0 0 6px;
      font-size: 1rem;
    }
    .table {
      --bs-table-bg: transparent;
      --bs-table-color: var(--nl-ink);
      margin: 0;
      font-size: 0.9rem;
    }
    td,
    th {
      vertical-align: baseline;
    }
    tbody tr:last-child td {
      border-bottom: 0;
    }
    .n {
      text-align: right;
    }
    .since {
      padding-left: 20px;
    }
    .path {
      overflow-wrap: anywhere;
    }
    .use {
      display: block;
      overflow-wrap: anywhere;
    }
    .use nl-icon {
      margin-right: 4px;
    }
    .find {
      text-align: right;
      white-space: nowrap;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class HealthCard {
  private readonly api = inject(Api);
  private readonly revision = inject(Store).selectSignal(sessionFeature.selectRevision);
  protected readonly health = resource({
    params: () => this.revision(),
    loader: () => firstValueFrom(this.api.call('health', null)),
  });
  protected readonly failed = computed(() => troubleOf(this.health));
  protected readonly all = signal(false);
  protected readonly few = SHOWN;
  protected readonly named = NAMED;
  protected readonly shown = computed(() =>
    this.health.hasValue() ? this.health.value().folders.slice(0, this.all() ? undefined : SHOWN) : [],
  );
  protected readonly count = formatCount;
  protected readonly counted = counted;
  protected readonly moment = formatMoment;

  protected pathOf({ folder, storage }: HealthFolder): string {
    return [storage, ...(folder === '' ? [] : [folder])].join('/');
  }

  protected others({ moreUses, uses }: Pick<HealthFolder, 'moreUses' | 'uses'>): number {
    return moreUses + Math.max(0, uses.length - NAMED);
  }
}
