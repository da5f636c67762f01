import { ChangeDetectionStrategy, Component, inject, Injectable, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { NgbActiveModal, NgbModal } from '@ng-bootstrap/ng-bootstrap';
import { ValidationError } from 'yup';
import { LETTERS, tagChangeSchema, type TagChange } from '@larder/core/tags';
import type { Tag } from '@larder/contract';
import { ask } from '../shared/ask';
import { Tags } from '../shared/tags';

/** What one tag is called, where it stands, and what else is typed for it. */
@Component({
  selector: 'nl-tag-form',
  imports: [FormsModule],
  template: `
    <form (ngSubmit)="keep()">
      <div class="modal-header"><h2 class="h5 m-0" id="tag-title">Change the tag</h2></div>
      <div class="modal-body d-grid gap-2">
        <div>
          <label class="form-label" for="tag-name">Name</label>
          <input id="tag-name" name="name" class="form-control" [(ngModel)]="name" autocomplete="off" ngbAutofocus />
          <div class="form-text">Every clip keeps it under its new name; the old one is still read as this tag.</div>
        </div>
        <div class="beside">
          <div>
            <label class="form-label" for="tag-set">Set</label>
            <select id="tag-set" name="set" class="form-select" [(ngModel)]="setId">
              <option [ngValue]="null">None: a free tag</option>
              @for (set of sets(); track set.id) {
                <option [ngValue]="set.id">{{ set.name }}</option>
              }
            </select>
          </div>
          <div>
            <label class="form-label" for="tag-letter">Its key</label>
            <select id="tag-letter" name="letter" class="form-select" [(ngModel)]="letter">
              <option value="">By its name</option>
              @for (each of letters; track each) {
                <option [value]="each">{{ each }}</option>
              }
            </select>
          </div>
        </div>
        <div>
          <label class="form-label" for="tag-description">When to use it</label>
          <input id="tag-description" name="description" class="form-control" [(ngModel)]="description" />
        </div>
        <div>
          <label class="form-label" for="tag-synonyms">Other words for it, with commas between</label>
          <input id="tag-synonyms" name="synonyms" class="form-control" [(ngModel)]="synonyms" autocomplete="off" />
        </div>
        @if (issues().length > 0) {
          <p class="text-danger m-0" role="alert">{{ issues().join(' ') }}</p>
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
class TagForm {
  protected readonly modal = inject(NgbActiveModal);
  private readonly tags = inject(Tags);
  protected readonly sets = () => this.tags.book().sets;
  protected readonly letters = [...LETTERS];
  protected readonly issues = signal<readonly string[]>([]);
  protected readonly name = signal('');
  protected readonly setId = signal<number | null>(null);
  protected readonly letter = signal('');
  protected readonly description = signal('');
  protected readonly synonyms = signal('');

  show(tag: Tag): void {
    this.name.set(tag.name);
    this.setId.set(tag.setId);
    this.letter.set(tag.letter);
    this.description.set(tag.description);
    this.synonyms.set(tag.synonyms.join(', '));
  }

  protected keep(): void {
    const synonyms = this.synonyms()
      .split(',')
      .map((word) => word.trim())
      .filter(Boolean);
    try {
      this.modal.close(
        tagChangeSchema.validateSync(
          {
            ...{ name: this.name(), setId: this.setId(), letter: this.letter() },
            ...{ description: this.description(), synonyms },
          },
          { abortEarly: false },
        ),
      );
    } catch (error) {
      this.issues.set(error instanceof ValidationError ? error.errors : [(error as Error).message]);
    }
  }
}

@Injectable({ providedIn: 'root' })
export class TagDialog {
  private readonly modals = inject(NgbModal);

  ask(tag: Tag): Promise<TagChange | null> {
    return ask(this.modals, TagForm, { ariaLabelledBy: 'tag-title' }, (form) => form.show(tag));
  }
}
