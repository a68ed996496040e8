import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { RouterLink } from '@angular/router';
import type { MasterDocument, MasterParameter } from '@pebble/core';
import {
  IMAGE_ROLES,
  ROLE_FACTS,
  inOrder,
  mastersIn,
  namesTaken,
  nextOrder,
  removeParameter,
  rename,
  setIn,
  uniqueName,
  usesOf,
  inherit,
} from '@pebble/core';
import { DocumentsService } from '../../../services/documents.service';
import { newKey } from '../../../ui/new';
import { ScrubField } from '../../../ui/scrub-field';
import { nameOf } from '../looks';
import { MasterModel } from '../master-model';
import { SwitchesPanel } from './switches-panel';
import { VariantsPanel } from './variants-panel';

type Row = MasterParameter & { id: string; own: boolean; setIn: { set: number; all: number } };

/** Parameters and switches of the master, in their groups. */
@Component({
  selector: 'pb-parameters',
  imports: [ScrubField, RouterLink, SwitchesPanel, VariantsPanel],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <input
      class="field about"
      [value]="model.master()?.help ?? ''"
      placeholder="what this master is for"
      maxlength="1000"
      aria-label="What this master is for"
      (change)="about($any($event.target).value)"
    />
    @if (users().length) {
      <p class="quiet">
        An operation of
        @for (m of users(); track m.id) {
          <a [routerLink]="['/master', m.id]">{{ m.body.name }}</a>{{ $last ? '.' : ', ' }}
        }
        Its parameters are inputs there, its outputs and published values outputs.
      </p>
    }
    <pb-variants />
    @for (group of groups(); track group.id) {
      <div class="group">
        @if (group.id) {
          <input
            class="title"
            [value]="group.name"
            aria-label="Name of the group"
            maxlength="200"
            (change)="renameGroup(group.id, $any($event.target).value)"
          />
        } @else if (groups().length > 1) {
          <b>without a group</b>
        }
        @for (p of group.parameters; track p.id) {
          <div class="row" [class.open]="open() === p.id" [class.inherits]="variant() && !p.own">
            <button
              class="pebble"
              [attr.aria-expanded]="open() === p.id"
              [attr.aria-label]="'More of ' + p.name"
              (click)="open.set(open() === p.id ? null : p.id)"
            >
              <i></i>
            </button>
            <input
              class="name"
              [value]="p.name"
              [attr.aria-label]="'Name of ' + p.name"
              maxlength="200"
              (change)="rename(p.id, $any($event.target).value)"
            />
            <span class="value">
              @if (p.holds.kind === 'number') {
                @for (v of p.holds.value; track $index; let i = $index) {
                  <pb-scrub
                    [label]="p.name"
                    [value]="v"
                    [step]="(p.holds.high - p.holds.low) / 200"
                    [decimals]="3"
                    [unit]="p.holds.unit"
                    (live)="number(p.id, i, $event, false)"
                    (done)="number(p.id, i, $event, true)"
                  />
                }
              } @else if (p.holds.kind === 'colour') {
                <input
                  type="color"
                  [value]="p.holds.value"
                  [attr.aria-label]="p.name"
                  (input)="colour(p.id, $any($event.target).value, false)"
                  (change)="colour(p.id, $any($event.target).value, true)"
                />
              } @else {
                <select class="field" [attr.aria-label]="p.name" (change)="map(p.id, $any($event.target).value)">
                  <option value="">neutral {{ p.holds.kind === 'map' ? label(p.holds.role) : 'surface' }}</option>
                  @for (s of surfaces(); track s.id) {
                    <option [value]="s.id" [selected]="p.holds.surface === s.id">{{ s.name }}</option>
                  }
                </select>
              }
            </span>
            @if (variant() && p.own) {
              <button
                class="tag set"
                (click)="inherit(p.id)"
                [attr.aria-label]="'Let ' + p.name + ' inherit again'"
                title="Set here. Click: inherit again"
              >
                set ×
              </button>
            } @else {
              <span class="tag" [title]="uses(p.id).title">{{ variant() ? 'inherited' : uses(p.id).text }}</span>
            }
          </div>
          @if (open() === p.id) {
            <div class="more">
              @if (p.holds.kind === 'number') {
                <label>from <pb-scrub label="Least" [value]="p.holds.low" [step]="0.05" [decimals]="3" (done)="bound(p.id, 'low', $event)" /></label>
                <label>to <pb-scrub label="Most" [value]="p.holds.high" [step]="0.05" [decimals]="3" (done)="bound(p.id, 'high', $event)" /></label>
                <label
                  >unit <input class="field unit" [value]="p.holds.unit" maxlength="20" (change)="unit(p.id, $any($event.target).value)"
                /></label>
              } @else if (p.holds.kind === 'map') {
                <label
                  >role
                  <select class="field" (change)="role(p.id, $any($event.target).value)">
                    @for (r of roles; track r) {
                      <option [value]="r" [selected]="p.holds.role === r">{{ label(r) }}</option>
                    }
                  </select></label
                >
              }
              <label
                >group
                <select class="field" (change)="setGroup(p.id, $any($event.target).value)">
                  <option value="">none</option>
                  @for (g of groupList(); track g.id) {
                    <option [value]="g.id" [selected]="p.group === g.id">{{ g.name }}</option>
                  }
                  <option value="+">a new group</option>
                </select></label
              >
              <button class="pill" (click)="move(p.id, -1)">up</button>
              <button class="pill" (click)="move(p.id, 1)">down</button>
              <button class="pill" (click)="remove(p.id)">back to a constant</button>
              @if (p.setIn.all) {
                <span class="quiet">set in {{ p.setIn.set }} of {{ p.setIn.all }} variants; the others have this value</span>
              }
              <input
                class="field help"
                [value]="p.help"
                placeholder="what it is for"
                maxlength="1000"
                aria-label="Help"
                (change)="help(p.id, $any($event.target).value)"
              />
            </div>
          }
        }
      </div>
    } @empty {
      <p class="quiet">
        No parameter yet. The pebble beside a number of an operation, or <kbd>P</kbd> on the graph, makes one: named by where it is used, and never
        twice.
      </p>
    }
    <pb-switches />
  `,
  styles: `
    :host {
      display: block;
      overflow-y: auto;
      min-height: 0;
      padding: 8px 12px;
    }
  `,
  styleUrl: './rows.scss',
})
export class ParametersPanel {
  readonly model = inject(MasterModel);
  private readonly documents = inject(DocumentsService);
  private readonly masters = this.documents.list('master');
  /** Masters that have it as an operation. */
  readonly users = computed(() => this.masters().filter((m) => mastersIn(m.body).includes(this.model.id() ?? '')));
  about = (text: string): void => this.model.edit('What it is for', (d) => (d.help = text.slice(0, 1000)));
  readonly roles = IMAGE_ROLES;
  readonly open = signal<string | null>(null);
  readonly label = (role: keyof typeof ROLE_FACTS): string => ROLE_FACTS[role].label.toLowerCase();
  readonly surfaces = computed(() => Object.entries(this.model.surfaces()).map(([id, { name }]) => ({ id, name })));
  readonly groupList = computed(() => inOrder(this.model.master()?.groups ?? {}));
  readonly groups = computed(() => {
    const [master, said, variant] = [this.model.effective(), this.model.master(), this.variant()];
    if (!master || !said) return [];
    const all = inOrder(master.parameters).map((p) => ({
      ...p,
      own: !!variant && Object.hasOwn(said.variants[variant].values, p.id),
      setIn: setIn(said, p.id),
    }));
    const of = (id: string | null): Row[] => all.filter((p) => p.group === id || (id === null && p.group !== null && !master.groups[p.group]));
    return [...this.groupList().map(({ id, name }) => ({ id, name, parameters: of(id) })), { id: '', name: '', parameters: of(null) }].filter(
      (g) => g.id || g.parameters.length,
    );
  });
  uses(id: string): { text: string; title: string } {
    const master = this.model.master();
    const places = master ? usesOf(master, id) : [];
    const names = places.map((p) => `${nameOf(master as MasterDocument, p.operation)} ${p.port}`);
    return { text: places.length === 1 ? '1 use' : `${places.length} uses`, title: names.join(', ') || 'Nothing uses it' };
  }
  private of(id: string, label: string, change: (p: MasterParameter, d: MasterDocument) => void): void {
    this.model.edit(label, (d) => change(d.parameters[id], d));
  }
  private name = (id: string): string => this.model.master()?.parameters[id]?.name ?? 'parameter';
  rename = (id: string, text: string): void => this.model.edit(`Rename ${this.name(id)}`, (d) => void rename(d, 'parameters', id, text));
  renameGroup = (id: string, text: string): void => this.model.edit('Rename the group', (d) => void rename(d, 'groups', id, text));
  number(id: string, i: number, v: number, done: boolean): void {
    this.model.holds(id, (holds) => void (holds.kind === 'number' && (holds.value = holds.value.map((x, k) => (k === i ? v : x)))));
    if (done) this.model.commit(this.model.called(`Set ${this.name(id)}`));
  }
  colour(id: string, hex: string, done: boolean): void {
    this.model.holds(id, (holds) => void (holds.kind === 'colour' && (holds.value = hex)));
    if (done) this.model.commit(this.model.called(`Set ${this.name(id)}`));
  }
  map(id: string, surface: string): void {
    this.model.holds(id, (holds) => void ((holds.kind === 'map' || holds.kind === 'surface') && (holds.surface = surface)));
    this.model.commit(this.model.called(`Set ${this.name(id)}`));
  }
  readonly variant = this.model.chosen;
  inherit(id: string): void {
    const variant = this.variant();
    if (variant) this.model.edit(this.model.called(`Inherit ${this.name(id)}`), (d) => inherit(d, variant, id));
  }
  role = (id: string, role: string): void =>
    this.of(id, `Role of ${this.name(id)}`, ({ holds }) => void (holds.kind === 'map' && (holds.role = role as 'mask')));
  bound = (id: string, end: 'low' | 'high', v: number): void =>
    this.of(id, `Range of ${this.name(id)}`, ({ holds }) => void (holds.kind === 'number' && (holds[end] = v)));
  unit = (id: string, unit: string): void =>
    this.of(id, `Unit of ${this.name(id)}`, ({ holds }) => void (holds.kind === 'number' && (holds.unit = unit.slice(0, 20))));
  help = (id: string, text: string): void => this.of(id, `Help of ${this.name(id)}`, (p) => (p.help = text.slice(0, 1000)));
  setGroup(id: string, group: string): void {
    this.of(id, `Group of ${this.name(id)}`, (p, d) => {
      if (group !== '+') return void (p.group = group || null);
      const key = newKey();
      d.groups[key] = { order: nextOrder(d.groups), name: uniqueName('Group', namesTaken(d, 'groups')) };
      p.group = key;
    });
  }
  /** Changes places with its neighbour in the group. */
  move(id: string, by: 1 | -1): void {
    const list = this.groups().find((g) => g.parameters.some((p) => p.id === id))?.parameters ?? [];
    const at = list.findIndex((p) => p.id === id);
    const other = list[at + by];
    if (other)
      this.model.edit(
        `Move ${list[at].name}`,
        (d) => ([d.parameters[id].order, d.parameters[other.id].order] = [d.parameters[other.id].order, d.parameters[id].order]),
      );
  }
  remove = (id: string): void => this.model.edit(`Make ${this.name(id)} a constant`, (d) => removeParameter(d, id));
}
