import { ChangeDetectionStrategy, Component, computed, input, output, signal } from '@angular/core';
import type { RelinkDecision, RelinkItem as Item } from '@larder/contract';
import { Icon } from '../shared/icon';
import { MovedPath } from './moved-path';
import {
  AGREEMENTS,
  blockedWords,
  evidenceValue,
  evidenceWord,
  hasSharedEnds,
  LIKENESS_MEANS,
  LIKENESS_WORDS,
  percent,
  STATE_WORDS,
  verifiedWords,
} from './relink-words';

/** One missing original of a plan: where it was, the candidate that is taken, what speaks for it, and what is decided. */
@Component({
  selector: 'nl-relink-item',
  imports: [Icon, MovedPath],
  templateUrl: './relink-item.html',
  styleUrl: './relink-item.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class RelinkItem {
  readonly item = input.required<Item>();
  readonly mayKeep = input.required<boolean>();
  readonly decided = output<{ readonly decision: RelinkDecision; readonly chosen: number | null }>();
  readonly pointed = output();

  protected readonly open = signal(false);
  protected readonly match = computed(() => this.item().matches[this.item().chosen]);
  protected readonly candidate = computed(() => {
    const match = this.match();
    return match ? `${match.storage}/${match.path}` : null;
  });
  protected readonly blocked = computed(() => {
    const match = this.match();
    return match ? blockedWords(match) : null;
  });
  protected readonly hasSharedEnds = computed(() => {
    const match = this.match();
    return match !== undefined && hasSharedEnds(match);
  });
  protected readonly isOpen = computed(() => !['mended', 'back'].includes(this.item().state));
  protected readonly isAccepted = computed(() => this.item().state === 'accepted');
  protected readonly isRejected = computed(() => this.item().state === 'rejected');

  protected readonly likenessWords = LIKENESS_WORDS;
  protected readonly likenessMeans = LIKENESS_MEANS;
  protected readonly stateWords = STATE_WORDS;
  protected readonly agreements = AGREEMENTS;
  protected readonly evidenceWord = evidenceWord;
  protected readonly value = evidenceValue;
  protected readonly percent = percent;
  protected readonly verifiedWords = verifiedWords;

  protected decide(decision: RelinkDecision): void {
    this.decided.emit({ decision, chosen: null });
  }

  protected choose(chosen: number): void {
    this.decided.emit({ decision: 'open', chosen });
  }
}
