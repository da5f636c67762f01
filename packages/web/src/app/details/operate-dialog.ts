import { ChangeDetectionStrategy, Component, computed, effect, inject, Injectable, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { NgbActiveModal, NgbModal } from '@ng-bootstrap/ng-bootstrap';
import {
  OPERATION_LABELS,
  operationSchema,
  operationsOn,
  valueText,
  type Operation,
  type OperationKind,
  type SettableFieldId,
  type SetValue,
} from '@larder/core/fields';
import type { AskedOperation, OperationPreview } from '@larder/contract';
import { Api, type Failure } from '../shared/api';
import { ask } from '../shared/ask';
import { Fields } from '../shared/fields';
import { counted } from '../shared/format';

/** While somebody types, the preview waits this long. */
const PREVIEW_MS = 250;
const ROWS = 12;

const listed = (text: string): string[] =>
  text
    .split(',')
    .map((name) => name.trim())
    .filter(Boolean);

/** Does something to a field of many assets, each differently, and shows beforehand what will come of it. */
@Component({
  selector: 'nl-operate-form',
  imports: [FormsModule],
  templateUrl: './operate-dialog.html',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
class OperateForm {
  protected readonly modal = inject(NgbActiveModal);
  private readonly api = inject(Api);
  private readonly registry = inject(Fields).registry;
  readonly assetIds = signal<readonly number[]>([]);
  readonly seenRevision = signal(0);
  protected readonly labels = OPERATION_LABELS;
  protected readonly counted = counted;
  protected readonly fields = computed(() =>
    this.registry().settable.filter((field) => operationsOn(field).length > 0 && !field.retired),
  );
  protected readonly fieldId = signal<SettableFieldId>('title');
  protected readonly field = computed(() => this.fields().find(({ id }) => id === this.fieldId()));
  protected readonly operations = computed(() => operationsOn(this.field() ?? { type: 'text' }));
  private readonly wish = signal<OperationKind>('replace');
  /** What was chosen, or the first that the field allows. */
  protected readonly kind = computed(() =>
    this.operations().includes(this.wish()) ? this.wish() : (this.operations()[0] ?? 'prefix'),
  );
  protected readonly text = signal('');
  protected readonly by = signal('');
  protected readonly exact = signal(false);
  protected readonly pattern = signal('##');
  protected readonly from = signal(1);
  protected readonly step = signal(1);
  protected readonly preview = signal<OperationPreview | null>(null);
  protected readonly issue = signal<string | null>(null);
  protected readonly rows = computed(() => this.preview()?.rows.slice(0, ROWS) ?? []);

  private readonly operation = computed(() => {
    const shapes: Record<OperationKind, unknown> = {
      prefix: { op: 'prefix', text: this.text() },
      suffix: { op: 'suffix', text: this.text() },
      replace: { op: 'replace', find: this.text(), by: this.by(), exact: this.exact() },
      number: { op: 'number', pattern: this.pattern(), from: this.from(), step: this.step() },
      add: { op: 'add', names: listed(this.text()) },
      remove: { op: 'remove', names: listed(this.text()) },
    };
    return shapes[this.kind()];
  });

  constructor() {
    effect((onCleanup) => {
      const asked = this.asked();
      this.preview.set(null);
      if (!asked) return;
      const timer = setTimeout(() => {
        const call = this.api.call('previewOperation', asked).subscribe({
          next: (preview) => this.preview.set(preview),
          error: (failure: Failure) => this.issue.set(failure.message),
        });
        onCleanup(() => call.unsubscribe());
      }, PREVIEW_MS);
      onCleanup(() => clearTimeout(timer));
    });
  }

  /** What is to be done, or null with the reason beside it. */
  private asked(): AskedOperation | null {
    const base = { assetIds: [...this.assetIds()], seenRevision: this.seenRevision(), field: this.fieldId() };
    try {
      const operation = operationSchema.validateSync(this.operation()) as Operation;
      this.issue.set(null);
      return base.assetIds.length > 0 ? { ...base, operation } : null;
    } catch (error) {
      this.issue.set((error as Error).message);
      return null;
    }
  }

  protected choose(kind: OperationKind): void {
    this.wish.set(kind);
  }

  protected said(value: SetValue): string {
    return valueText(value, this.field()?.type) || 'empty';
  }

  protected done(): void {
    const asked = this.asked();
    if (asked && this.preview()?.wrong.length === 0)
      this.modal.close({ asked, label: `${this.field()?.label ?? 'Field'} changed` } satisfies Chosen);
  }
}

export interface Chosen {
  readonly asked: AskedOperation;
  readonly label: string;
}

@Injectable({ providedIn: 'root' })
export class OperateDialog {
  private readonly modals = inject(NgbModal);

  /** What is to be done to these assets, in this order; null if the person thought better of it. */
  ask(assetIds: readonly number[], seenRevision: number): Promise<Chosen | null> {
    const options = { ariaLabelledBy: 'operate-title', size: 'lg', scrollable: true };
    return ask(this.modals, OperateForm, options, (form) => {
      form.assetIds.set(assetIds);
      form.seenRevision.set(seenRevision);
    });
  }
}
