import { ChangeDetectionStrategy, Component, inject, Injectable, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { NgbActiveModal, NgbModal } from '@ng-bootstrap/ng-bootstrap';
import { tagSchema } from '@larder/core/fields';
import { parseQuery, wordQueryIssue } from '@larder/core/query';
import type { Tag } from '@larder/contract';
import { ask } from '../shared/ask';
import { Fields } from '../shared/fields';

/** Into what a tag is split, and on which of its clips. */
@Component({
  selector: 'nl-split-form',
  imports: [FormsModule],
  template: `
    <form (ngSubmit)="split()">
      <div class="modal-header">
        <h2 class="h5 m-0" id="split-title">Split “{{ tag()?.name }}”</h2>
      </div>
      <div class="modal-body d-grid gap-2">
        <div>
          <label class="form-label" for="split-names">New tags in its place, with commas between</label>
          <input
            id="split-names"
            name="names"
            class="form-control"
            [(ngModel)]="names"
            autocomplete="off"
            ngbAutofocus
          />
        </div>
        <div>
          <label class="form-label" for="split-query">On those of its clips that this search finds</label>
          <input
            id="split-query"
            name="query"
            class="form-control mono"
            [(ngModel)]="query"
            autocomplete="off"
            spellcheck="false"
            placeholder="empty: on all of them"
          />
          <div class="form-text">All others keep “{{ tag()?.name }}”.</div>
        </div>
        @if (issue(); as words) {
          <p class="text-danger m-0" role="alert">{{ words }}</p>
        }
      </div>
      <div class="modal-footer">
        <button type="button" class="btn btn-plain" (click)="modal.dismiss()">Cancel</button>
        <button type="submit" class="btn btn-primary">Split it</button>
      </div>
    </form>
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
class SplitForm {
  protected readonly modal = inject(NgbActiveModal);
  private readonly fields = inject(Fields);
  readonly tag = signal<Tag | null>(null);
  protected readonly names = signal('');
  protected readonly query = signal('');
  protected readonly issue = signal<string | null>(null);

  protected split(): void {
    const names = this.names()
      .split(',')
      .map((name) => name.trim())
      .filter(Boolean);
    const query = this.query().trim();
    const [wrong] = parseQuery(query, this.fields.registry()).issues;
    if (names.length === 0) return this.issue.set('Name at least one new tag.');
    if (wrong) return this.issue.set(wordQueryIssue(wrong));
    try {
      this.modal.close({ names: names.map((name) => tagSchema.validateSync(name)), query });
    } catch (error) {
      this.issue.set((error as Error).message);
    }
  }
}

@Injectable({ providedIn: 'root' })
export class SplitDialog {
  private readonly modals = inject(NgbModal);

  ask(tag: Tag): Promise<{ names: string[]; query: string } | null> {
    return ask(this.modals, SplitForm, { ariaLabelledBy: 'split-title' }, (form) => form.tag.set(tag));
  }
}
