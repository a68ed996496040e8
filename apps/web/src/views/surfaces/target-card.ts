import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import type { BlockFormat, Role, TargetDocument } from '@pebble/core';
import { ROLES, ROLE_FACTS } from '@pebble/core';
import { DocumentsService } from '../../services/documents.service';
import { NoticesService } from '../../services/notices.service';
import { WorkbenchService } from '../../services/workbench.service';
import { ScrubField } from '../../ui/scrub-field';
import { CHOICES } from './kept';
import { MB } from '../../ui/bytes';
import { nameFrom } from '../../ui/name';

type Limit = 'samples' | 'operations' | 'memoryBytes' | 'maxSize' | 'dropMips';

/** Limits and formats of a target, edited where it stands; own targets are made by copy. */
@Component({
  selector: 'pb-target-card',
  imports: [ScrubField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="row">
      <input class="title" [value]="target().name" aria-label="Name of the target" maxlength="200" (change)="rename($any($event.target).value)" />
      <button class="pill" (click)="copy()">Make a copy</button>
      <button class="pill" [disabled]="used() || workbench.targets().length < 2" (click)="remove()">Delete</button>
      <button class="pill" (click)="closed.emit()">Close</button>
    </div>
    <div class="limits">
      @for (l of limits; track l.key) {
        <span class="token"
          ><span class="quiet">{{ l.label }}</span
          ><pb-scrub
            [label]="l.label"
            [value]="target()[l.key]"
            [min]="l.lo"
            [max]="l.hi"
            [step]="l.step"
            [factor]="l.factor"
            [unit]="l.unit"
            [decimals]="0"
            [whole]="l.factor === 1"
            (done)="set(l.key, l.label, $event)"
        /></span>
      }
    </div>
    <div class="formats">
      @for (r of roles; track r.id) {
        <label
          ><span class="quiet">{{ r.label }}</span>
          <select class="field" [value]="target().formats[r.id]" (change)="format(r.id, r.label, $any($event.target).value)">
            @for (f of formats; track f.value) {
              <option [value]="f.value" [selected]="f.value === target().formats[r.id]">{{ f.text }}</option>
            }
          </select></label
        >
      }
    </div>
    @if (used()) {
      <p class="quiet">The project is held against this target; choose another one in the meter to delete it.</p>
    }
  `,
  styles: `
    :host {
      display: grid;
      gap: 10px;
      overflow: auto;
    }
    .row,
    .limits {
      display: flex;
      flex-wrap: wrap;
      gap: 6px;
      align-items: center;
    }
    .title {
      flex: 1;
    }
    .formats {
      display: grid;
      grid-template-columns: repeat(3, 1fr);
      gap: 4px 16px;
    }
    .formats label {
      display: grid;
      grid-template-columns: 1fr 110px;
      align-items: center;
    }
    p {
      margin: 0;
    }
  `,
})
export class TargetCard {
  private readonly documents = inject(DocumentsService);
  private readonly notices = inject(NoticesService);
  readonly workbench = inject(WorkbenchService);
  readonly id = input.required<string>();
  readonly target = input.required<TargetDocument>();
  readonly closed = output<void>();
  /** A copy was made: its id. */
  readonly made = output<string>();
  readonly used = computed(() => this.workbench.target().id === this.id());
  readonly roles = ROLES.map((id) => ({ id, label: ROLE_FACTS[id].label }));
  readonly formats = CHOICES.format;
  readonly limits: { key: Limit; label: string; lo: number; hi: number; step: number; factor: number; unit: string }[] = [
    { key: 'samples', label: 'Samples', lo: 1, hi: 256, step: 1, factor: 1, unit: '' },
    { key: 'operations', label: 'Operations', lo: 1, hi: 100000, step: 10, factor: 1, unit: '' },
    { key: 'memoryBytes', label: 'Memory', lo: MB, hi: 16_000 * MB, step: MB, factor: MB, unit: 'MB' },
    { key: 'maxSize', label: 'Largest side', lo: 1, hi: 16384, step: 64, factor: 1, unit: 'px' },
    { key: 'dropMips', label: 'Dropped mips', lo: 0, hi: 14, step: 1, factor: 1, unit: '' },
  ];

  private edit = (label: string, change: (d: TargetDocument) => void): void =>
    this.documents.edit(this.id(), 'target', `${this.target().name}: ${label}`, change);

  set = (key: Limit, label: string, value: number): void => this.edit(label.toLowerCase(), (d) => (d[key] = Math.round(value)));
  format = (role: Role, label: string, format: BlockFormat): void => this.edit(`${label.toLowerCase()} ${format}`, (d) => (d.formats[role] = format));
  rename(text: string): void {
    const name = nameFrom(text);
    if (name) this.edit(`rename to ${name}`, (d) => (d.name = name));
  }

  async copy(): Promise<void> {
    try {
      this.made.emit(await this.documents.create({ ...structuredClone(this.target()), name: `${this.target().name} copy` }, 'New target'));
    } catch (error) {
      this.notices.error(error);
    }
  }

  remove(): void {
    this.closed.emit();
    void this.documents.remove(this.id());
  }
}
