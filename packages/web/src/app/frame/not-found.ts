import { ChangeDetectionStrategy, Component } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Icon } from '../shared/icon';

@Component({
  selector: 'nl-not-found',
  imports: [Icon, RouterLink],
  template: `<div class="nothing">
    <nl-icon name="search" size="2em" />
    <h3>There is no such page</h3>
    <p>The address may be from an older link. <a routerLink="/">To the front page</a></p>
  </div>`,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class NotFound {}
