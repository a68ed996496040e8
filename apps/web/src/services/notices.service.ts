import { Injectable, inject } from '@angular/core';
import { MatSnackBar } from '@angular/material/snack-bar';
import { firstValueFrom } from 'rxjs';

/** Short messages at the foot of the window. */
@Injectable({ providedIn: 'root' })
export class NoticesService {
  private readonly bar = inject(MatSnackBar);

  say(message: string, seconds = 5): void {
    this.bar.open(message, 'Close', { duration: seconds * 1000 });
  }

  /** An error stays until it is closed. What was ended on purpose is none. */
  error(error: unknown): void {
    if (error instanceof DOMException && error.name === 'AbortError') return;
    this.bar.open(error instanceof Error ? error.message : String(error), 'Close', { politeness: 'assertive' });
  }

  /** True when the action was taken before the message went. */
  async offer(message: string, action: string): Promise<boolean> {
    return firstValueFrom(this.bar.open(message, action, { duration: 8000 }).afterDismissed()).then((d) => d.dismissedByAction);
  }
}
