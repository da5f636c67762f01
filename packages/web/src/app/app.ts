import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { RouterOutlet } from '@angular/router';
import { NgbConfig } from '@ng-bootstrap/ng-bootstrap';
import { OtherScripts } from './shared/other-scripts';
import { Settings } from './shared/settings';
import { ToastStack } from './shared/toasts';

@Component({
  selector: 'nl-root',
  imports: [OtherScripts, RouterOutlet, ToastStack],
  template: `<router-outlet /><nl-toasts />
    @defer (on idle) {
      <nl-other-scripts />
    }`,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class App {
  // Made here so that the theme is set before anything is drawn.
  protected readonly settings = inject(Settings);

  constructor() {
    // A dialog that fades away gives the focus back late, and takes it from whoever has gone on typing.
    inject(NgbConfig).animation = false;
  }
}
