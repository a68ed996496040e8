import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import type { GraphPort, StepInput } from '@pebble/core';
import { hexOf, linearOf, linearToSrgb, numbersAt, sourceAt, usesOf } from '@pebble/core';
import { ScrubField } from '../../../ui/scrub-field';
import { Acts } from '../acts';
import { Looks, nameOf } from '../looks';
import { MasterModel } from '../master-model';
import { Selection } from '../selection';

/** One input of the chosen operation: its numbers, or what feeds it. */
@Component({
  selector: 'pb-input-row',
  imports: [ScrubField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <button class="name" [class.at]="selection.input() === port()" (click)="selection.input.set(port())" [title]="'Input ' + called()">
      {{ called() }}
    </button>
    @let f = fed();
    @if (f.kind === 'numbers') {
      <span class="values">
        @if (colour(); as hex) {
          <input
            type="color"
            [value]="hex"
            [attr.aria-label]="called() + ' as a colour'"
            (input)="setColour($any($event.target).value, false)"
            (change)="setColour($any($event.target).value, true)"
          />
        }
        @for (v of f.value; track $index; let i = $index) {
          <pb-scrub
            [label]="called() + (f.value.length > 1 ? ' ' + 'xyzw'[i] : '')"
            [value]="v"
            [step]="stepOf()"
            [decimals]="whole() ? 0 : f.value.length > 2 ? 2 : 3"
            [whole]="whole()"
            [unit]="spec().unit ?? ''"
            [initial]="initial(i)"
            (live)="set(i, $event, false)"
            (done)="set(i, $event, true)"
          />
        }
      </span>
      <span class="acts">
        @if (spec().type === 'any') {
          <button
            class="act"
            (click)="acts.colour(at())"
            [attr.aria-label]="f.value.length === 3 ? called() + ' as one number' : called() + ' as a colour'"
            title="Number or colour (C)"
          >
            {{ f.value.length === 3 ? '1' : 'rgb' }}
          </button>
        }
        <button class="act" (click)="acts.parameter(at())" [attr.aria-label]="'Make a parameter of ' + called()" title="Make a parameter of it (P)">
          <i class="pebble"></i>
        </button>
      </span>
    } @else {
      <span class="values">
        <button class="feeds" (click)="go()" [title]="f.title">
          @if (f.kind === 'parameter') {
            <i class="pebble"></i>
          }
          {{ f.text }}
        </button>
        @if (f.kind === 'parameter' && f.number !== null) {
          <pb-scrub
            [label]="f.text"
            [value]="f.number"
            [step]="0.01"
            [decimals]="3"
            (live)="setParameter($event, false)"
            (done)="setParameter($event, true)"
          />
        }
      </span>
      @if (f.kind === 'place' && holdable()) {
        <button class="act" (click)="acts.parameter(at())" [attr.aria-label]="'Make a parameter of ' + called()" title="Make a parameter of it (P)">
          <i class="pebble"></i>
        </button>
      } @else if (f.kind !== 'place') {
        <button class="act" (click)="acts.unlink(at())" [attr.aria-label]="'Let go of what feeds ' + called()" title="Let go of it">×</button>
      }
    }
    @if (outside(); as o) {
      <p class="warn">
        {{ o.says }} <button class="link" (click)="set(0, o.take, true)">take {{ o.take.toFixed(3) }}</button>
      </p>
    }
    @if (mistake(); as m) {
      <p class="error">{{ m }}</p>
    }
  `,
  styles: `
    :host {
      display: grid;
      grid-template-columns: 86px minmax(0, 1fr) auto;
      gap: 0 6px;
      align-items: center;
      min-height: 26px;
    }
    .name {
      text-align: left;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
      border-radius: 6px;
      padding: 1px 5px;
    }
    .name.at {
      background: var(--glaze-soft);
    }
    .values {
      display: flex;
      align-items: center;
      gap: 2px;
      min-width: 0;
    }
    input[type='color'] {
      width: 26px;
      height: 20px;
      padding: 0;
      border: 1px solid var(--edge);
      border-radius: 6px;
      background: none;
    }
    .feeds {
      min-width: 0;
      max-width: 100%;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
      border: 1px solid var(--line);
      border-radius: 12px;
      padding: 1px 9px;
      background: var(--raise);
    }
    .feeds:hover {
      border-color: var(--glaze);
    }
    .acts {
      display: flex;
    }
    .act {
      min-width: 24px;
      font-size: 11px;
      height: 24px;
      border-radius: 12px;
      color: var(--quiet);
    }
    .act:hover {
      background: color-mix(in srgb, var(--ink) 8%, transparent);
      color: var(--ink);
    }
    .pebble {
      display: inline-block;
      width: 12px;
      height: 9px;
      border: 1.6px solid currentColor;
      border-radius: 58% 42% 55% 45%/60% 52% 48% 40%;
    }
    p {
      grid-column: 1 / 4;
      font-size: 12px;
      padding: 0 5px 3px;
    }
    .warn {
      color: var(--warn);
    }
    .error {
      color: var(--error);
    }
    .link {
      text-decoration: underline;
      color: inherit;
    }
  `,
})
export class InputRow {
  readonly selection = inject(Selection);
  readonly acts = inject(Acts);
  private readonly model = inject(MasterModel);
  private readonly looks = inject(Looks);
  readonly operation = input.required<string>();
  readonly spec = input.required<StepInput>();
  readonly port = computed(() => this.spec().name);
  /** A place in a blend is called by its end. */
  readonly called = computed(() => this.spec().label ?? this.port().split('.').slice(-2).join(' '));
  readonly at = computed<GraphPort>(() => ({ operation: this.operation(), port: this.port() }));
  readonly whole = computed(() => this.spec().whole === true);
  /** Whether a parameter can hold it though it is no number: a map, a surface. */
  readonly holdable = computed(() => this.spec().type === 'map' || this.spec().type === 'surface');
  readonly stepOf = computed(() => (this.whole() ? 0.1 : this.spec().unit === 'm' ? 0.001 : this.spec().unit === '°' ? 1 : 0.005));
  readonly initial = (i: number): number => {
    const { initial } = this.spec();
    return typeof initial === 'string' ? 0 : (initial[i] ?? initial[0] ?? 0);
  };

  readonly fed = computed(() => {
    const [master, at] = [this.model.effective(), this.at()];
    const source = master && sourceAt(master, at);
    const numbers = master && numbersAt(master, at, this.model.context());
    if (numbers) return { kind: 'numbers' as const, value: numbers };
    if (!master || !source) {
      const { initial, type } = this.spec();
      const text = typeof initial === 'string' ? initial : type === 'map' ? 'its own map' : 'nothing yet';
      return { kind: 'place' as const, text, title: 'What it is while nothing feeds it. Tab on the graph feeds it', number: null };
    }
    if (source.from === 'link')
      return {
        kind: 'link' as const,
        text: `${nameOf(master, source.operation)}${source.port === 'out' ? '' : ` ${source.port}`}`,
        title: 'Go to what feeds it',
        number: null,
      };
    if (source.from === 'published')
      return {
        kind: 'published' as const,
        text: `reads ${master.published[source.published]?.name ?? 'what is gone'}`,
        title: 'Go to what is published',
        number: null,
      };
    const parameter = source.from === 'parameter' ? master.parameters[source.parameter] : undefined;
    const uses = source.from === 'parameter' ? usesOf(master, source.parameter).length : 0;
    const holds = parameter?.holds;
    const number = holds?.kind === 'number' && holds.value.length === 1 ? holds.value[0] : null;
    return {
      kind: 'parameter' as const,
      text: parameter?.name ?? 'a parameter that is gone',
      title: `A parameter${uses > 1 ? `, used ${uses} times` : ''}`,
      number,
    };
  });
  readonly colour = computed(() => {
    const f = this.fed();
    return f.kind === 'numbers' && f.value.length === 3 && (this.spec().colour || this.spec().type === 'any')
      ? hexOf(f.value.map((v) => Math.round(255 * linearToSrgb(Math.min(1, Math.max(0, v))))))
      : null;
  });
  readonly mistake = computed(() => {
    const found = this.looks.mistakes()[this.operation()];
    return found?.port === this.port() ? found.message : null;
  });
  /** A threshold that lies beyond what its input really holds decides nothing. */
  readonly outside = computed(() => {
    const [kind, f] = [this.selection.step(), this.fed()];
    const about = kind?.thresholds?.[this.port()];
    const held = about ? this.looks.all()?.content[this.operation()]?.[about] : undefined;
    if (!held || f.kind !== 'numbers' || f.value.length !== 1) return null;
    const v = f.value[0];
    const slack = 0.02 * (held.hi - held.lo) + 1e-6;
    if (v >= held.lo - slack && v <= held.hi + slack) return null;
    const low = this.port().includes('low');
    const edge = this.port() === 'edge' || this.port() === 'pivot';
    const take = edge ? (held.from + held.to) / 2 : low ? held.from : held.to;
    return { says: `${about} holds ${held.lo.toFixed(3)} to ${held.hi.toFixed(3)}.`, take };
  });

  set(i: number, v: number, done: boolean): void {
    const { operation, port } = this.at();
    this.model.draft((d) => {
      const now = [...(numbersAt(d, { operation, port }, this.model.context()) ?? [0])];
      now[i] = v;
      d.operations[operation].inputs[port] = { from: 'value', value: now };
    });
    if (done) this.model.commit(`Set ${this.called()}`);
  }
  setColour(hex: string, done: boolean): void {
    const { operation, port } = this.at();
    this.model.draft((d) => (d.operations[operation].inputs[port] = { from: 'value', value: linearOf(hex) }));
    if (done) this.model.commit(`Set ${this.called()}`);
  }
  setParameter(v: number, done: boolean): void {
    const source = sourceAt(this.model.master()!, this.at());
    if (source?.from !== 'parameter') return;
    this.model.holds(source.parameter, (holds) => void (holds.kind === 'number' && (holds.value = [v])));
    if (done) this.model.commit(this.model.called(`Set ${this.fed().kind === 'parameter' ? (this.fed() as { text: string }).text : this.port()}`));
  }
  go(): void {
    this.selection.input.set(this.port());
    if (this.fed().kind === 'link' || this.fed().kind === 'published') this.selection.walkBack();
  }
}
