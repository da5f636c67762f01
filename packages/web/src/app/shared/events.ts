import { DOCUMENT } from '@angular/common';
import { inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { FILE_PATHS, type ServerEvent } from '@larder/contract';
import { liveActions } from './live.actions';

/**
 * Listens to the server for as long as somebody is signed in; the browser reconnects by itself. A page that is left may be kept by
 * the browser for going back to, with its connection: six of them are all that a browser opens to one server, and the next page would
 * wait for ever. So it stops listening when it is left, and begins anew when somebody comes back to it.
 */
@Injectable({ providedIn: 'root' })
export class LiveEvents {
  private readonly store = inject(Store);
  private source: EventSource | null = null;

  constructor() {
    const window = inject(DOCUMENT).defaultView;
    let left = false;
    window?.addEventListener('pagehide', () => {
      left = this.source !== null;
      this.stop();
    });
    window?.addEventListener('pageshow', () => {
      if (left) this.start();
      left = false;
    });
  }

  start(): void {
    if (this.source || typeof EventSource === 'undefined') return;
    this.source = new EventSource(FILE_PATHS.events);
    this.source.onmessage = ({ data }: MessageEvent<string>) => {
      const event = JSON.parse(data) as ServerEvent;
      switch (event.type) {
        case 'hello':
          return this.store.dispatch(liveActions.connected({ revision: event.revision }));
        case 'feed':
          return this.store.dispatch(liveActions.changed({ revision: event.revision, changed: event.changed }));
        case 'jobs':
          return this.store.dispatch(liveActions.jobs({ jobs: event.jobs }));
        default:
          return event satisfies never;
      }
    };
    this.source.onerror = () => this.store.dispatch(liveActions.lost());
  }

  stop(): void {
    this.source?.close();
    this.source = null;
  }
}
