import { ChangeDetectionStrategy, Component, ViewEncapsulation } from '@angular/core';

/**
 * Faces for what people write in scripts that the interface is not written in, so that it is read on machines without such fonts.
 * Shown once the interface stands: the list of their files is longer than all other styles together.
 */
@Component({
  selector: 'nl-other-scripts',
  template: '',
  styleUrl: './other-scripts.scss',
  encapsulation: ViewEncapsulation.None,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class OtherScripts {}
