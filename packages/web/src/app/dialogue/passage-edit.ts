import {
  afterNextRender,
  ChangeDetectionStrategy,
  Component,
  type ElementRef,
  input,
  linkedSignal,
  output,
  untracked,
  viewChild,
} from '@angular/core';

/** What of a passage is to be other than it was; null for what is not. */
export interface PassageChange {
  readonly text: string | null;
  readonly speaker: string | null;
}

/** A passage while it is corrected: its words, and who speaks them. */
@Component({
  selector: 'nl-passage-edit',
  template: `
    <input
      #who
      class="form-control form-control-sm"
      aria-label="Who speaks"
      placeholder="Who speaks"
      autocomplete="off"
      maxlength="80"
      [value]="begun().speaker"
      (keydown.enter)="save()"
      (keydown.escape)="cancel($event)"
    />
    <textarea
      #words
      class="form-control form-control-sm"
      aria-label="What is said"
      dir="auto"
      [rows]="rows()"
      [value]="begun().text"
      (keydown.control.enter)="save()"
      (keydown.escape)="cancel($event)"
    ></textarea>
    <div class="acts">
      <button type="button" class="btn btn-plain btn-sm" [disabled]="saving()" (click)="save()" title="Ctrl and Enter">
        Done
      </button>
      <button type="button" class="btn btn-quiet btn-sm" (click)="cancelled.emit()">Cancel</button>
      <span class="muted small">Words that stay keep their times.</span>
    </div>
  `,
  styles: `
    :host {
      display: grid;
      gap: 4px;
    }

    .acts {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 6px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class PassageEdit {
  readonly text = input.required<string>();
  readonly speaker = input.required<string>();
  readonly saving = input.required<boolean>();
  readonly saved = output<PassageChange>();
  readonly cancelled = output();
  /** As it was when this was opened: what others make of it meanwhile does not change what is under the fingers. */
  protected readonly begun = linkedSignal({
    source: () => null,
    computation: () => ({ text: untracked(this.text), speaker: untracked(this.speaker) }),
  });
  private readonly words = viewChild.required<ElementRef<HTMLTextAreaElement>>('words');
  private readonly who = viewChild.required<ElementRef<HTMLInputElement>>('who');

  constructor() {
    afterNextRender(() => this.words().nativeElement.focus());
  }

  protected rows(): number {
    return Math.min(10, 2 + Math.floor(this.text().length / 40));
  }

  protected save(): void {
    const [text, speaker] = [this.words().nativeElement.value.trim(), this.who().nativeElement.value.trim()];
    const change = {
      text: text === this.begun().text ? null : text,
      speaker: speaker === this.begun().speaker ? null : speaker,
    };
    if (change.text === null && change.speaker === null) this.cancelled.emit();
    else this.saved.emit(change);
  }

  protected cancel(event: Event): void {
    event.stopPropagation();
    this.cancelled.emit();
  }
}
