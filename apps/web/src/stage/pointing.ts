import { Injectable, computed, signal } from '@angular/core';
import type { Account } from '@pebble/core';
import { closedByEscape } from '../ui/escape';

/** Something waits for a press on the stage. */
@Injectable()
export class Pointing {
  private readonly asked = signal<{ say: string; take: (account: Account) => void } | null>(null);
  readonly active = computed(() => this.asked() !== null);
  /** What the stage says meanwhile. */
  readonly say = computed(() => this.asked()?.say ?? null);

  constructor() {
    closedByEscape(() => this.end(), this.active);
  }

  begin(say: string, take: (account: Account) => void): void {
    this.asked.set({ say, take });
  }
  /** Hands over what was pointed at; false when nobody waits. */
  take(account: Account): boolean {
    const asked = this.asked();
    this.asked.set(null);
    asked?.take(account);
    return asked !== null;
  }
  end = (): void => this.asked.set(null);
}
