import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Store } from '@ngrx/store';
import type { Observable } from 'rxjs';
import type { RootLook, Storage } from '@larder/contract';
import { Api, type Failure } from '../shared/api';
import { counted, formatCount } from '../shared/format';
import { Toasts } from '../shared/toasts';
import { storages } from './state';

/** Where a storage lies; says that it lies elsewhere now, once it was looked there whether that is so. */
@Component({
  selector: 'nl-storage-root',
  host: { class: 'd-block mt-2' },
  imports: [FormsModule],
  template: `
    @if (!open()) {
      <button type="button" class="btn btn-plain btn-sm" (click)="open.set(true)">
        It lies in another folder now …
      </button>
    } @else {
      <form (ngSubmit)="look()" aria-label="Where the storage lies now">
        <label class="form-label" [for]="'root-' + storage().id">The folder in which it lies now</label>
        <input
          [id]="'root-' + storage().id"
          name="root"
          class="form-control form-control-sm mono"
          maxlength="1000"
          autocomplete="off"
          [placeholder]="storage().rootPath"
          [ngModel]="rootPath()"
          (ngModelChange)="write($event)"
        />
        @if (said(); as look) {
          <p class="m-0" role="status">{{ words(look) }}</p>
        }
        @if (issue(); as words) {
          <p class="issue m-0" role="alert">{{ words }}</p>
        }
        <div class="end">
          <button type="button" class="btn btn-plain btn-sm" (click)="open.set(false)">Leave it</button>
          @if (said() && !isOther()) {
            <button type="button" class="btn btn-primary btn-sm" [disabled]="busy()" (click)="move()">
              It lies there now
            </button>
          } @else {
            <button type="submit" class="btn btn-primary btn-sm" [disabled]="busy() || rootPath().trim() === ''">
              Look there
            </button>
          }
        </div>
      </form>
    }
  `,
  styleUrl: './storage-settings.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class StorageRoot {
  readonly storage = input.required<Storage>();
  readonly moved = output();
  private readonly api = inject(Api);
  private readonly store = inject(Store);
  private readonly toasts = inject(Toasts);
  protected readonly open = signal(false);
  protected readonly rootPath = signal('');
  protected readonly said = signal<RootLook | null>(null);
  protected readonly issue = signal<string | null>(null);
  protected readonly busy = signal(false);
  /** Whether nothing of the storage is there. */
  protected readonly isOther = computed(() => {
    const look = this.said();
    return look !== null && look.looked > 0 && look.same === 0;
  });

  protected write(rootPath: string): void {
    this.rootPath.set(rootPath);
    this.said.set(null);
    this.issue.set(null);
  }

  protected words({ changed, looked, missing, same }: RootLook): string {
    if (looked === 0) return 'Nothing of this storage is catalogued, so there is nothing to know it by.';
    if (same === 0) return `None of ${counted(looked, 'file')} that were looked for lies there: it is another folder.`;
    const others = [
      ...(missing > 0 ? [`${formatCount(missing)} not`] : []),
      ...(changed > 0 ? [`${formatCount(changed)} with another size`] : []),
    ];
    return `${formatCount(same)} of ${counted(looked, 'file')} that were looked for lie there${others.length > 0 ? `, ${others.join(', ')}` : ''}.`;
  }

  protected look(): void {
    this.ask(this.api.call('lookAtRoot', { rootPath: this.rootPath() }, this.storage().id), (look) =>
      this.said.set(look),
    );
  }

  protected move(): void {
    const before = this.storage();
    this.ask(this.api.call('moveStorage', { rootPath: this.rootPath() }, before.id), (after) => {
      this.store.dispatch(storages.wanted());
      this.toasts.done(`“${after.name}” lies in ${after.rootPath} now, and is being scanned.`, {
        label: 'Undo',
        run: () =>
          this.api.call('moveStorage', { rootPath: before.rootPath }, before.id).subscribe({
            next: () => this.store.dispatch(storages.wanted()),
            error: (failure: Failure) => this.toasts.failed(failure.message),
          }),
      });
      this.moved.emit();
    });
  }

  private ask<T>(work: Observable<T>, then: (answer: T) => void): void {
    this.busy.set(true);
    this.issue.set(null);
    work.subscribe({
      next: (answer) => {
        this.busy.set(false);
        then(answer);
      },
      error: (failure: Failure) => {
        this.busy.set(false);
        this.issue.set(failure.message);
      },
    });
  }
}
