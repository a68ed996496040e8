import { ChangeDetectionStrategy, Component, computed, effect, input, output, signal } from '@angular/core';
import type { UploadedFile } from '@pebble/contracts';
import { ROLES, ROLE_FACTS } from '@pebble/core';
import { ScrubField } from '../../ui/scrub-field';
import type { ImportPlan, PlanGroup, PlanRow } from './import-plan';
import { planImport, planQuestions, planRequest } from './import-plan';

/** The form that puts right what was guessed of dropped files, before anything is imported. */
@Component({
  selector: 'pb-import-form',
  imports: [ScrubField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <header>
      <h3>{{ shownGroups().length === 1 ? 'One surface' : shownGroups().length + ' surfaces' }} in {{ plan().rows.length }} files</h3>
      <span class="quiet">Put right what was guessed, then import.</span>
    </header>
    <div class="groups">
      @for (group of shownGroups(); track group.key) {
        <section>
          <div class="line">
            <input
              class="field name"
              [value]="group.name"
              aria-label="Name of the surface"
              maxlength="200"
              (input)="setGroup(group, { name: $any($event.target).value })"
            />
            <span class="token"
              >width
              <pb-scrub
                label="Width in metres"
                [value]="group.sizeM"
                [min]="0.001"
                [max]="10000"
                [step]="0.01"
                unit="m"
                [decimals]="3"
                (live)="setGroup(group, { sizeM: $event })"
                (done)="setGroup(group, { sizeM: $event })"
            /></span>
            <span class="token"
              >relief
              <pb-scrub
                label="Relief in millimetres"
                [value]="group.reliefM"
                [min]="0"
                [max]="100"
                [step]="0.001"
                [factor]="0.001"
                unit="mm"
                [decimals]="1"
                (live)="setGroup(group, { reliefM: $event })"
                (done)="setGroup(group, { reliefM: $event })"
            /></span>
          </div>
          <table>
            <thead>
              <tr>
                <th>File</th>
                <th>Pixels</th>
                <th>Holds</th>
                <th>Green</th>
                <th>Belongs to</th>
              </tr>
            </thead>
            <tbody>
              @for (row of rowsOf(group); track row.file.fileName + row.file.blob) {
                <tr [class.ask]="!row.role">
                  <td class="file" [title]="row.file.fileName">{{ row.file.fileName }}</td>
                  <td class="num">{{ row.file.width }} × {{ row.file.height }}, {{ row.file.channels }} × {{ row.file.depth }} bit</td>
                  <td>
                    <select
                      class="field"
                      [attr.aria-label]="'What ' + row.file.fileName + ' holds'"
                      [value]="row.role ?? ''"
                      (change)="setRow(row, { role: $any($event.target).value || null })"
                    >
                      <option value="" [selected]="!row.role">choose …</option>
                      @for (role of roles; track role.id) {
                        <option [value]="role.id" [selected]="row.role === role.id">{{ role.label }}</option>
                      }
                      <option value="skip" [selected]="row.role === 'skip'">leave out</option>
                    </select>
                  </td>
                  <td>
                    @if (row.role === 'normal') {
                      <select
                        class="field"
                        aria-label="Way of green"
                        [value]="row.normalDirection"
                        (change)="setRow(row, { normalDirection: $any($event.target).value })"
                      >
                        <option value="y+">up (Y+)</option>
                        <option value="y-">down (Y−)</option>
                      </select>
                    }
                  </td>
                  <td>
                    @if (plan().groups.length > 1) {
                      <select
                        class="field"
                        aria-label="Surface of this file"
                        [value]="row.group"
                        (change)="setRow(row, { group: $any($event.target).value })"
                      >
                        @for (g of plan().groups; track g.key) {
                          <option [value]="g.key" [selected]="g.key === row.group">{{ g.name }}</option>
                        }
                      </select>
                    } @else {
                      <span class="quiet">{{ group.name }}</span>
                    }
                  </td>
                </tr>
              }
            </tbody>
          </table>
        </section>
      }
    </div>
    <footer>
      <ul>
        @for (file of plan().refused; track $index) {
          <li class="error">{{ file.problem }}</li>
        }
        @for (question of questions(); track question) {
          <li class="warn">{{ question }}</li>
        }
      </ul>
      <button class="button" (click)="closed.emit()">Forget these files</button>
      <button class="button main" [disabled]="questions().length > 0" (click)="accepted.emit(request())">Import</button>
    </footer>
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      gap: 12px;
      max-height: 100%;
    }
    header {
      display: flex;
      gap: 12px;
      align-items: baseline;
    }
    .groups {
      overflow: auto;
      min-height: 60px;
      display: grid;
      gap: 18px;
    }
    .line {
      display: flex;
      gap: 8px;
      align-items: center;
      margin-bottom: 6px;
    }
    .name {
      width: 240px;
      font-weight: 600;
    }
    table {
      width: 100%;
      border-collapse: collapse;
      table-layout: fixed;
    }
    th {
      text-align: left;
      font-weight: 600;
      color: var(--quiet);
      font-size: 12px;
      padding: 2px 8px 2px 0;
    }
    td {
      padding: 3px 8px 3px 0;
      border-top: 1px solid var(--line);
    }
    th:nth-child(1) {
      width: 32%;
    }
    th:nth-child(2) {
      width: 22%;
    }
    select {
      width: 100%;
    }
    .file {
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    tr.ask td:nth-child(3) .field {
      border-color: var(--warn);
    }
    footer {
      display: flex;
      gap: 8px;
      align-items: flex-end;
    }
    ul {
      flex: 1;
      margin: 0;
      padding: 0;
      list-style: none;
      max-height: 90px;
      overflow: auto;
    }
    .error {
      color: var(--error);
    }
    .warn {
      color: var(--warn);
    }
  `,
})
export class ImportForm {
  readonly files = input.required<readonly UploadedFile[]>();
  readonly accepted = output<ReturnType<typeof planRequest>>();
  readonly closed = output<void>();
  readonly roles = ROLES.map((id) => ({ id, label: ROLE_FACTS[id].label }));
  readonly plan = signal<ImportPlan>({ groups: [], rows: [], refused: [] });
  /** A surface whose last file was moved elsewhere is no longer shown. */
  readonly shownGroups = computed(() => this.plan().groups.filter((g) => this.plan().rows.some((r) => r.group === g.key)));
  readonly questions = computed(() => planQuestions(this.plan()));

  constructor() {
    effect(() => this.plan.set(planImport(this.files())));
  }

  rowsOf = (group: PlanGroup): PlanRow[] => this.plan().rows.filter((r) => r.group === group.key);
  request = (): ReturnType<typeof planRequest> => planRequest(this.plan());

  setGroup(group: PlanGroup, change: Partial<PlanGroup>): void {
    this.plan.update((p) => ({ ...p, groups: p.groups.map((g) => (g.key === group.key ? { ...g, ...change } : g)) }));
  }

  setRow(row: PlanRow, change: Partial<PlanRow>): void {
    this.plan.update((p) => ({ ...p, rows: p.rows.map((r) => (r === row ? { ...r, ...change } : r)) }));
  }
}
