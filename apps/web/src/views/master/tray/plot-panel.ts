import type { ElementRef } from '@angular/core';
import {
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  afterNextRender,
  computed,
  effect,
  inject,
  linkedSignal,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import type { GraphContext, GraphPort, MasterDocument, Plot, PlotRequest } from '@pebble/core';
import { firstOutput, inOrder, numbersAt, parameterValue, sourceAt, upstream, valueName } from '@pebble/core';
import type { EChartsType } from 'echarts/core';
import { MasterService } from '../../../services/master.service';
import { NoticesService } from '../../../services/notices.service';
import { WorkbenchService } from '../../../services/workbench.service';
import { Latest } from '../../../ui/latest';
import { ScrubField } from '../../../ui/scrub-field';
import { Looks, nameOf } from '../looks';
import { MasterModel } from '../master-model';
import { Selection } from '../selection';
import { plotOption } from './plot-option';
import { short } from './step-pictures';

/** Something a curve can run along. */
interface Along {
  key: string;
  name: string;
  ask: PlotRequest['along'];
  /** What it is now, where it is one number. */
  now: number | null;
}
const POINTS = 241;
/** The chosen output as a curve over one of the things it hangs on, others beside it. */
@Component({
  selector: 'pb-plot',
  imports: [ScrubField],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="bar">
      <span class="lead">{{ called() }} against</span>
      <select class="token" aria-label="What the curve runs along" (change)="along.set($any($event.target).value)" [disabled]="!choices().length">
        @for (c of choices(); track c.key) {
          <option [value]="c.key" [selected]="c.key === along()">{{ c.name }}</option>
        } @empty {
          <option>nothing: it takes nothing in</option>
        }
      </select>
      <span class="quiet">from</span>
      <pb-scrub
        label="Left end of the plot"
        [value]="range().from"
        [step]="0.05"
        [decimals]="2"
        (live)="setRange($event, range().to)"
        (done)="setRange($event, range().to)"
      />
      <span class="quiet">to</span>
      <pb-scrub
        label="Right end of the plot"
        [value]="range().to"
        [step]="0.05"
        [decimals]="2"
        (live)="setRange(range().from, $event)"
        (done)="setRange(range().from, $event)"
      />
    </div>
    <div class="bar second">
      <select class="pill" aria-label="Another operation in the plot" (change)="add($any($event.target).value); $any($event.target).value = ''">
        <option value="">draw beside it</option>
        @for (o of others(); track o.id) {
          <option [value]="o.id">{{ shown().includes(o.id) ? '✓ ' : '' }}{{ o.name }}</option>
        }
      </select>
      <span class="said" [class.warn]="leaves()">{{ said() }}</span>
    </div>
    <div #chart class="chart" role="img" [attr.aria-label]="called() + ' plotted: ' + said()" data-testid="plot"></div>
    @if (live().length) {
      <div class="sliders">
        @for (p of live(); track p.id) {
          <label
            ><span>{{ p.name }}</span>
            <input
              type="range"
              [min]="p.low"
              [max]="p.high"
              [step]="(p.high - p.low) / 200"
              [value]="p.value"
              [attr.aria-label]="p.name"
              (input)="slide(p.id, $any($event.target).valueAsNumber, false)"
              (change)="slide(p.id, $any($event.target).valueAsNumber, true)"
            />
            <b class="num">{{ p.value.toFixed(3) }}</b></label
          >
        }
      </div>
    }
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      min-height: 0;
      min-width: 0;
      padding: 8px 12px 6px;
    }
    .bar {
      display: flex;
      align-items: center;
      gap: 5px;
      min-height: 28px;
      min-width: 0;
    }
    .lead {
      font-weight: 600;
      white-space: nowrap;
      overflow: hidden;
      text-overflow: ellipsis;
      min-width: 40px;
    }
    select.token {
      flex: 0 1 130px;
      min-width: 70px;
      padding-right: 2px;
    }
    select.pill {
      border: 0;
      background: transparent;
      max-width: 136px;
    }
    option {
      background: var(--raise);
      color: var(--ink);
    }
    .second {
      min-height: 24px;
    }
    .said {
      margin-left: auto;
      font: 11.5px/18px var(--mono);
      color: var(--quiet);
      white-space: nowrap;
      overflow: hidden;
      text-overflow: ellipsis;
    }
    .said.warn {
      color: var(--warn);
    }
    .chart {
      flex: 1;
      min-height: 0;
    }
    .sliders {
      display: grid;
      grid-template-columns: repeat(auto-fill, minmax(190px, 1fr));
      gap: 0 14px;
      max-height: 66px;
      overflow-y: auto;
    }
    label {
      display: grid;
      grid-template-columns: minmax(40px, 76px) 1fr 44px;
      align-items: center;
      gap: 6px;
      font-size: 12px;
    }
    label span {
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    input[type='range'] {
      accent-color: var(--lichen);
      min-width: 0;
    }
    b {
      font-weight: 500;
      text-align: right;
    }
  `,
})
export class PlotPanel {
  private readonly model = inject(MasterModel);
  private readonly selection = inject(Selection);
  private readonly looks = inject(Looks);
  private readonly service = inject(MasterService);
  private readonly notices = inject(NoticesService);
  private readonly workbench = inject(WorkbenchService);
  private readonly host = viewChild.required<ElementRef<HTMLElement>>('chart');
  private readonly chart = signal<EChartsType | null>(null);
  private readonly plot = signal<{ plot: Plot; names: string[] } | null>(null);
  private readonly latest = new Latest<{ plot: Plot; names: string[] }>(
    (plot) => this.plot.set(plot),
    (error) => this.notices.error(error),
  );

  readonly called = computed(() => {
    const [id, master] = [this.selection.id(), this.model.master()];
    return id && master ? nameOf(master, id) : 'No operation';
  });
  /** Inputs of the operation, then what feeds these from farther away, then parameters. */
  readonly choices = computed<Along[]>(() => {
    const [id, master] = [this.selection.id(), this.model.master()];
    if (!id || !master) return [];
    const found = new Map<string, Along>();
    const add = (a: Along | null) => a && !found.has(a.key) && found.set(a.key, a);
    for (const { name, type, label = name } of this.selection.step()?.inputs(master.operations[id], this.model.context()) ?? [])
      if (type !== 'map' && type !== 'surface') add(alongInput(master, { operation: id, port: name }, this.model.context(), label));
    for (const from of upstream(master, id)) {
      add({
        key: `o${from}`,
        name: nameOf(master, from),
        ask: { operation: from, port: firstOutput(master, from, this.model.context()) },
        now: null,
      });
      for (const s of Object.values(master.operations[from].inputs)) if (s.from === 'parameter') add(alongParameter(master, s.parameter));
    }
    return [...found.values()];
  });
  readonly along = linkedSignal<readonly Along[], string>({
    source: this.choices,
    computation: (list, before) => (before && list.some((a) => a.key === before.value) ? before.value : (list[0]?.key ?? '')),
  });
  private readonly chosen = computed(() => this.choices().find((a) => a.key === this.along()) ?? null);
  readonly range = linkedSignal<string, { from: number; to: number }>({
    // What it holds is not known at once.
    source: () => `${this.selection.id()} ${this.along()} ${this.looks.all() !== null}`,
    computation: () => untracked(() => this.usualRange()),
  });
  setRange(from: number, to: number): void {
    if (to > from) this.range.set({ from, to });
  }
  /** What it holds, rounded out; 0–1 where that is within it. */
  private usualRange(): { from: number; to: number } {
    const [along, looks] = [this.chosen(), this.looks.all()];
    const look = along && 'operation' in along.ask ? looks?.pictures[along.ask.operation] : undefined;
    const [lo, hi] = look ? [look.lo, look.hi] : along && along.now !== null ? [Math.min(0, along.now * 2), Math.max(1, along.now * 2)] : [0, 1];
    if (lo >= -0.001 && hi <= 1.001) return { from: 0, to: 1 };
    const pad = (hi - lo) * 0.05 || 0.5;
    return { from: Number((lo - pad).toPrecision(3)), to: Number((hi + pad).toPrecision(3)) };
  }

  readonly others = computed(() => {
    const [id, master] = [this.selection.id(), this.model.master()];
    return id && master ? upstream(master, id).map((o) => ({ id: o, name: nameOf(master, o) })) : [];
  });
  /** Operations that are drawn beside the chosen one: at first what feeds it directly. */
  readonly shown = linkedSignal<string | null, readonly string[]>({
    source: () => this.selection.id(),
    computation: (id) => {
      const master = untracked(this.model.master);
      if (!id || !master) return [];
      const first = Object.values(master.operations[id]?.inputs ?? {}).find((s) => s.from === 'link');
      return first?.from === 'link' ? [first.operation] : [];
    },
  });
  add(id: string): void {
    if (id) this.shown.update((list) => (list.includes(id) ? list.filter((o) => o !== id) : [...list, id].slice(-3)));
  }

  readonly live = computed(() => {
    const [id, master] = [this.selection.id(), this.model.master()];
    if (!id || !master) return [];
    const used = new Set(
      [id, ...upstream(master, id)].flatMap((o) =>
        Object.values(master.operations[o].inputs).flatMap((s) => (s.from === 'parameter' ? [s.parameter] : [])),
      ),
    );
    return inOrder(master.parameters).flatMap(({ id: key, name, holds }) =>
      used.has(key) && holds.kind === 'number' && holds.value.length === 1
        ? [{ id: key, name, low: Math.min(holds.low, holds.value[0]), high: Math.max(holds.high, holds.value[0]), value: holds.value[0] }]
        : [],
    );
  });
  slide(id: string, value: number, done: boolean): void {
    this.model.draft((d) => {
      const { holds } = d.parameters[id];
      if (holds.kind === 'number') holds.value = [value];
    });
    if (done) this.model.commit(`Set ${this.model.master()?.parameters[id]?.name ?? 'parameter'}`);
  }

  /** Where the chosen curve goes beyond 0–1. */
  readonly leaves = computed(() => {
    const curve = this.plot()?.plot.curves[0];
    return curve ? curve.planes.some((p) => p.some((v) => v < -1e-4 || v > 1 + 1e-4)) : false;
  });
  readonly said = computed(() => {
    const found = this.plot()?.plot;
    const curve = found?.curves[0];
    if (!this.selection.id()) return 'choose an operation';
    if (!found || !curve) return 'cannot be worked out';
    if (!curve.follows) return 'does not hang on it';
    const all = curve.planes.flatMap((p) => [...p]);
    const [lo, hi] = [Math.min(...all), Math.max(...all)];
    return `${short(found.x[0])} … ${short(found.x[found.x.length - 1])} in, ${short(lo)} … ${short(hi)} out${this.leaves() ? ', leaves 0–1' : ''}`;
  });

  constructor() {
    afterNextRender(() => void this.open());
    const destroyed = inject(DestroyRef);
    destroyed.onDestroy(() => this.chart()?.dispose());
    effect(() => {
      const [ask, along, id, master] = [this.looks.ask(), this.chosen(), this.selection.id(), this.model.master()];
      const { from, to } = this.range();
      if (!ask || !id || !master) return this.plot.set(null);
      const curves = [
        { operation: id, port: this.selection.port() },
        ...this.shown().flatMap((o) => (master.operations[o] ? [{ operation: o, port: firstOutput(master, o, this.model.context()) }] : [])),
      ];
      const names = curves.map((c) => nameOf(master, c.operation));
      const request: PlotRequest = { curves, along: along?.ask ?? { value: '' }, from, to, at: [0.5, 0.5], points: POINTS };
      this.latest.ask(async () => ({ plot: await this.service.run('plot', { ...ask, plot: request }), names }));
    });
    effect(() => {
      const [chart, found] = [this.chart(), this.plot()];
      this.workbench.theme();
      if (chart) chart.setOption(found ? plotOption(found, this.chosen()?.now ?? null) : { series: [] }, true);
    });
  }

  private async open(): Promise<void> {
    const [
      core,
      { LineChart, BarChart },
      { GridComponent, TooltipComponent, MarkLineComponent, MarkAreaComponent, AxisPointerComponent },
      { CanvasRenderer },
    ] = await Promise.all([import('echarts/core'), import('echarts/charts'), import('echarts/components'), import('echarts/renderers')]);
    core.use([LineChart, BarChart, GridComponent, TooltipComponent, MarkLineComponent, MarkAreaComponent, AxisPointerComponent, CanvasRenderer]);
    const host = this.host().nativeElement;
    const chart = core.init(host);
    const observer = new ResizeObserver(() => chart.resize());
    observer.observe(host);
    this.chart.set(chart);
  }
}

function alongParameter(master: MasterDocument, id: string): Along | null {
  const parameter = master.parameters[id];
  if (!parameter || parameter.holds.kind !== 'number') return null;
  return { key: `p${id}`, name: parameter.name, ask: { value: parameterValue(id) }, now: parameter.holds.value[0] };
}
/** What an input is fed by: another operation, a parameter, or its own number. */
function alongInput(master: MasterDocument, at: GraphPort, context: GraphContext, label: string): Along | null {
  const source = sourceAt(master, at);
  if (source?.from === 'link')
    return { key: `o${source.operation}`, name: label, ask: { operation: source.operation, port: source.port }, now: null };
  if (source?.from === 'published') {
    const p = master.published[source.published];
    return p ? { key: `o${p.operation}`, name: p.name, ask: { operation: p.operation, port: p.port }, now: null } : null;
  }
  if (source?.from === 'parameter') return alongParameter(master, source.parameter);
  const numbers = numbersAt(master, at, context);
  return numbers?.length === 1 ? { key: `v${at.port}`, name: label, ask: { value: valueName(master, at, context) }, now: numbers[0] } : null;
}
