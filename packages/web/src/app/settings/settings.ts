import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { KeySheet } from '../frame/key-sheet';
import { Icon } from '../shared/icon';
import { sessionFeature } from '../shared/session';
import { Settings, THEMES } from '../shared/settings';
import { JobLimits } from './job-limits';
import { Volumes } from './volumes';

/** How this window looks, who one is here, and how the library is run. */
@Component({
  selector: 'nl-settings',
  imports: [Icon, JobLimits, RouterLink, Volumes],
  template: `
    <div class="page">
      <div class="page-head"><h1 class="plate">Settings</h1></div>
      <div class="card-paper part">
        <h2>This window</h2>
        <div class="btn-group" role="group" aria-label="Theme">
          @for (theme of themes; track theme) {
            <button
              type="button"
              class="btn btn-plain"
              [class.active]="settings.theme() === theme"
              [attr.aria-pressed]="settings.theme() === theme"
              (click)="settings.theme.set(theme)"
            >
              <nl-icon [name]="theme === 'light' ? 'sun' : 'moon'" />{{
                theme === 'light' ? 'Paper, for daylight' : 'Dark, for dim rooms'
              }}
            </button>
          }
        </div>
        <button type="button" class="btn btn-plain ms-2" (click)="keys.open()"><nl-icon name="keys" />All keys</button>
      </div>
      <div class="card-paper part">
        <h2>You</h2>
        <p class="m-0">{{ person()?.name }}, {{ person()?.role }}. Every change you make carries your name.</p>
      </div>
      <nl-volumes />
      <nl-job-limits />
      <div class="card-paper part">
        <h2>Fields and tags</h2>
        <p class="m-0">
          <a routerLink="/words">Fields of your own, and tags</a> are kept on a page of their own.
          <a routerLink="/how-to-search">How to search</a> says what can be written, and lists every field.
        </p>
      </div>
    </div>
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
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SettingsPage {
  protected readonly settings = inject(Settings);
  protected readonly keys = inject(KeySheet);
  protected readonly person = inject(Store).selectSignal(sessionFeature.selectPerson);
  protected readonly themes = THEMES;
}
