import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { RouterLink } from '@angular/router';
import type { MasterDocument, MasterParameter, Price } from '@pebble/core';
import {
  IMAGE_ROLES,
  ROLE_FACTS,
  cutAway,
  inOrder,
  mastersIn,
  namesTaken,
  nextOrder,
  permutationsOf,
  removeParameter,
  removeSwitch,
  rename,
  uniqueName,
  unpublish,
  usesOf,
} from '@pebble/core';
import { DocumentsService } from '../../../services/documents.service';
import { MasterService } from '../../../services/master.service';
import { NoticesService } from '../../../services/notices.service';
import { WorkbenchService } from '../../../services/workbench.service';
import { Latest } from '../../../ui/latest';
import { newKey } from '../../../ui/new';
import { ScrubField } from '../../../ui/scrub-field';
import { effect } from '@angular/core';
import { Looks, nameOf } from '../looks';
import { MasterModel } from '../master-model';
import { Selection } from '../selection';

type Row = MasterParameter & { id: string };

/** Parameters and switches of the master, in their groups. */
@Component({
  selector: 'pb-parameters',
  imports: [ScrubField, RouterLink],
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
          <div class="row" [class.open]="open() === p.id">
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
            <span class="tag" [title]="uses(p.id).title">{{ uses(p.id).text }}</span>
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
    @if (switches().length) {
      <div class="group">
        <b>Switches</b>
        <p class="quiet permutations" [class.warn]="permutations() > limit()">
          {{ permutations() }} {{ permutations() === 1 ? 'program' : 'programs' }} of {{ limit() }} that the target takes
        </p>
        @for (s of switches(); track s.id) {
          <div class="row">
            <button class="pill" role="switch" [class.on]="s.on" [attr.aria-checked]="s.on" [attr.aria-label]="s.name" (click)="flip(s.id)">
              {{ s.on ? 'on' : 'off' }}
            </button>
            <input
              class="name"
              [value]="s.name"
              [attr.aria-label]="'Name of ' + s.name"
              maxlength="200"
              (change)="renameSwitch(s.id, $any($event.target).value)"
            />
            <span class="tag">{{ s.prices }}</span>
            <button class="act" (click)="dropSwitch(s.id)" [attr.aria-label]="'Remove ' + s.name" title="Remove it: what it chooses stays">×</button>
          </div>
          <p class="quiet cut">{{ s.cut }}</p>
        }
      </div>
    }
    @if (published().length) {
      <div class="group">
        <b>Published values</b>
        @for (p of published(); track p.id) {
          <div class="row">
            <button class="feeds" (click)="selection.choose(p.operation)" title="Go to what is published">{{ p.of }}</button>
            <input
              class="name"
              [value]="p.name"
              [attr.aria-label]="'Name of ' + p.name"
              maxlength="200"
              (change)="renamePublished(p.id, $any($event.target).value)"
            />
            <button
              class="act"
              (click)="unpublish(p.id)"
              [attr.aria-label]="'Unpublish ' + p.name"
              title="Unpublish it: what reads it is linked again"
            >
              ×
            </button>
          </div>
        }
      </div>
    }
  `,
  styles: `
    :host {
      display: block;
      overflow-y: auto;
      min-height: 0;
      padding: 8px 12px;
    }
    .group {
      margin-bottom: 8px;
    }
    .title {
      width: 100%;
    }
    .row {
      display: grid;
      grid-template-columns: auto minmax(60px, 1fr) auto auto;
      gap: 4px;
      align-items: center;
      min-height: 27px;
    }
    .pebble {
      width: 22px;
      height: 22px;
      display: grid;
      place-items: center;
    }
    .pebble i {
      width: 12px;
      height: 9px;
      border: 1.6px solid var(--ink);
      border-radius: 58% 42% 55% 45%/60% 52% 48% 40%;
    }
    .open .pebble i {
      background: var(--lichen);
    }
    .name {
      border: 1px solid transparent;
      background: none;
      border-radius: 6px;
      min-width: 0;
      padding: 1px 4px;
    }
    .name:hover {
      border-color: var(--edge);
    }
    .value {
      display: flex;
      align-items: center;
    }
    .value .field {
      max-width: 116px;
    }
    input[type='color'] {
      width: 30px;
      height: 20px;
      padding: 0;
      border: 1px solid var(--edge);
      border-radius: 6px;
      background: none;
    }
    .more {
      display: flex;
      flex-wrap: wrap;
      gap: 4px 8px;
      align-items: center;
      padding: 4px 6px 8px 26px;
      font-size: 12px;
    }
    .more label {
      display: inline-flex;
      align-items: center;
      gap: 3px;
    }
    .unit {
      width: 54px;
    }
    .help {
      flex: 1 1 100%;
    }
    a {
      color: var(--glaze);
    }
    .about {
      width: 100%;
      margin-bottom: 4px;
    }
    .cut,
    .permutations {
      font-size: 12px;
      padding-left: 6px;
    }
    .warn {
      color: var(--warn);
    }
    .feeds {
      border: 1px solid var(--line);
      border-radius: 12px;
      padding: 0 8px;
    }
    .act {
      width: 22px;
      height: 22px;
      color: var(--quiet);
    }
    kbd {
      font: 10px/14px var(--mono);
      border: 1px solid var(--edge);
      border-radius: 4px;
      padding: 0 4px;
    }
  `,
})
export class ParametersPanel {
  readonly model = inject(MasterModel);
  private readonly documents = inject(DocumentsService);
  private readonly masters = this.documents.list('master');
  /** Masters that have it as an operation. */
  readonly users = computed(() => this.masters().filter((m) => mastersIn(m.body).includes(this.model.id() ?? '')));
  about = (text: string): void => this.model.edit('What it is for', (d) => (d.help = text.slice(0, 1000)));
  readonly selection = inject(Selection);
  private readonly looks = inject(Looks);
  private readonly service = inject(MasterService);
  private readonly notices = inject(NoticesService);
  private readonly workbench = inject(WorkbenchService);
  readonly roles = IMAGE_ROLES;
  readonly open = signal<string | null>(null);
  readonly label = (role: keyof typeof ROLE_FACTS): string => ROLE_FACTS[role].label.toLowerCase();
  readonly surfaces = computed(() => Object.entries(this.model.surfaces()).map(([id, { name }]) => ({ id, name })));
  readonly groupList = computed(() => inOrder(this.model.master()?.groups ?? {}));
  readonly groups = computed(() => {
    const master = this.model.master();
    if (!master) return [];
    const all = inOrder(master.parameters);
    const of = (id: string | null): Row[] => all.filter((p) => p.group === id || (id === null && p.group !== null && !master.groups[p.group]));
    return [...this.groupList().map(({ id, name }) => ({ id, name, parameters: of(id) })), { id: '', name: '', parameters: of(null) }].filter(
      (g) => g.id || g.parameters.length,
    );
  });
  readonly published = computed(() => {
    const master = this.model.master();
    return master ? inOrder(master.published).map((p) => ({ ...p, of: nameOf(master, p.operation) })) : [];
  });

  private readonly switchPrices = signal<Record<string, { off: Price; on: Price }>>({});
  private readonly latest = new Latest<Record<string, { off: Price; on: Price }>>(
    (found) => this.switchPrices.set(found),
    (error) => this.notices.error(error),
  );
  readonly permutations = computed(() => (this.model.master() ? permutationsOf(this.model.master() as MasterDocument).count : 1));
  readonly limit = computed(() => this.workbench.target().body.permutations ?? 64);
  readonly switches = computed(() => {
    const master = this.model.master();
    if (!master) return [];
    return inOrder(master.switches).map((s) => {
      const cut = cutAway(master, s.id).map((id) => nameOf(master, id));
      const price = this.switchPrices()[s.id];
      const text = (p: Price) => `${p.samples} smp ${p.operations} ops`;
      return {
        ...s,
        cut: cut.length ? `cuts away ${cut.join(', ')}` : 'cuts nothing away as it stands',
        prices: price ? `off ${text(price.off)} · on ${text(price.on)}` : '…',
      };
    });
  });

  constructor() {
    effect(() => {
      const ask = this.looks.ask();
      if (ask && Object.keys(ask.document.switches).length) this.latest.ask(() => this.service.run('switches', ask));
    });
  }

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
  renameSwitch = (id: string, text: string): void => this.model.edit('Rename the switch', (d) => void rename(d, 'switches', id, text));
  renamePublished = (id: string, text: string): void => this.model.edit('Rename what is published', (d) => void rename(d, 'published', id, text));
  number(id: string, i: number, v: number, done: boolean): void {
    this.model.draft((d) => {
      const { holds } = d.parameters[id];
      if (holds.kind === 'number') holds.value = holds.value.map((x, k) => (k === i ? v : x));
    });
    if (done) this.model.commit(`Set ${this.name(id)}`);
  }
  colour(id: string, hex: string, done: boolean): void {
    this.model.draft((d) => {
      const { holds } = d.parameters[id];
      if (holds.kind === 'colour') holds.value = hex;
    });
    if (done) this.model.commit(`Set ${this.name(id)}`);
  }
  map = (id: string, surface: string): void =>
    this.of(id, `Set ${this.name(id)}`, ({ holds }) => void ((holds.kind === 'map' || holds.kind === 'surface') && (holds.surface = surface)));
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
  unpublish = (id: string): void => this.model.edit(`Unpublish ${this.model.master()?.published[id]?.name ?? ''}`, (d) => unpublish(d, id));
  remove = (id: string): void => this.model.edit(`Make ${this.name(id)} a constant`, (d) => removeParameter(d, id));
  flip = (id: string): void => this.model.edit('Flip the switch', (d) => (d.switches[id].on = !d.switches[id].on));
  dropSwitch = (id: string): void => this.model.edit('Remove the switch', (d) => removeSwitch(d, id));
}
