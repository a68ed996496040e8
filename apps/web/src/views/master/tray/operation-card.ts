import { ChangeDetectionStrategy, Component, ElementRef, computed, inject, viewChild } from '@angular/core';
import { RouterLink } from '@angular/router';
import type { Source, StepSetting } from '@pebble/core';
import { IMAGE_ROLES, MASTER_OUTPUTS, ROLE_FACTS, blendPlaces, feeder, inOrder, rename, toParameter } from '@pebble/core';
import { newKey } from '../../../ui/new';
import { Acts } from '../acts';
import { outputTitle } from '../graph/card-text';
import { priceText } from '../graph/search-card';
import { Looks, nameOf } from '../looks';
import { MasterModel } from '../master-model';
import { Selection } from '../selection';
import { FormulaEditor } from './formula-editor';
import { InputRow } from './input-row';
import { OutputCard } from './output-card';

/** The chosen operation: what it does, its settings, inputs and outputs. */
@Component({
  selector: 'pb-operation-card',
  imports: [InputRow, FormulaEditor, RouterLink, OutputCard],
  changeDetection: ChangeDetectionStrategy.OnPush,
  // Whoever was sent here by a key goes back by one.
  host: { '(keydown.escape)': '$any($event).defaultPrevented || back()' },
  template: `
    @if (selection.id(); as id) {
      @let op = selection.operation()!;
      <div class="head">
        <input
          class="title"
          [value]="op.name"
          [placeholder]="op.step"
          maxlength="200"
          aria-label="Name of the operation"
          (change)="name(id, $any($event.target).value)"
          (keydown.escape)="back()"
        />
        <span class="tag" [title]="'What it adds to every pixel'">{{ price() }}</span>
      </div>
      <p class="help">
        @if (op.name) {
          <b>{{ op.step }}</b> ·
        }
        {{ selection.step()?.help ?? 'This operation is not known here' }}
      </p>
      @if (mistake(); as m) {
        <p class="error" role="alert">{{ m }}</p>
      }
      @for (note of notes(); track $index) {
        <p class="warn">{{ note }}</p>
      }
      @for (s of settings(); track s.spec.name) {
        @if (s.spec.kind === 'text') {
          <pb-formula
            [text]="s.value"
            [mistake]="formulaMistake()"
            [names]="selection.inputs()"
            (live)="draftText(id, s.spec.name, $event)"
            (done)="model.commit('Change formula')"
            (leave)="back()"
          />
        } @else if (s.spec.kind === 'count') {
          <label class="setting fixed"
            ><span>{{ s.spec.label }}</span>
            <input
              class="field num"
              type="number"
              step="1"
              [attr.min]="s.spec.low ?? null"
              [attr.max]="s.spec.high ?? null"
              [attr.aria-label]="s.spec.label"
              [value]="s.value"
              (change)="setting(id, s.spec, $any($event.target).value)"
          /></label>
        } @else if (s.spec.kind === 'swizzle') {
          <label class="setting fixed"
            ><span>{{ s.spec.label }}</span>
            <input class="field num" [value]="s.value" maxlength="4" (change)="setting(id, s.spec, $any($event.target).value)"
          /></label>
        } @else {
          <label class="setting fixed"
            ><span>{{ s.spec.label }}</span>
            <select class="field" [attr.aria-label]="s.spec.label" (change)="setting(id, s.spec, $any($event.target).value)">
              @for (o of s.options; track o.id) {
                <option [value]="o.id" [selected]="o.id === s.value">{{ o.name }}</option>
              }
            </select></label
          >
        }
      }
      @if (own(); as of) {
        <p class="help">
          {{ of.body.help }} <a [routerLink]="['/master', of.id]">Edit {{ of.body.name }}</a
          >, here and wherever it is used.
        </p>
      }
      @if (places().length) {
        <label class="setting"
          ><span>parameter</span>
          <select
            class="field"
            aria-label="Make a parameter of a number of the blend"
            (change)="expose(id, $any($event.target).value); $any($event.target).value = ''"
          >
            <option value="">of a number in the blend …</option>
            @for (layer of places(); track layer.name) {
              <optgroup [label]="layer.name">
                @for (p of layer.list; track p.path) {
                  <option [value]="p.path">{{ p.label }}</option>
                }
              </optgroup>
            }
          </select></label
        >
      }
      <div class="rows">
        @for (input of inputs(); track input.name) {
          <pb-input-row [operation]="id" [spec]="input" [attr.data-port]="input.name" />
        }
      </div>
      @if (outputs().length > 1) {
        <label class="setting"
          ><span>look at</span>
          <select class="field" aria-label="Output that is looked at" (change)="selection.port.set($any($event.target).value)">
            @for (o of outputs(); track o.name) {
              <option [value]="o.name" [selected]="selection.port() === o.name">{{ o.label }}</option>
            }
          </select></label
        >
      }
      <div class="acts">
        <button class="pill" [class.on]="op.bypassed" (click)="acts.bypass()">bypass <kbd>B</kbd></button>
        <button class="pill" (click)="acts.replace()">replace <kbd>R</kbd></button>
        <button class="pill" (click)="acts.publish()">publish <kbd>N</kbd></button>
        <button class="pill" (click)="acts.frame()">frame <kbd>G</kbd></button>
        <button class="pill" (click)="acts.own()" title="Make a master of what is chosen, and use it here as one operation">
          make own <kbd>M</kbd>
        </button>
        <button class="pill" (click)="acts.duplicate()">duplicate</button>
        <button class="pill" (click)="acts.remove()">remove</button>
      </div>
      <label class="setting feed"
        ><span>feeds</span>
        <select
          class="field"
          aria-label="Feed an output of the master"
          (change)="acts.toOutput($any($event.target).value); $any($event.target).value = ''"
        >
          <option value="">{{ feeds() || 'nothing yet: choose an output' }}</option>
          @for (o of masterOutputs; track o) {
            <option [value]="o">the output {{ title(o) }}</option>
          }
        </select></label
      >
      <textarea
        class="field"
        rows="1"
        placeholder="a comment"
        aria-label="Comment"
        maxlength="2000"
        [value]="op.note"
        (change)="comment(id, $any($event.target).value)"
      ></textarea>
    } @else if (selection.output(); as out) {
      <pb-output-card [output]="out" />
    } @else {
      <p class="help">
        Choose an operation to see what it does to the numbers. On the graph, <kbd>Tab</kbd> adds, arrows walk links, <kbd>Enter</kbd> edits.
      </p>
      <label class="setting"
        ><span>find</span>
        <select class="field" aria-label="Find in the graph" (change)="selection.choose($any($event.target).value)">
          <option value="">{{ count() }} operations</option>
          @for (o of list(); track o.id) {
            <option [value]="o.id">{{ o.name }}</option>
          }
        </select></label
      >
    }
  `,
  styles: `
    :host {
      padding: 8px 12px;
      overflow-y: auto;
      min-height: 0;
    }
    a {
      color: var(--glaze);
    }
    .error {
      color: var(--error);
    }
    .warn {
      color: var(--warn);
      font-size: 12px;
    }
    textarea {
      resize: vertical;
      min-height: 28px;
      font: inherit;
    }
  `,
  styleUrl: './card.scss',
})
export class OperationCard {
  readonly model = inject(MasterModel);
  readonly selection = inject(Selection);
  readonly acts = inject(Acts);
  private readonly looks = inject(Looks);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  private readonly formula = viewChild(FormulaEditor);
  readonly masterOutputs = MASTER_OUTPUTS;
  readonly title = outputTitle;
  /** Called when the keyboard goes back to the graph. */
  back: () => void = () => undefined;

