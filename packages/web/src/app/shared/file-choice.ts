import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import { Icon } from './icon';

/** A file that was chosen, and what stands in it. */
export interface ChosenText {
  readonly name: string;
  readonly text: string;
}

/** A button that has one file of text chosen and hands out what stands in it. */
@Component({
  selector: 'nl-file-choice',
  imports: [Icon],
  template: `
    <label class="btn btn-quiet btn-sm" [title]="hint()">
      <nl-icon name="upload" /><ng-content />
      <input type="file" class="visually-hidden" [accept]="accept()" (change)="choose($event)" />
    </label>
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class FileChoice {
  readonly accept = input.required<string>();
  readonly hint = input.required<string>();
  readonly chosen = output<ChosenText>();

  protected async choose(event: Event): Promise<void> {
    const box = event.target as HTMLInputElement;
    const [file] = box.files ?? [];
    // Emptied, so that the same file can be chosen again.
    box.value = '';
    if (file) this.chosen.emit({ name: file.name, text: await file.text() });
  }
}
