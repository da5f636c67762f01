import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import { placeOfMs, type PassageEnd, type SpokenPassage } from '@larder/core/dialogue';
import type { Asset, Passages } from '@larder/contract';
import { callOf, placeText } from '../shared/format';
import { Icon } from '../shared/icon';

/** A passage as it is listed. */
export interface ListedPassage extends SpokenPassage {
  /** What it is known by among all. */
  readonly key: string;
  readonly asset: Asset;
  readonly call: string;
  readonly place: string;
  readonly why: string;
}

const ENDS: Readonly<Record<PassageEnd, string>> = {
  all: 'Ends with the recording',
  speaker: 'Ends where somebody else speaks',
  pause: 'Ends with a pause of ',
  sentence: 'Ends with a sentence',
  length: 'Cut for its length, at the longest pause',
};

/** Passages with the assets that they are in. */
export const listedPassages = ({ assets, passages }: Pick<Passages, 'assets' | 'passages'>): readonly ListedPassage[] =>
  passages.flatMap((passage) => {
    const asset = assets.find(({ id }) => id === passage.id);
    if (!asset) return [];
    const pause = passage.ends === 'pause' ? `${(passage.pauseMs / 1000).toFixed(1)} s` : '';
    return [
      {
        ...{ ...passage, asset, call: callOf(asset), key: `${passage.id}-${passage.startMs}` },
        place: placeText(asset, placeOfMs(passage.startMs, asset.rate)),
        why: ENDS[passage.ends] + pause,
      },
    ];
  });

/** Whole thoughts, to be read, heard and chosen. */
@Component({
  selector: 'nl-passage-list',
  imports: [Icon],
  template: `
    <ol>
      @for (passage of passages(); track passage.key) {
        <li [class.active]="passage.key === current()" [attr.data-passage]="passage.key">
          <input
            type="checkbox"
            class="form-check-input"
            [checked]="chosen().has(passage.key)"
            [attr.aria-label]="'Choose the passage at ' + passage.place + ' in ' + passage.call"
            (change)="toggled.emit(passage)"
          />
          <div class="said">
            <button
              type="button"
              class="from"
              [attr.aria-current]="passage.key === current() ? 'true' : null"
              title="Hear it"
              (click)="gone.emit(passage)"
            >
              <nl-icon name="play" /><span class="mono">{{ passage.place }}</span
              >&ngsp;<span class="cut" dir="auto" [title]="passage.asset.name">{{ passage.call }}</span>
              @if (passage.speaker) {
                &ngsp;<span class="muted cut" dir="auto" [title]="passage.speaker">{{ passage.speaker }}</span>
              }
            </button>
            <p class="words" dir="auto">
              @for (piece of passage.pieces; track $index) {
                @if (piece.is === 'between') {
                  {{ piece.text }}
                } @else {
                  &ngsp;<mark
                    [class.alike]="piece.is === 'alike'"
                    [title]="piece.is === 'alike' ? 'Heard as this' : ''"
                    >{{ piece.text }}</mark
                  >&ngsp;
                }
              }
            </p>
            <p class="muted small why">
              {{ passage.why }}.
              @if (isRanked()) {
                {{ passage.best }}% likely.
              }
            </p>
          </div>
        </li>
      }
    </ol>
  `,
  styles: `
    ol {
      margin: 0;
      padding: 0;
      list-style: none;
    }
    li {
      display: grid;
      grid-template-columns: auto minmax(0, 1fr);
      gap: 10px;
      padding: 8px;
      border-bottom: 1px solid var(--nl-line);
    }
    li.active {
      background: var(--nl-accent-soft);
    }
    .from {
      display: flex;
      align-items: baseline;
      gap: 8px;
      max-width: 100%;
      padding: 0 4px;
      border: 0;
      border-radius: 4px;
      background: none;
      color: var(--nl-ink);
      text-align: left;
    }
    .from:hover {
      background: var(--nl-sunk);
    }
    .from nl-icon {
      align-self: center;
    }
    .words {
      max-width: 75ch;
      margin: 2px 4px;
      overflow-wrap: anywhere;
    }
    .why {
      margin: 0 4px;
    }
    mark {
      padding: 0 2px;
      background: var(--nl-mark);
      color: inherit;
    }
    mark.alike {
      background: none;
      box-shadow: inset 0 -2px var(--nl-warn);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class PassageList {
  readonly passages = input.required<readonly ListedPassage[]>();
  /** By their keys: those that are chosen, and the one that was heard last. */
  readonly chosen = input.required<ReadonlySet<string>>();
  readonly current = input<string | null>(null);
  /** How likely each is, is said. */
  readonly isRanked = input(false);
  readonly gone = output<ListedPassage>();
  readonly toggled = output<ListedPassage>();
}
