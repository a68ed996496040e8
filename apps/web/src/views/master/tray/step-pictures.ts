import { ChangeDetectionStrategy, Component, computed, effect, inject, linkedSignal, signal, untracked } from '@angular/core';
import { Latest } from '../../../ui/latest';
import { MasterService } from '../../../services/master.service';
import { NoticesService } from '../../../services/notices.service';
import { channelsOf } from '../../../stage/channels';
import { AssetCard } from '../../../stage/asset-card';
import { AssetModel } from '../../../stage/asset-model';
import { SpecimenPick } from '../../../stage/specimen-pick';
import type { ActionId } from '../../../ui/actions';
import { Actions } from '../../../ui/actions';
import { StagePanes } from '../../../stage/stage-panes';
import { StageScene } from '../../../stage/stage-scene';
import { Looks, nameOf } from '../looks';
import { BlockPicture, Blocks } from './blocks';
import type { Shows } from '../master-model';
import { MasterModel } from '../master-model';
import { Motion } from '../motion';
import { Selection } from '../selection';
import { TimeStrip } from './time-strip';
import { TryNumber } from './try-number';

/** The whole, the chosen step or what it reaches, on the specimen and flat. */
@Component({
  selector: 'pb-step-pictures',
  imports: [AssetCard, BlockPicture, SpecimenPick, StagePanes, TimeStrip, TryNumber],
  providers: [Blocks],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="bar" role="radiogroup" aria-label="What is looked at">
      @for (s of choices; track s.id) {
        <button
          class="pill"
          role="radio"
          [class.on]="model.shows() === s.id"
          [attr.aria-checked]="model.shows() === s.id"
          [disabled]="s.id !== 'result' && !selection.id()"
          (click)="model.shows.set(s.id)"
          [title]="s.help"
        >
          {{ s.name }} <kbd>{{ actions.text(s.action) }}</kbd>
        </button>
      }
      @if (model.shows() === 'step' && selection.id()) {
        <button
          class="pill"
          [class.on]="blocks.on()"
          [attr.aria-pressed]="blocks.on()"
          (click)="blocks.on.set(!blocks.on())"
          title="On the flat, as a target holds it: 8 bits, in blocks of 4 × 4"
        >
          Blocks <kbd>{{ actions.text('blocks') }}</kbd>
        </button>
      }
      <span class="gap"></span>
      <button class="pill" [class.on]="timed()" [attr.aria-expanded]="timed()" (click)="timing.set(!timed())" title="Play, scrub, try a number out">
        Time
      </button>
      @if (model.shows() !== 'step') {
        <select class="pill" aria-label="Channel" (change)="scene.channel.set($any($event.target).value)">
          @for (c of channels(); track c.id) {
            <option [value]="c.id" [selected]="scene.channel() === c.id">{{ c.name }}</option>
          }
        </select>
      }
    </div>
    <pb-stage-panes class="panes">
      @if (blocks.shown(); as look) {
        <pb-block-picture class="blocks" [look]="look" [flat]="scene.flat()" />
      }
    </pb-stage-panes>
    @if (timed()) {
      <pb-time />
    }
    @if (motion.driven()) {
      <pb-try />
    }
    <div class="foot">
      @if (blocks.wanted()) {
        <select class="pill" aria-label="Texels a repetition" (change)="blocks.side.set(+$any($event.target).value)">
          @for (s of blocks.sides; track s) {
            <option [value]="s" [selected]="blocks.side() === s">{{ s }} texels</option>
          }
        </select>
      } @else {
        <pb-specimen-pick />
        @if (assets.body()) {
          <pb-asset [compact]="true" />
        }
      }
      @if (!motion.driven() && motion.numbers().length && model.shows() === 'result') {
        <pb-try />
      }
      <span class="says" [class.warn]="leak()" role="status">{{ says() }}</span>
    </div>
  `,
  styles: `
    /* Words before the keys that stand for them; help lists those. */
    @media (max-width: 1000px) {
      .bar kbd {
        display: none;
      }
    }
    :host {
      display: flex;
      flex-direction: column;
      min-height: 0;
      gap: 6px;
      padding: 8px 12px 6px;
    }
    .bar,
    .foot {
      display: flex;
      align-items: center;
      gap: 2px;
      min-height: 28px;
    }
    .bar {
      overflow: hidden;
    }
    .bar .pill {
      padding: 0 8px;
    }
    .bar select.pill {
      padding: 0;
      flex: 0 1 84px;
      min-width: 0;
    }
    .gap {
      flex: 1;
    }
    pb-specimen-pick {
      flex: 0 1 auto;
      min-width: 0;
    }
    select {
      border: 0;
      background: transparent;
      max-width: 120px;
    }
    option {
      background: var(--raise);
      color: var(--ink);
    }
    .panes {
      flex: 1;
      min-height: 0;
      border-radius: 10px;
    }
    .blocks {
      position: absolute;
      left: 50%;
      top: 0;
      width: 50%;
      height: 100%;
    }
    .says {
      flex: 1;
      text-align: right;
      font-size: 12px;
      color: var(--quiet);
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    .says.warn {
      color: var(--warn);
    }
  `,
})
export class StepPictures {
  readonly model = inject(MasterModel);
  readonly actions = inject(Actions);
  readonly selection = inject(Selection);
  readonly scene = inject(StageScene);
  readonly blocks = inject(Blocks);
  private readonly looks = inject(Looks);
  private readonly service = inject(MasterService);
  private readonly notices = inject(NoticesService);
  readonly assets = inject(AssetModel);
  readonly motion = inject(Motion);
  /** Whether the strip of time is out: where something moves unless somebody put it away. */
  readonly timing = linkedSignal<boolean, boolean | null>({ source: this.motion.moves, computation: () => null });
  readonly timed = computed(() => this.timing() ?? this.motion.moves());
  readonly channels = computed(() => channelsOf(this.model.shaped().material));
  readonly choices: readonly { id: Shows; name: string; action: ActionId; help: string }[] = [
    { id: 'result', name: 'Whole', action: 'result', help: 'The outputs of the master' },
    { id: 'step', name: 'Step', action: 'step', help: 'What the chosen operation gives, the rest going on as it is' },
    { id: 'probe', name: 'Probe', action: 'probe', help: 'A garish colour wherever the chosen operation changes anything' },
  ];
  /** Share of one repetition that the chosen step changes. */
  private readonly share = signal<number | null>(null);
  private readonly latest = new Latest<number | null>(
    (share) => this.share.set(share),
    (error) => this.notices.error(error),
  );
  readonly leak = computed(() => this.model.shows() === 'probe' && (this.share() ?? 0) > 0);
  readonly says = computed(() => {
    const [shows, share, looked, master] = [this.model.shows(), this.share(), this.model.looked(), this.model.master()];
    if (!looked || !master || shows === 'result') return this.model.lowered()?.error ? 'the last good picture: see the card that is marked' : '';
    const name = nameOf(master, looked.operation);
    if (shows === 'probe')
      return share === null ? 'measuring …' : `it changes ${(share * 100).toFixed(share < 0.1 ? 1 : 0)} % of what the flat shows`;
    const kept = this.blocks.says();
    if (kept) return kept;
    const look = this.looks.all()?.pictures[looked.operation];
    return look
      ? `${name} gives ${short(look.lo)} … ${short(look.hi)}${look.outside > 0.0005 ? `, ${(look.outside * 100).toFixed(0)} % beyond 0–1` : ''}`
      : '';
  });

  constructor() {
    effect(() => {
      const id = this.selection.id();
      const port = this.selection.port();
      this.model.looked.set(id ? { operation: id, port } : null);
    });
    effect(() => {
      const shows = this.model.looked() ? this.model.shows() : 'result';
      this.scene.instead.set(shows === 'step' ? this.model.stepChannel() : null);
    });
    effect(() => {
      const [shows, looked, ask] = [this.model.shows(), this.model.looked(), this.looks.ask()];
      if (shows !== 'probe' || !looked || !ask) return untracked(() => this.share.set(null));
      this.latest.ask(() => this.service.run('reach', { ...ask, ...looked }));
    });
  }
}

/** Half a step of 12 bits. */
const NOTHING = 1 / 8192;
/** A number in few characters, as charts and captions have it. */
export function short(v: number): string {
  const size = Math.abs(v);
  // Below what any screen shows it is nothing.
  if (size < NOTHING) return '0';
  const text = size >= 100 ? v.toFixed(0) : size < 0.001 ? v.toExponential(0) : v.toFixed(size < 0.1 ? 3 : 2);
  return text.replace(/^-/, '−');
}
