import { ChangeDetectionStrategy, Component, inject, Injectable, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { NgbActiveModal, NgbModal } from '@ng-bootstrap/ng-bootstrap';
import { ask } from './ask';

export interface NameQuestion {
  readonly title: string;
  readonly label: string;
  readonly suggestion: string;
  readonly action: string;
}

/** Asks for one name. */
@Component({
  selector: 'nl-name-question',
  imports: [FormsModule],
  template: `
    <form (ngSubmit)="name.trim() && modal.close(name.trim())">
      <div class="modal-header">
        <h2 class="h5 m-0" id="name-title">{{ question()?.title }}</h2>
      </div>
      <div class="modal-body">
        <label class="form-label" for="name-field">{{ question()?.label }}</label>
        <input
          id="name-field"
          name="name"
          class="form-control"
          maxlength="120"
          [(ngModel)]="name"
          autocomplete="off"
          ngbAutofocus
        />
      </div>
      <div class="modal-footer">
        <button type="button" class="btn btn-plain" (click)="modal.dismiss()">Cancel</button>
        <button type="submit" class="btn btn-primary" [disabled]="!name.trim()">{{ question()?.action }}</button>
      </div>
    </form>
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
class NameForm {
  protected readonly modal = inject(NgbActiveModal);
  readonly question = signal<NameQuestion | null>(null);
  name = '';
}

@Injectable({ providedIn: 'root' })
export class NameDialog {
  private readonly modals = inject(NgbModal);

  /** The name that was given, or null if the person thought better of it. */
  ask(question: NameQuestion): Promise<string | null> {
    return ask(this.modals, NameForm, { ariaLabelledBy: 'name-title' }, (form) => {
      form.question.set(question);
      form.name = question.suggestion;
    });
  }
}