  readonly inputs = computed(() => {
    const [kind, op] = [this.selection.step(), this.selection.operation()];
    return kind && op ? kind.inputs(op, this.model.context()) : [];
  });
  /** Numbers of the blend that are no parameters yet, by layer. */
  readonly places = computed(() => {
    const op = this.selection.operation();
    const blend = op?.step === 'blend' ? this.model.blends()[String(op.settings['blend'])] : undefined;
    const free = blend && op ? blendPlaces(blend).filter((p) => !op.inputs[p.path]) : [];
    return [...new Set(free.map((p) => p.layer))].map((name) => ({ name, list: free.filter((p) => p.layer === name) }));
  });
  expose(id: string, path: string): void {
    const place = this.places()
      .flatMap((l) => l.list)
      .find((p) => p.path === path);
    if (!place) return;
    const name = `${place.layer} ${place.label}`.toLowerCase();
    this.model.edit(`Parameter ${name}`, (d) => void toParameter(d, { operation: id, port: path }, newKey(), { name, holds: place.holds }));
  }
  /** The master that the operation is. */
  readonly own = computed(() => {
    const op = this.selection.operation();
    return op?.step === 'own' ? this.model.usable().find((m) => m.id === op.settings['master']) : undefined;
  });
  readonly outputs = computed(() => {
    const [kind, op] = [this.selection.step(), this.selection.operation()];
    return kind && op ? kind.outputs(op, this.model.context()).map(({ name, label }) => ({ name, label: label ?? name })) : [];
  });
  readonly price = computed(() => priceText(this.looks.all()?.prices[this.selection.id() ?? '']));
  readonly mistake = computed(() => {
    const found = this.looks.mistakes()[this.selection.id() ?? ''];
    // What belongs to an input stands there; what belongs to characters is marked at them as well.
    return found && !(found.port && this.inputs().some((i) => i.name === found.port)) ? found.message : null;
  });
  readonly formulaMistake = computed(() => {
    const found = this.looks.mistakes()[this.selection.id() ?? ''];
    return found?.at ? { message: found.message, at: found.at } : null;
  });
  readonly notes = computed(() => (this.looks.all()?.notes ?? []).filter((n) => n.operation === this.selection.id()).map((n) => n.message));
  readonly settings = computed(() => {
    const [kind, op, master] = [this.selection.step(), this.selection.operation(), this.model.master()];
    if (!kind || !op || !master) return [];
    return kind.settings
      .filter((s) => !(['surface', 'role'].includes(s.name) && op.inputs['map']))
      .map((spec) => ({ spec, value: String(op.settings[spec.name] ?? spec.initial), options: this.options(spec) }));
  });
  private options(spec: StepSetting): { id: string; name: string }[] {
    const of = (collection: Readonly<Record<string, { name: string }>>) => Object.entries(collection).map(([id, { name }]) => ({ id, name }));
    const none = { id: '', name: 'choose one' };
    if (spec.kind === 'surface') return [none, ...of(this.model.surfaces())];
    if (spec.kind === 'blend') return [none, ...of(this.model.blends())];
    if (spec.kind === 'master') return [none, ...this.model.usable().map(({ id, body }) => ({ id, name: body.name }))];
    if (spec.kind === 'switch') return inOrder(this.model.master()?.switches ?? {}).map(({ id, name }) => ({ id, name }));
    if (spec.kind === 'role') return IMAGE_ROLES.map((id) => ({ id, name: ROLE_FACTS[id].label.toLowerCase() }));
    return (spec.choices ?? []).map((c) => ({ id: String(c), name: String(c) }));
  }
  readonly feeds = computed(() => {
    const [id, master] = [this.selection.id(), this.model.master()];
    if (!id || !master) return '';
    const is = (s: Source | undefined) => s !== undefined && feeder(master, s) === id;
    const operations = Object.entries(master.operations).flatMap(([to, op]) => (Object.values(op.inputs).some(is) ? [nameOf(master, to)] : []));
    const outputs = MASTER_OUTPUTS.filter((name) => is(master.outputs[name])).map((name) => `output ${outputTitle(name)}`);
    return [...operations, ...outputs].join(', ');
  });
  readonly list = computed(() => {
    const master = this.model.master();
    return master ? inOrder(master.operations).map(({ id, name, step }) => ({ id, name: name ? `${name} (${step})` : step })) : [];
  });
  readonly count = computed(() => this.list().length);

