import { ChangeDetectionStrategy, Component, inject, input } from '@angular/core';
import { Router } from '@angular/router';
import type { SidecarsRead } from '@larder/contract';
import { Api, type Failure } from '../shared/api';
import { FileChoice, type ChosenText } from '../shared/file-choice';
import { counted } from '../shared/format';
import { Icon } from '../shared/icon';
import { ReadIn } from '../shared/read-in';
import { Toasts } from '../shared/toasts';

/** XMP sidecars of all that a list shows, and sidecars read by their names; two items of a menu. */
@Component({
  selector: 'nl-list-sidecars',
  imports: [FileChoice, Icon],
  template: `
    <button type="button" class="dropdown-item" (click)="write()">
      <nl-icon name="download" /> Write an XMP sidecar of each
    </button>
    <nl-file-choice
      accept=".xmp,application/rdf+xml"
      hint="Each says what it says of the asset whose name it has; its tags are added"
      look="dropdown-item"
      [several]="true"
      (chosen)="read($event)"
    >
      Read XMP sidecars …</nl-file-choice
    >
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ListSidecars {
  readonly query = input.required<string>();
  private readonly api = inject(Api);
  private readonly router = inject(Router);
  private readonly toasts = inject(Toasts);
  private readonly readIn = inject(ReadIn);

  protected write(): void {
    this.api.call('writeSidecars', { query: this.query(), assetIds: null }).subscribe({
      next: () => {
        this.toasts.done('The sidecars are being written; take them along here when they are.');
        void this.router.navigate(['/jobs']);
      },
      error: (failure: Failure) => this.toasts.failed(`No sidecars are written. ${failure.message}`),
    });
  }

  protected read(files: readonly [ChosenText, ...ChosenText[]]): void {
    this.readIn.from(
      () => this.api.call('readSidecars', { files: files.map(({ path, text }) => ({ path, text })) }),
      (read) => {
        const label = `${counted(read.read, 'sidecar')} read`;
        return {
          label,
          done:
            read.left > 0
              ? `${label}, but not all.`
              : read.changed > 0
                ? `${label}.`
                : `${label}; they say nothing new.`,
          left: leftOut(read),
        };
      },
    );
  }
}

const TOLD = 3;

function leftOut({ left, leftTold }: SidecarsRead): string {
  const told = leftTold.slice(0, TOLD).map(({ path, why }) => `${path}: ${why}`);
  return [...told, ...(left > told.length ? [`And ${left - told.length} more.`] : [])].join(' ');
}
