import { inject, Injectable } from '@angular/core';
import { Api, type Failure } from '../shared/api';
import { counted } from '../shared/format';
import { Toasts } from '../shared/toasts';

/** Has what is said in assets written down, and tells what came of asking for it. */
@Injectable({ providedIn: 'root' })
export class Recognition {
  private readonly api = inject(Api);
  private readonly toasts = inject(Toasts);

  /** @param apart each channel by itself */
  of(assetIds: readonly number[], apart = false): void {
    this.api.call('recognise', { assetIds, apart }).subscribe({
      next: ({ queued, left }) => {
        const [first, ...others] = left;
        const also = others.length > 0 ? ` And ${counted(others.length, 'other')} not.` : '';
        const why = first ? `${counted(left.length, 'asset')} left out. ${first.why}` : '';
        if (queued > 0)
          this.toasts.done(
            `${counted(queued, 'recording')} in the queue; what is said appears once it is recognised. ${why}`.trim(),
          );
        else this.toasts.done(first ? `${first.why}${also}` : '');
      },
      error: ({ message }: Failure) => this.toasts.failed(message),
    });
  }
}
