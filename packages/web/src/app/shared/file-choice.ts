import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import { Icon } from './icon';

/** A file that was chosen, and what stands in it. */
export interface ChosenText {
  /** With the folders that were chosen along with it. */
  readonly path: string;
  readonly name: string;
  readonly text: string;
}

/** A button that has files of text chosen, and hands out what stands in them. */
@Component({
  selector: 'nl-file-choice',
  imports: [Icon],
  template: `
    <label [class]="look()" [title]="hint()">
      <nl-icon name="upload" /><ng-content />
      <input type="file" class="visually-hidden" [accept]="accept()" [multiple]="several()" (change)="choose($event)" />
    </label>
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class FileChoice {
  readonly accept = input.required<string>();
  readonly hint = input.required<string>();
  readonly several = input(false);
  readonly look = input('btn btn-quiet btn-sm');
  readonly chosen = output<readonly [ChosenText, ...ChosenText[]]>();

  protected async choose(event: Event): Promise<void> {
    const box = event.target as HTMLInputElement;
    const files = [...(box.files ?? [])];
    // Emptied, so that the same file can be chosen again.
    box.value = '';
    const [first, ...more] = await Promise.all(
      files.map(async (file): Promise<ChosenText> => ({
        path: file.webkitRelativePath || file.name,
        name: file.name,
        text: await file.text(),
      })),
    );
    if (first) this.chosen.emit([first, ...more]);
  }
}
