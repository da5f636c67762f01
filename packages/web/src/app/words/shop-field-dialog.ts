import { ChangeDetectionStrategy, Component, computed, inject, Injectable, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { NgbActiveModal, NgbModal } from '@ng-bootstrap/ng-bootstrap';
import { ValidationError } from 'yup';
import {
  newKey,
  SHOP_FIELD_TYPES,
  SHOP_TYPE_LABELS,
  shopFieldSchema,
  takesChoices,
  type NewShopField,
  type ShopFieldType,
} from '@larder/core/fields';
import type { ShopFieldRow } from '@larder/contract';
import { ask } from '../shared/ask';
import { Fields } from '../shared/fields';

const OWN_GROUP = '\n';

/** One of the shop's fields: what it is called, what it takes, where it stands. */
@Component({
  selector: 'nl-shop-field-form',
  imports: [FormsModule],
  templateUrl: './shop-field-dialog.html',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
class ShopFieldForm {
  protected readonly modal = inject(NgbActiveModal);
  private readonly fields = inject(Fields);
  protected readonly types = SHOP_FIELD_TYPES.map((type) => ({ type, label: SHOP_TYPE_LABELS[type] }));
  protected readonly ownGroup = OWN_GROUP;
  protected readonly groups = computed(() =>
    this.fields.registry().groups.filter(({ id }) => !['picture', 'sound', 'file'].includes(id)),
  );
  readonly known = signal<ShopFieldRow | null>(null);
  protected readonly issues = signal<readonly string[]>([]);

  protected readonly label = signal('');
  protected readonly type = signal<ShopFieldType>('text');
  protected readonly group = signal('logged');
  protected readonly groupTitle = signal('');
  protected readonly help = signal('');
  protected readonly choices = signal('');
  protected readonly least = signal<number | null>(null);
  protected readonly most = signal<number | null>(null);
  protected readonly unit = signal('');
  protected readonly plain = signal(true);
  protected readonly standard = signal('');
  protected readonly listed = computed(() => takesChoices(this.type()));
  /** How searches will write it. */
  protected readonly key = computed(
    () => this.known()?.key ?? (this.label().trim() ? newKey(this.label(), this.fields.registry().names) : ''),
  );

  show(known: ShopFieldRow): void {
    this.known.set(known);
    this.label.set(known.label);
    this.type.set(known.type);
    this.group.set(known.group);
    this.help.set(known.help);
    this.choices.set(known.choices.join('\n'));
    this.least.set(known.range?.[0] ?? null);
    this.most.set(known.range?.[1] ?? null);
    this.unit.set(known.unit);
    this.plain.set(known.plain);
    this.standard.set(known.standard);
  }

  protected keep(): void {
    const [least, most] = [this.least(), this.most()];
    const number = this.type() === 'number';
    const field = {
      label: this.label().trim(),
      type: this.type(),
      group: this.group() === OWN_GROUP ? this.groupTitle().trim() : this.group(),
      help: this.help().trim(),
      choices: this.listed()
        ? this.choices()
            .split('\n')
            .map((choice) => choice.trim())
            .filter(Boolean)
        : [],
      range: number && (least !== null || most !== null) ? [least ?? -1e12, most ?? 1e12] : null,
      unit: number ? this.unit().trim() : '',
      plain: this.plain(),
      retired: this.known()?.retired ?? false,
      standard: this.standard().trim(),
    };
    try {
      this.modal.close(shopFieldSchema.validateSync(field, { abortEarly: false }));
    } catch (error) {
      this.issues.set(error instanceof ValidationError ? error.errors : [(error as Error).message]);
    }
  }
}

@Injectable({ providedIn: 'root' })
export class ShopFieldDialog {
  private readonly modals = inject(NgbModal);

  /** The field as the person wants it, or null if they thought better of it. */
  ask(known: ShopFieldRow | null): Promise<NewShopField | null> {
    return ask(this.modals, ShopFieldForm, { ariaLabelledBy: 'shop-field-title', scrollable: true }, (form) => {
      if (known) form.show(known);
    });
  }
}
