import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { Store } from '@ngrx/store';
import { BUILT_IN, mayBePlain, type FieldId } from '@larder/core/fields';
import { Api, type Failure } from '../shared/api';
import { Fields, shopFields } from '../shared/fields';
import { mayOffer, sessionFeature } from '../shared/session';
import { Toasts } from '../shared/toasts';

/** Which of the fields that are built in plain words look into, for everybody. */
@Component({
  selector: 'nl-plain-fields',
  template: `
    <div class="head">
      <h2>Where plain words look</h2>
      @if (mayKeep() && isChosen()) {
        <button type="button" class="btn btn-plain btn-sm" (click)="keep(byThemselves)">As it was at first</button>
      }
    </div>
    <p class="muted small">
      A word without the name of a field is looked for in these, for everybody. Fields of your own say it themselves.
    </p>
    <div class="groups">
      @for (group of groups(); track group.id) {
        <fieldset [disabled]="!mayKeep()">
          <legend>{{ group.label }}</legend>
          @for (field of group.fields; track field.id) {
            <label [title]="field.help">
              <input
                type="checkbox"
                class="form-check-input"
                [checked]="field.plain"
                [attr.data-plain]="field.id"
                (change)="toggle(field.id)"
              />
              {{ field.label }}
            </label>
          }
        </fieldset>
      }
    </div>
  `,
  styles: `
    .groups {
      columns: 4 170px;
    }
    fieldset {
      break-inside: avoid;
      margin-bottom: 8px;
    }
    legend {
      font-size: 0.85rem;
      margin: 0;
    }
    label {
      display: block;
    }
    input {
      margin-right: 6px;
    }
  `,
  styleUrl: './words.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class PlainFields {
  private readonly api = inject(Api);
  private readonly toasts = inject(Toasts);
  private readonly store = inject(Store);
  private readonly registry = inject(Fields).registry;
  private readonly person = this.store.selectSignal(sessionFeature.selectPerson);
  private readonly able = computed(() =>
    this.registry().all.filter(
      (field) =>
        BUILT_IN.byId(field.id) !== undefined && mayBePlain(field) && (field.type === 'longText' || !field.asked),
    ),
  );
  private readonly plain = computed(() => this.able().flatMap(({ id, plain }) => (plain ? [id] : [])));
  protected readonly byThemselves = BUILT_IN.plain;
  protected readonly mayKeep = computed(() => mayOffer(this.person(), 'keep'));
  protected readonly isChosen = computed(() => this.plain().join() !== this.byThemselves.join());
  protected readonly groups = computed(() =>
    this.registry()
      .groups.map((group) => ({ ...group, fields: this.able().filter((field) => field.group === group.id) }))
      .filter(({ fields }) => fields.length > 0),
  );

  protected toggle(id: FieldId): void {
    const plain = this.plain();
    this.keep(plain.includes(id) ? plain.filter((each) => each !== id) : [...plain, id]);
  }

  protected keep(ids: readonly FieldId[]): void {
    this.api.call('plainFields', { ids }).subscribe({
      next: () => this.store.dispatch(shopFields.wanted()),
      error: (failure: Failure) => {
        this.toasts.failed(failure.message);
        // What is ticked is what holds.
        this.store.dispatch(shopFields.wanted());
      },
    });
  }
}
