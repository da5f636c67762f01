import { ChangeDetectionStrategy, Component, inject, Injectable, signal } from '@angular/core';
import { NgbToast } from '@ng-bootstrap/ng-bootstrap';
import { Icon } from './icon';
import { Settings } from './settings';

export interface Toast {
  readonly id: number;
  readonly kind: 'done' | 'failed';
  readonly text: string;
  readonly action?: { readonly label: string; readonly run: () => void };
}

/** Short notices at the lower edge. What failed stays until it is closed. */
@Injectable({ providedIn: 'root' })
export class Toasts {
  private next = 1;
  readonly all = signal<readonly Toast[]>([]);

  done(text: string, action?: Toast['action']): void {
    this.show({ kind: 'done', text, ...(action ? { action } : {}) });
  }

  failed(text: string, action?: Toast['action']): void {
    this.show({ kind: 'failed', text, ...(action ? { action } : {}) });
  }

  private show(toast: Omit<Toast, 'id'>): void {
    // The same sentence twice helps nobody.
    this.all.update((all) =>
      [...all.filter((each) => each.text !== toast.text), { ...toast, id: this.next++ }].slice(-3),
    );
  }

  close(id: number): void {
    this.all.update((all) => all.filter((toast) => toast.id !== id));
  }
}

@Component({
  selector: 'nl-toasts',
  // Above the pull list, also where that is open.
  host: { '[class.high]': 'settings.tray()' },
  imports: [NgbToast, Icon],
  template: `
    @for (toast of toasts.all(); track toast.id) {
      <ngb-toast
        [autohide]="toast.kind === 'done'"
        [delay]="5000"
        (hidden)="toasts.close(toast.id)"
        [class.failed]="toast.kind === 'failed'"
      >
        <div class="line" [attr.role]="toast.kind === 'failed' ? 'alert' : 'status'">
          <nl-icon [name]="toast.kind === 'failed' ? 'warning' : 'check'" />
          <span class="text">{{ toast.text }}</span>
          @if (toast.action; as action) {
            <button type="button" class="btn btn-plain btn-sm" (click)="action.run(); toasts.close(toast.id)">
              {{ action.label }}
            </button>
          }
          <button
            type="button"
            class="btn btn-quiet btn-sm"
            aria-label="Close this notice"
            (click)="toasts.close(toast.id)"
          >
            <nl-icon name="close" />
          </button>
        </div>
      </ngb-toast>
    }
  `,
  styles: `
    :host {
      position: fixed;
      left: 50%;
      bottom: 56px;
      translate: -50% 0;
      z-index: 1090;
      display: grid;
      gap: 8px;
      width: min(560px, 92vw);
    }
    :host(.high) {
      bottom: 172px;
    }
    ngb-toast {
      width: 100%;
      border-left: 4px solid var(--nl-good);
    }
    ngb-toast.failed {
      border-left-color: var(--nl-bad);
    }
    .line {
      display: flex;
      align-items: center;
      gap: 8px;
    }
    .text {
      flex: 1;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ToastStack {
  protected readonly toasts = inject(Toasts);
  protected readonly settings = inject(Settings);
}
