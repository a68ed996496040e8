import { ScrollingModule } from '@angular/cdk/scrolling';
import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { MatTooltipModule } from '@angular/material/tooltip';
import type { Origin, SettingKey, SurfaceDocument } from '@pebble/core';
import { SETTINGS, SETTING_KEYS } from '@pebble/core';
import { DocumentsService } from '../../services/documents.service';
import { WorkbenchService } from '../../services/workbench.service';
import type { KeptRow, Shown, SortKey } from './kept';
import { CHOICES, keptRows, parseChoice, putSetting, settingText } from './kept';
import { TargetCard } from './target-card';
import { bytesText } from '../../ui/bytes';

const ORIGIN: Record<Origin, string> = { usual: 'usual', target: 'of the target', map: 'of this map, for all targets', here: 'of this map, here' };

/** How maps are kept at runtime: one row a map, for all targets or one; many rows change at once. */
@Component({
  selector: 'pb-kept-table',
  imports: [MatTooltipModule, ScrollingModule, TargetCard],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './kept-table.html',
  styleUrl: './kept-table.scss',
})
export class KeptTable {
  private readonly documents = inject(DocumentsService);
  readonly workbench = inject(WorkbenchService);
  readonly surfaces = input.required<readonly { id: string; body: SurfaceDocument }[]>();
  readonly chosen = input.required<string>();
  readonly keys = SETTING_KEYS;
  readonly settings = SETTINGS;
  readonly choices = CHOICES;
  readonly text = settingText;
  readonly trackRow = (_: number, row: KeptRow): string => row.key;
  readonly everything = signal(false);
  readonly shown = signal<Shown>('all');
  /** Whether the limits of the shown target are open. */
  readonly card = signal(false);
  readonly search = signal('');
  readonly sort = signal<{ by: SortKey; down: boolean }>({ by: 'name', down: false });
  readonly picked = signal<ReadonlySet<string>>(new Set());

  /** Memory is told for the target that is shown, or the project's own. */
  readonly target = computed(() => this.workbench.targets().find((t) => t.id === this.shown()) ?? this.workbench.target());
  readonly rows = computed(() =>
    keptRows(this.everything() ? this.surfaces() : this.surfaces().filter((s) => s.id === this.chosen()), this.target(), this.search(), this.sort()),
  );
  readonly marked = computed(() => this.rows().filter((r) => this.picked().has(r.key)));
  readonly allMarked = computed(() => this.rows().length > 0 && this.marked().length === this.rows().length);
  readonly total = computed(() => (this.marked().length ? this.marked() : this.rows()).reduce((sum, r) => sum + r.runtime.bytes, 0));
  private last: string | null = null;

  /** Whether a value is the one that is edited here, and not one that is followed. */
  own = (row: KeptRow, key: SettingKey): boolean => row.from[key] === (this.shown() === 'all' ? 'map' : 'here');
  hint = (row: KeptRow, key: SettingKey): string => `${settingText(key, row.values[key])}: ${ORIGIN[row.from[key]]}`;
  bytes = (n: number): string => `${n.toLocaleString('en').replace(/,/g, '\u2009')} B`;
  readonly mega = bytesText;
  side = ({ runtime: { width, height } }: KeptRow): string => (width === height ? `${width}²` : `${width} × ${height}`);
  sorted = (by: SortKey): 'ascending' | 'descending' | 'none' => (this.sort().by !== by ? 'none' : this.sort().down ? 'descending' : 'ascending');

  by(key: SortKey): void {
    this.sort.update((s) => ({ by: key, down: s.by === key && !s.down }));
  }

  /** Marks a row; with Shift all from the last one to it. */
  mark(row: KeptRow, on: boolean, through: boolean): void {
    const keys = this.rows().map((r) => r.key);
    const [a, b] = [this.last === null ? -1 : keys.indexOf(this.last), keys.indexOf(row.key)];
    const range = through && a >= 0 ? keys.slice(Math.min(a, b), Math.max(a, b) + 1) : [row.key];
    this.picked.update((set) => {
      const next = new Set(set);
      for (const key of range) {
        if (on) next.add(key);
        else next.delete(key);
      }
      return next;
    });
    this.last = row.key;
  }

  markAll(on: boolean): void {
    this.picked.set(new Set(on ? this.rows().map((r) => r.key) : []));
  }

  /** Puts a value into a row, or into all marked rows when it is one of them: one step a surface. */
  put(row: KeptRow, key: SettingKey, text: string): void {
    const rows = this.picked().has(row.key) ? this.marked() : [row];
    const value = parseChoice(key, text);
    const where = this.shown() === 'all' ? '' : ` on ${this.target().body.name}`;
    const what = `${SETTINGS[key].label.toLowerCase()} ${value === undefined ? 'as inherited' : settingText(key, value)}${where}`;
    for (const id of new Set(rows.map((r) => r.surface))) {
      const own = rows.filter((r) => r.surface === id);
      const name = own.length === 1 ? own[0].label : `${own.length} maps`;
      this.documents.edit(id, 'surface', `${name}: ${what}`, (d) => {
        for (const { role } of own) {
          const entry = d.maps[role];
          if (entry) putSetting(entry, this.shown(), key, value);
        }
      });
    }
  }
}
