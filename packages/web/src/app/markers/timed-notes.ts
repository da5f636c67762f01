import { ChangeDetectionStrategy, Component, inject, input } from '@angular/core';
import { FILE_PATHS, type Asset } from '@larder/contract';
import { Api } from '../shared/api';
import { FileChoice, type ChosenText } from '../shared/file-choice';
import { counted } from '../shared/format';
import { Icon } from '../shared/icon';
import { leftOut, ReadIn } from '../shared/read-in';

/** The markers of an asset taken along as captions, and captions read as markers. */
@Component({
  selector: 'nl-timed-notes',
  imports: [FileChoice, Icon],
  template: `
    @if (any()) {
      <a
        class="btn btn-quiet btn-sm"
        [href]="path(asset().id, 'vtt')"
        download
        title="The markers as WebVTT, with kind and colour"
        ><nl-icon name="download" />WebVTT</a
      >
      <a class="btn btn-quiet btn-sm" [href]="path(asset().id, 'srt')" download title="The markers as SRT, text only"
        ><nl-icon name="download" />SRT</a
      >
    }
    @if (mayLog()) {
      <nl-file-choice
        accept=".vtt,.srt,.ttml,.xml,text/vtt"
        hint="Set a marker for each caption of a WebVTT, SRT or TTML file"
        (chosen)="read($event[0])"
        >Read captions …</nl-file-choice
      >
    }
  `,
  styles: `
    :host {
      display: flex;
      flex-wrap: wrap;
      gap: 4px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class TimedNotes {
  readonly asset = input.required<Asset>();
  readonly mayLog = input.required<boolean>();
  /** Whether there are markers to take along. */
  readonly any = input.required<boolean>();
  private readonly api = inject(Api);
  private readonly readIn = inject(ReadIn);
  protected readonly path = FILE_PATHS.notes;

  protected read({ name, text }: ChosenText): void {
    const { id } = this.asset();
    this.readIn.from(
      () => this.api.call('readNotes', { text }, id),
      (read) => ({
        label: `${name} read`,
        done: `${counted(read.added, 'marker')} from ${name}${read.countedFrom === 'timecode' ? ', by their timecode' : ''}.`,
        left: leftOut(read),
      }),
      `${name} was not read.`,
    );
  }
}