  /** Puts the keyboard where the chosen input is turned. @param first a digit that was typed */
  edit(first?: string): void {
    const host = this.host.nativeElement;
    if (!first && this.formula()) return this.formula()?.focus();
    const setting = first ? null : host.querySelector<HTMLElement>('.fixed select, .fixed input');
    const row = [...host.querySelectorAll<HTMLElement>('pb-input-row')].find((r) => r.dataset['port'] === this.selection.input());
    const field =
      setting ??
      row?.querySelector<HTMLElement>('.value') ??
      row?.querySelector<HTMLElement>('.feeds') ??
      host.querySelector<HTMLElement>('select, input, [tabindex]');
    field?.focus();
    field?.scrollIntoView({ block: 'nearest' });
    if (first) field?.dispatchEvent(new KeyboardEvent('keydown', { key: first, bubbles: true }));
  }

  name(id: string, text: string): void {
    this.model.edit(text ? `Name ${text}` : 'Take the name away', (d) => void rename(d, 'operations', id, text));
  }
  comment(id: string, text: string): void {
    this.model.edit('Comment', (d) => (d.operations[id].note = text.slice(0, 2000)));
  }
  setting(id: string, spec: StepSetting, value: string): void {
    const number = typeof spec.initial === 'number' ? Number(value) : value;
    this.model.edit(
      `${spec.label}: ${this.options(spec).find((o) => o.id === value)?.name ?? value}`,
      (d) => (d.operations[id].settings[spec.name] = number),
    );
  }
  draftText(id: string, name: string, text: string): void {
    this.model.draft((d) => (d.operations[id].settings[name] = text.slice(0, 10000)));
  }
}
