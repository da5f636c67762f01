import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { FILE_PATHS, type Asset } from '@larder/contract';
import { Api } from '../shared/api';
import { FileChoice, type ChosenText } from '../shared/file-choice';
import { Icon } from '../shared/icon';
import { ReadIn } from '../shared/read-in';

/** What is said of one asset, taken along as XMP and read from it. */
@Component({
  selector: 'nl-sidecar',
  imports: [FileChoice, Icon],
  template: `
    <a class="btn btn-quiet btn-sm" [href]="path()" download title="All that is said of it, as an XMP sidecar"
      ><nl-icon name="download" />XMP</a
    >
    @if (mayLog()) {
      <nl-file-choice
        accept=".xmp,application/rdf+xml"
        hint="Say here what an XMP sidecar says; its tags are added"
        (chosen)="read($event[0])"
        >Read XMP …</nl-file-choice
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
export class Sidecar {
  readonly asset = input.required<Asset>();
  readonly mayLog = input.required<boolean>();
  private readonly api = inject(Api);
  private readonly readIn = inject(ReadIn);
  protected readonly path = computed(() => FILE_PATHS.sidecar(this.asset().id));

  protected read({ name, text }: ChosenText): void {
    const { id } = this.asset();
    this.readIn.from(
      () => this.api.call('readSidecar', { text }, id),
      ({ issues, changed }) => ({
        label: `${name} read`,
        done:
          issues.length > 0
            ? `${name} was read, but not all of it.`
            : changed > 0
              ? `${name} read.`
              : `${name} says nothing new.`,
        left: issues.join(' '),
      }),
      `${name} was not read.`,
    );
  }
}
