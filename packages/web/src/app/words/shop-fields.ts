import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { Store } from '@ngrx/store';
import type { Observable } from 'rxjs';
import { GROUP_LABELS, SHOP_TYPE_LABELS, type FieldGroup, type NewShopField } from '@larder/core/fields';
import type { ShopFieldRow } from '@larder/contract';
import { Api, type Failure } from '../shared/api';
import { shopFields } from '../shared/fields';
import { Icon } from '../shared/icon';
import { mayOffer, sessionFeature } from '../shared/session';
import { Toasts } from '../shared/toasts';
import { ShopFieldDialog } from './shop-field-dialog';

/** The shop's own fields: added, changed, put in order and retired. */
@Component({
  selector: 'nl-shop-fields',
  imports: [Icon],
  template: `
    <div class="head">
      <h2>Fields of your own</h2>
      @if (mayKeep()) {
        <button type="button" class="btn btn-plain btn-sm" (click)="add()"><nl-icon name="plus" />Add a field</button>
      }
    </div>
    @if (failed()) {
      <p class="m-0" role="alert">The fields cannot be shown just now.</p>
    }
    @for (field of all(); track field.id; let first = $first, last = $last) {
      <div class="line" [class.retired]="field.retired" [attr.data-field]="field.key">
        <div class="what">
          <b>{{ field.label }}</b><span class="mono muted key">{{ field.key }}:</span>
          @if (field.retired) {
            <span class="slip">retired</span>
          }
          <div class="muted small cut" [title]="words(field)">{{ words(field) }}</div>
        </div>
        @if (mayKeep()) {
          <button
            type="button"
            class="btn btn-quiet btn-sm"
            [disabled]="first"
            (click)="move(field, -1)"
            [attr.aria-label]="field.label + ' one earlier'"
          >
            <nl-icon name="up" />
          </button>
          <button
            type="button"
            class="btn btn-quiet btn-sm"
            [disabled]="last"
            (click)="move(field, 1)"
            [attr.aria-label]="field.label + ' one later'"
          >
            <nl-icon name="down" />
          </button>
          <button type="button" class="btn btn-quiet btn-sm" (click)="change(field)">Change</button>
          <button
            type="button"
            class="btn btn-quiet btn-sm"
            (click)="retire(field)"
            title="What was said in a retired field is kept and found; it is only not offered any more."
          >
            {{ field.retired ? 'Take back' : 'Retire' }}
          </button>
        }
      </div>
    } @empty {
      <p class="muted m-0">
        None yet. Reel, scene, people, rights and the like are there by themselves; what only this shop needs is added
        here.
      </p>
    }
  `,
  styleUrl: './words.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ShopFields {
  private readonly api = inject(Api);
  private readonly toasts = inject(Toasts);
  private readonly dialog = inject(ShopFieldDialog);
  private readonly store = inject(Store);
  private readonly state = this.store.selectSignal(shopFields.select);
  private readonly person = this.store.selectSignal(sessionFeature.selectPerson);
  protected readonly mayKeep = computed(() => mayOffer(this.person(), 'keep'));
  protected readonly all = computed(() => this.state().value?.fields ?? []);
  protected readonly failed = computed(() => this.state().failure !== null);

  protected words({ type, unit, group, choices, help }: ShopFieldRow): string {
    const takes = `${SHOP_TYPE_LABELS[type]}${unit ? `, in ${unit}` : ''}`;
    const list = choices.length > 0 ? `${choices.join(', ')}. ` : '';
    return `${takes}, among “${GROUP_LABELS[group as FieldGroup] ?? group}”. ${list}${help}`;
  }

  protected async add(): Promise<void> {
    const field = await this.dialog.ask(null);
    if (field) this.tell(this.api.call('newField', field), `The field “${field.label}” is there.`);
  }

  protected async change(known: ShopFieldRow): Promise<void> {
    const field = await this.dialog.ask(known);
    if (field) this.tell(this.api.call('changeField', field, known.id), `The field “${field.label}” is changed.`);
  }

  protected retire({ id, key: _key, range, ...field }: ShopFieldRow): void {
    const next: NewShopField = { ...field, range: range && [...range], retired: !field.retired };
    this.tell(
      this.api.call('changeField', next, id),
      next.retired ? `“${field.label}” is retired. What was said in it is kept.` : `“${field.label}” is offered again.`,
    );
  }

  protected move({ id }: ShopFieldRow, by: -1 | 1): void {
    const ids = this.all().map((field) => field.id);
    const at = ids.indexOf(id);
    ids.splice(at, 1);
    ids.splice(at + by, 0, id);
    this.tell(this.api.call('orderFields', { ids }), null);
  }

  private tell(done: Observable<unknown>, words: string | null): void {
    done.subscribe({
      next: () => {
        this.store.dispatch(shopFields.wanted());
        if (words) this.toasts.done(words);
      },
      error: (failure: Failure) => this.toasts.failed(failure.message),
    });
  }
}
