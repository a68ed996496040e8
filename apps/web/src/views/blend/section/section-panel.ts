import type { ElementRef } from '@angular/core';
import { ChangeDetectionStrategy, Component, DestroyRef, computed, effect, inject, signal, viewChild } from '@angular/core';
import { waterOf } from '@pebble/core';
import type { SectionMessage, SectionPicture } from '../../../workers/protocol';
import { WorkbenchService } from '../../../services/workbench.service';
import { follow } from '../../../ui/follow';
import { BlendModel } from '../blend-model';
import { PLAIN, layerTone } from '../layers/layer-tone';
import { Accounts } from '../../../stage/accounts';
import { alongCut } from '../stage/stage-cut';
import { StageSpecimen } from '../../../stage/stage-specimen';
import { BAND, contendersOf, fitSection, seamOf } from '../../../workers/section-drawing';

const AXIS = 58;

/** The side-on cut: heights that decide, who wins, and handles that lift and soften the chosen layer. */
@Component({
  selector: 'pb-section',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <canvas #canvas (pointermove)="hover($event)" (pointerleave)="model.along.set(null)" data-testid="section"></canvas>
    @if (scale(); as s) {
      <ol class="ruler num" aria-label="Heights in millimetres">
        @for (mm of s.linesMm; track mm) {
          <li [style.transform]="'translateY(' + (s.zero - (mm / 1000) * s.rise) + 'px)'">{{ mm }} mm</li>
        }
      </ol>
      <span class="facts num" [class.away]="at() !== null && at()! > s.width - 640"
        >{{ specimen.placeText() }} · cut {{ model.section()?.lengthM?.toFixed(2) }} m · heights ×{{
          s.exaggeration.toFixed(s.exaggeration < 10 ? 1 : 0)
        }}</span
      >
      <span class="ways" role="group" aria-label="How the section is shown">
        <button class="pill" [class.on]="trueScale()" [attr.aria-pressed]="trueScale()" (click)="trueScale.set(!trueScale())">true scale</button>
        <button class="pill" [class.on]="everyone()" [attr.aria-pressed]="everyone()" (click)="everyone.set(!everyone())">all profiles</button>
        <button class="pill" [class.on]="model.following()" [attr.aria-pressed]="model.following()" (click)="model.following.set(!model.following())">
          follows the pointer
        </button>
        <button class="pill" [class.on]="model.cutting()" [attr.aria-pressed]="model.cutting()" (click)="model.cutting.set(!model.cutting())">
          draw it on the specimen
        </button>
      </span>
      @if (handle(); as h) {
        <button
          class="handle lift"
          [style.left.px]="h.x"
          [style.top.px]="h.y"
          [attr.aria-label]="'Lift of ' + model.selected()?.name + '; arrow keys change it'"
          (pointerdown)="drag($event, 'lift')"
          (keydown)="key($event, 'lift')"
          data-testid="lift-handle"
        >
          <svg viewBox="0 0 20 32" width="20" height="32">
            <path d="M10 0l5 7H5zM10 32l5-7H5z" />
            <circle cx="10" cy="16" r="6" />
          </svg>
        </button>
      }
      @if (seam(); as h) {
        <button
          class="handle soft"
          [style.left.px]="h.x"
          [style.top.px]="h.y"
          [attr.aria-label]="'Softness of ' + model.selected()?.name + '; arrow keys change it'"
          (pointerdown)="drag($event, 'soft')"
          (keydown)="key($event, 'soft')"
          data-testid="soft-handle"
        >
          <svg viewBox="0 0 32 20" width="32" height="20">
            <path d="M0 10l7-5v10zM32 10l-7-5v10z" />
            <rect x="12" y="6" width="8" height="8" transform="rotate(45 16 10)" />
          </svg>
        </button>
      }
      @for (m of marks(); track m.number) {
        <i class="hair place" [style.left.px]="m.x"
          ><b class="num">{{ m.number }}</b></i
        >
      }
      @if (at() !== null) {
        <i class="hair" [style.left.px]="at()"></i
        ><span class="reading num" [style.left.px]="at()" [class.left]="at()! > s.width - 260">{{ reading() }}</span>
      }
    } @else if (model.stack() && !model.slots()) {
      <p class="quiet">Reading the maps …</p>
    } @else if (!model.stack()?.layers?.length) {
      <p class="quiet">Switch a layer on to see the cut.</p>
    }
  `,
  styles: `
    :host {
      position: relative;
      display: block;
      height: 100%;
      min-width: 0;
    }
    canvas {
      position: absolute;
      inset: 0;
      width: 100%;
      height: 100%;
      cursor: crosshair;
    }
    .ruler {
      list-style: none;
      margin: 0;
      padding: 0;
    }
    .ruler li {
      position: absolute;
      right: 8px;
      top: -7px;
      font-size: 10px;
      color: var(--quiet);
      pointer-events: none;
    }
    .ways {
      position: absolute;
      left: 8px;
      top: 2px;
      display: flex;
      gap: 2px;
    }
    .ways .pill {
      height: 22px;
      min-height: 0;
      font-size: 11px;
      padding: 0 8px;
    }
    .facts {
      position: absolute;
      right: 64px;
      top: 4px;
      color: var(--quiet);
      background: var(--panel);
      padding: 0 6px;
      border-radius: 8px;
      pointer-events: none;
    }
    @media (max-width: 1000px) {
      .facts {
        top: 25px;
      }
    }
    /* The reading beside the pointer would lie over them. */
    .facts.away {
      visibility: hidden;
    }
    .handle {
      position: absolute;
      touch-action: none;
      filter: drop-shadow(0 1px 1px #0006);
    }
    .handle path {
      fill: var(--glaze);
    }
    .handle circle,
    .handle rect {
      fill: var(--raise);
      stroke: var(--glaze);
      stroke-width: 2.5;
    }
    .lift {
      transform: translate(-50%, -50%);
      cursor: ns-resize;
    }
    .soft {
      transform: translate(-50%, -50%);
      cursor: ew-resize;
    }
    .hair {
      position: absolute;
      top: 0;
      bottom: 0;
      width: 1px;
      background: var(--glaze);
      pointer-events: none;
    }
    .place {
      background: var(--quiet);
    }
    .place b {
      position: absolute;
      top: 26px;
      left: -8px;
      width: 16px;
      border-radius: 8px;
      font: 600 10px/16px var(--mono);
      text-align: center;
      background: var(--ink);
      color: var(--panel);
    }
    .reading {
      position: absolute;
      top: 4px;
      margin-left: 8px;
      background: var(--raise);
      border: 1px solid var(--line);
      border-radius: 8px;
      padding: 0 8px;
      pointer-events: none;
      white-space: nowrap;
    }
    .reading.left {
      transform: translateX(calc(-100% - 16px));
    }
    p {
      padding: 16px;
    }
  `,
})
export class SectionPanel {
  readonly specimen = inject(StageSpecimen);
  readonly model = inject(BlendModel);
  private readonly workbench = inject(WorkbenchService);
  private readonly accounts = inject(Accounts);
  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');
  private readonly size = signal({ width: 0, height: 0 });
  /** A metre upward is a metre along; profiles of layers that do not show here as well. */
  readonly trueScale = signal(false);
  readonly everyone = signal(false);
  /** Where the pointer is along the cut, in pixels. */
  readonly at = computed(() => {
    const [along, scale] = [this.model.along(), this.scale()];
    return along === null || !scale ? null : along * scale.width;
  });
  /** Places near the cut whose accounts are open. */
  readonly marks = computed(() => {
    const [cut, width] = [this.model.cut(), this.scale()?.width ?? 0];
    return this.accounts.shown().flatMap(({ places: { texcoord } }, i) => {
      const along = alongCut(cut, texcoord[0], texcoord[1]);
      return along === null ? [] : [{ number: i + 1, x: along * width }];
    });
  });
  private readonly shown = computed(() => {
    const section = this.model.section();
    return section ? (this.everyone() ? section.layers.map(() => true) : contendersOf(section, this.selected())) : [];
  });
  readonly scale = computed(() => {
    const section = this.model.section();
    const { width, height } = this.size();
    return section && width > AXIS * 2 && height > 60 ? fitSection(section, width - AXIS, height, this.shown(), this.trueScale()) : null;
  });
  private readonly selected = computed(() => this.model.section()?.layers.findIndex((l) => l.id === this.model.selectedId()) ?? -1);
  /** Where the profile of the chosen layer is held: in the middle of where it shows most. */
  readonly handle = computed(() => {
    const section = this.model.section();
    const scale = this.scale();
    const i = this.selected();
    if (!section || !scale || i < 1) return null;
    const { share, profile } = section.layers[i];
    let best = Math.floor(share.length / 2);
    let run = 0;
    let most = 0;
    for (let k = 0; k < share.length; k++) {
      run = share[k] > 0.5 ? run + 1 : 0;
      if (run > most) {
        most = run;
        best = Math.round(k - run / 2);
      }
    }
    return { x: ((best + 0.5) / share.length) * scale.width, y: scale.zero - profile[best] * scale.rise };
  });
  readonly seam = computed(() => {
    const section = this.model.section();
    const scale = this.scale();
    const i = this.selected();
    const k = section && i > 0 ? seamOf(section, i) : null;
    return section && scale && k !== null
      ? { x: (k / section.height.length) * scale.width, y: scale.bands + 2 + (section.layers.length * BAND) / 2 }
      : null;
  });
  readonly reading = computed(() => {
    const section = this.model.section();
    const scale = this.scale();
    const x = this.at();
    if (!section || !scale || x === null) return '';
    const k = Math.min(section.height.length - 1, Math.max(0, Math.floor((x / scale.width) * section.height.length)));
    const winner = section.winner[k];
    const name = this.model.blend()?.layers[section.layers[winner].id]?.name ?? '';
    return `${((k / section.height.length) * section.lengthM).toFixed(2)} m  ${(section.height[k] * 1000).toFixed(1)} mm  ${name} ${section.layers[winner].share[k].toFixed(2)}`;
  });

  constructor() {
    const observer = new ResizeObserver(([entry]) => this.size.set({ width: entry.contentRect.width, height: entry.contentRect.height }));
    effect(() => observer.observe(this.canvas().nativeElement));
    inject(DestroyRef).onDestroy(() => observer.disconnect());
    const worker = new Worker(new URL('../../../workers/section.worker', import.meta.url), { type: 'module' });
    inject(DestroyRef).onDestroy(() => worker.terminate());
    let handed = false;
    effect(() => {
      if (!handed) {
        const canvas = this.canvas().nativeElement.transferControlToOffscreen();
        worker.postMessage({ canvas } satisfies SectionMessage, [canvas]);
        handed = true;
      }
      worker.postMessage(this.picture() satisfies SectionMessage);
    });
  }

  /** Colours of the theme in use; asking for them costs a style pass, so they are kept while it stays. */
  private readonly style = computed(() => {
    this.workbench.theme();
    const css = getComputedStyle(document.documentElement);
    const token = (name: string) => css.getPropertyValue(name).trim();
    return { ink: token('--ink'), line: token('--line'), panel: token('--panel') };
  });

  private readonly picture = computed<SectionPicture>(() => {
    const section = this.model.section();
    const scale = this.scale();
    const blend = this.model.blend();
    const shown = { ...this.size(), ratio: devicePixelRatio };
    if (!section || !scale || !blend) return { ...shown, drawing: null };
    // A layer that has just gone is in the section until the next one is cut.
    const tones = section.layers.map(({ id }) =>
      blend.layers[id] ? layerTone(blend.layers[id], this.model.surfaces(), this.model.blends()) : PLAIN,
    );
    return { ...shown, drawing: { section, scale, style: { tones, selected: this.selected(), shown: this.shown(), ...this.style() } } };
  });

  hover(event: PointerEvent): void {
    const scale = this.scale();
    if (scale) this.model.along.set(event.offsetX <= scale.width ? event.offsetX / scale.width : null);
  }

  private change(what: 'lift' | 'soft', by: number): void {
    const id = this.model.selectedId();
    if (!id) return;
    this.model.draft((d) => {
      const { seam, shows } = d.layers[id];
      const held = (v: number) => Math.min(10, Math.max(-10, v));
      if (what === 'lift' && shows.kind === 'water') shows.levelM = held(shows.levelM + by);
      else if (what === 'lift') seam.liftM = held(seam.liftM + by);
      else seam.soft = Math.min(1, Math.max(0, seam.soft + by));
    });
  }
  private done(what: 'lift' | 'soft'): void {
    const layer = this.model.selected();
    if (layer)
      this.model.commit(
        what === 'lift'
          ? `Lift ${layer.name} to ${((waterOf(layer)?.levelM ?? layer.seam.liftM) * 1000).toFixed(1)} mm`
          : `Soften ${layer.name} to ${layer.seam.soft.toFixed(2)}`,
      );
  }

  drag(event: PointerEvent, what: 'lift' | 'soft'): void {
    // The scale is kept for the drag: heights that grow must not make the ruler run away under the hand.
    const rise = this.scale()?.rise ?? 1;
    follow(
      event,
      (dx, dy) => this.change(what, what === 'lift' ? -dy / rise : dx / 320),
      (kept) => (kept ? this.done(what) : this.model.giveUp()),
    );
  }

  key(event: KeyboardEvent, what: 'lift' | 'soft'): void {
    const up = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[event.key];
    if (!up) return;
    event.preventDefault();
    this.change(what, up * (what === 'lift' ? 0.001 : 0.02) * (event.shiftKey ? 5 : 1));
    this.done(what);
  }
}
