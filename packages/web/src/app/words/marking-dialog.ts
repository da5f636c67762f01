import { ChangeDetectionStrategy, Component, computed, inject, Injectable, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { NgbActiveModal, NgbModal } from '@ng-bootstrap/ng-bootstrap';
import { MARKER_COLOURS, type MarkerColour } from '@larder/core/markers';
import { markingSchema, type Marking, type NewMarking } from '@larder/core/markings';
import { parseQuery, wordQueryIssue } from '@larder/core/query';
import { ask } from '../shared/ask';
import { Fields } from '../shared/fields';

/** What a marking is called, its colour and its rule. */
@Component({
  selector: 'nl-marking-form',
  imports: [FormsModule],
  template: `
    <form (ngSubmit)="keep()">
      <div class="modal-header"><h2 class="h5 m-0" id="marking-title">A marking</h2></div>
      <div class="modal-body d-grid gap-2">
        <div class="beside">
          <div>
            <label class="form-label" for="marking-name">Its name</label>
            <input
              id="marking-name"
              name="name"
              class="form-control"
              [(ngModel)]="name"
              placeholder="For the trailer"
              autocomplete="off"
              ngbAutofocus
            />
          </div>
          <div>
            <label class="form-label" for="marking-colour">Its colour</label>
            <select id="marking-colour" name="colour" class="form-select" [(ngModel)]="colour">
              @for (each of colours; track each) {
                <option [value]="each">{{ each === 'none' ? 'no colour' : each }}</option>
              }
            </select>
          </div>
        </div>
        <div>
          <label class="form-label" for="marking-rule"
            >Put on by itself where this search fits; empty for by hand only</label
          >
          <input
            id="marking-rule"
            name="rule"
            class="form-control mono"
            [(ngModel)]="rule"
            [class.is-invalid]="wrong()"
            placeholder='kind:audio, in:"Trailer", tag:archive'
            autocomplete="off"
            spellcheck="false"
          />
          @if (wrong(); as words) {
            <div class="invalid-feedback d-block" role="alert">{{ words }}</div>
          }
        </div>
        <div>
          <span class="mark" [attr.data-colour]="colour()"><i></i>{{ name() || 'a marking' }}</span>
        </div>
        @if (issue(); as words) {
          <p class="text-danger m-0" role="alert">{{ words }}</p>
        }
      </div>
      <div class="modal-footer">
        <button type="button" class="btn btn-plain" (click)="modal.dismiss()">Cancel</button>
        <button type="submit" class="btn btn-primary" [disabled]="wrong() !== null">Keep it so</button>
      </div>
    </form>
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
class MarkingForm {
  protected readonly modal = inject(NgbActiveModal);
  private readonly fields = inject(Fields);
  protected readonly colours = MARKER_COLOURS;
  protected readonly issue = signal<string | null>(null);
  protected readonly name = signal('');
  protected readonly colour = signal<MarkerColour>('red');
  protected readonly rule = signal('');
  protected readonly wrong = computed(() => {
    const [issue] = this.rule().trim() === '' ? [] : parseQuery(this.rule(), this.fields.registry()).issues;
    return issue ? wordQueryIssue(issue) : null;
  });

  show({ name, colour, rule }: Marking): void {
    this.name.set(name);
    this.colour.set(colour);
    this.rule.set(rule);
  }

  protected keep(): void {
    const [name, colour, rule] = [this.name(), this.colour(), this.rule()];
    try {
      this.modal.close(markingSchema.validateSync({ name, colour, rule }));
    } catch (error) {
      this.issue.set((error as Error).message);
    }
  }
}

@Injectable({ providedIn: 'root' })
export class MarkingDialog {
  private readonly modals = inject(NgbModal);

  ask(known: Marking | null): Promise<NewMarking | null> {
    return ask(this.modals, MarkingForm, { ariaLabelledBy: 'marking-title' }, (form) => {
      if (known) form.show(known);
    });
  }
}
