import { Injectable, signal } from '@angular/core';
import type { Hello, LiveEvent } from '@pebble/contracts';
import { Observable, Subject, share } from 'rxjs';

/** Changes made anywhere, as the server tells them. Reconnects by itself and resumes after the last one seen. */
@Injectable({ providedIn: 'root' })
export class LiveService {
  readonly connected = signal(false);
  /** Each time listening (again) begins: what happened before it must be read, not waited for. */
  readonly opened = new Subject<Hello>();
  readonly events: Observable<LiveEvent> = new Observable<LiveEvent>((observer) => {
    let source: EventSource | null = null;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const open = () => {
      source = new EventSource('/api/events');
      source.addEventListener('open', () => this.connected.set(true));
      source.addEventListener('hello', (e) => this.opened.next(JSON.parse((e as MessageEvent<string>).data) as Hello));
      source.addEventListener('change', (e) => observer.next(JSON.parse((e as MessageEvent<string>).data) as LiveEvent));
      source.addEventListener('error', () => {
        this.connected.set(false);
        // Closed for good (a refused answer): try again; otherwise the browser reconnects with Last-Event-ID.
        if (source?.readyState === EventSource.CLOSED) timer = setTimeout(open, 2000);
      });
    };
    open();
    return () => {
      clearTimeout(timer);
      source?.close();
    };
  }).pipe(share());
}
