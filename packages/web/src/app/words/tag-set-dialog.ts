import { ChangeDetectionStrategy, Component, inject, Injectable, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { NgbActiveModal, NgbModal } from '@ng-bootstrap/ng-bootstrap';
import { LETTERS, PATTERN_LABELS, PATTERNS, tagSetSchema, type Pattern, type TagSetChange } from '@larder/core/tags';
import type { TagSet } from '@larder/contract';
import { ask } from '../shared/ask';

/** What a set of tags is called and how it is told from others. */
@Component({
  selector: 'nl-tag-set-form',
  imports: [FormsModule],
  template: `
    <form (ngSubmit)="keep()">
      <div class="modal-header"><h2 class="h5 m-0" id="set-title">A set of tags</h2></div>
      <div class="modal-body d-grid gap-2">
        <div>
          <label class="form-label" for="set-name">Topic</label>
          <input
            id="set-name"
            name="name"
            class="form-control"
            [(ngModel)]="name"
            placeholder="Light"
            autocomplete="off"
            ngbAutofocus
          />
        </div>
        <div>
          <label class="form-label" for="set-description">What belongs in it</label>
          <input id="set-description" name="description" class="form-control" [(ngModel)]="description" />
        </div>
        <div class="beside">
          <div>
            <label class="form-label" for="set-letter">Its key</label>
            <select id="set-letter" name="letter" class="form-select" [(ngModel)]="letter">
              <option value="">By its name</option>
              @for (each of letters; track each) {
                <option [value]="each">{{ each }}</option>
              }
            </select>
          </div>
          <div>
            <label class="form-label" for="set-pattern">Its pattern</label>
            <select id="set-pattern" name="pattern" class="form-select" [(ngModel)]="pattern">
              @for (each of patterns; track each) {
                <option [value]="each">{{ labels[each] }}</option>
              }
            </select>
          </div>
        </div>
        <div>
          <span class="slip" [attr.data-pattern]="pattern()">{{ name() || 'a tag' }}</span>
        </div>
        @if (issue(); as words) {
          <p class="text-danger m-0" role="alert">{{ words }}</p>
        }
      </div>
      <div class="modal-footer">
        <button type="button" class="btn btn-plain" (click)="modal.dismiss()">Cancel</button>
        <button type="submit" class="btn btn-primary">Keep it so</button>
      </div>
    </form>
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
class TagSetForm {
  protected readonly modal = inject(NgbActiveModal);
  protected readonly letters = [...LETTERS];
  protected readonly patterns = PATTERNS;
  protected readonly labels = PATTERN_LABELS;
  protected readonly issue = signal<string | null>(null);
  protected readonly name = signal('');
  protected readonly description = signal('');
  protected readonly letter = signal('');
  protected readonly pattern = signal<Pattern>('plain');

  show(set: TagSet): void {
    this.name.set(set.name);
    this.description.set(set.description);
    this.letter.set(set.letter);
    this.pattern.set(set.pattern);
  }

  protected keep(): void {
    const [name, description, letter, pattern] = [this.name(), this.description(), this.letter(), this.pattern()];
    try {
      this.modal.close(tagSetSchema.validateSync({ name, description, letter, pattern }));
    } catch (error) {
      this.issue.set((error as Error).message);
    }
  }
}

@Injectable({ providedIn: 'root' })
export class TagSetDialog {
  private readonly modals = inject(NgbModal);

  ask(known: TagSet | null): Promise<TagSetChange | null> {
    return ask(this.modals, TagSetForm, { ariaLabelledBy: 'set-title' }, (form) => {
      if (known) form.show(known);
    });
  }
}
