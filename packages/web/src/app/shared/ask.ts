import type { Type } from '@angular/core';
import type { NgbModal, NgbModalOptions } from '@ng-bootstrap/ng-bootstrap';

/** Opens a form as a dialog, sets it up, and gives its answer, or null if the person thought better of it. */
export function ask<Form, Answer>(
  modals: NgbModal,
  form: Type<Form>,
  options: NgbModalOptions,
  setUp: (form: Form) => void,
): Promise<Answer | null> {
  const modal = modals.open(form, options);
  setUp(modal.componentInstance as Form);
  return modal.result.then(
    (answer: Answer) => answer,
    () => null,
  );
}
