import { ChangeDetectionStrategy, Component, ElementRef, computed, effect, inject, input, output, signal, untracked, viewChild } from '@angular/core';
import { MatTooltipModule } from '@angular/material/tooltip';
import type { SkyName } from '@pebble/core';
import { SKIES, heightPrice, nameSlug, placeName } from '@pebble/core';
import type { StageChannel } from '@pebble/stage';
import { PARALLAX_STEPS } from '@pebble/stage';
import type { Relief } from '../../../services/light.service';
import { LightService } from '../../../services/light.service';
import { clicked, follow } from '../../../ui/follow';
import { Actions, useActions } from '../../../ui/actions';
import { ScrubField } from '../../../ui/scrub-field';
import { AccountCard } from './account-card';
import { barsOver } from '../../../stage/bars';
import { Accounts } from '../../../stage/accounts';
import { channelsOf } from '../../../stage/channels';
import { BlendModel } from '../blend-model';
import { Compare } from '../compare/compare';
import { CompareLayer } from '../compare/compare-layer';
import { FlatPane } from './flat-pane';
import { MarksLayer } from './marks-layer';
import { MaskPainting } from '../brush/mask-painting';
import { AssetCard } from '../../../stage/asset-card';
import { AssetModel } from '../../../stage/asset-model';
import { Neighbours } from '../../../stage/neighbours';
import { BrushRing } from '../../../stage/brush-ring';
import type { OnPicture } from '../../../stage/on-picture';
import { pixelsOf } from '../../../stage/on-picture';
import { BrushCard } from '../brush/brush-card';
import { PaintedColours } from '../../../stage/painted-colours';
import { Painting } from '../brush/painting';
import { Pointing } from '../../../stage/pointing';
import { TriedTexture } from '../../../stage/tried-texture';
import { TryCard } from '../../../stage/try-card';
import { SpecimenPick } from '../../../stage/specimen-pick';
import { Repeats } from './repeats';
import { SpecimenMarks } from './specimen-marks';
import { StageCut } from './stage-cut';
import { closedByEscape } from '../../../ui/escape';
import { saveFile } from '../../../ui/save-file';
import { SPLIT, StageScene } from '../../../stage/stage-scene';
import { EXTENT, StageSpecimen } from '../../../stage/stage-specimen';

const RADIANS = Math.PI / 180;

/** The blend on a specimen and on the flat with its cut line, in one canvas. */
@Component({
  selector: 'pb-stage-host',
  imports: [MatTooltipModule, ScrubField, AccountCard, AssetCard, BrushCard, BrushRing, CompareLayer, MarksLayer, SpecimenPick, TryCard],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './stage-host.html',
  styleUrl: './stage-host.scss',
})
export class StageHost {
  readonly model = inject(BlendModel);
  readonly actions = inject(Actions);
  private readonly canvas = viewChild<ElementRef<HTMLCanvasElement>>('canvas');
  private readonly specimenPane = viewChild.required<ElementRef<HTMLElement>>('specimen');
  readonly hovered = output<number | null>();
  readonly channels = computed(() => [...channelsOf(this.model.shaped().material), { id: 'weights' as const, name: 'Layers' }]);
  /** What flat and section can show, by name. */
  readonly placeNames = computed(() => [...this.on.places().map(placeName), EXTENT]);
  readonly on = inject(StageSpecimen);
  readonly accounts = inject(Accounts);
  readonly pointing = inject(Pointing);
  readonly compare = inject(Compare);
  readonly cut = inject(StageCut);
  readonly painting = inject(Painting);
  readonly masks = inject(MaskPainting);
  readonly flat = inject(FlatPane);
  readonly marks = inject(SpecimenMarks);
  readonly repeats = inject(Repeats);
  readonly assets = inject(AssetModel);
  private readonly neighbours = inject(Neighbours);
  readonly painted = inject(PaintedColours);
  readonly skies = Object.entries(SKIES).map(([id, { title }]) => ({ id: id as SkyName, title }));
  readonly light = inject(LightService);
  readonly lightOpen = signal(false);
  readonly lightTab = signal<'light' | 'try'>('light');
  readonly scene = inject(StageScene);
  readonly tried = inject(TriedTexture);
  readonly reliefs = computed<{ id: Relief; name: string; price: string; off: boolean }[]>(() => {
    const { material } = this.model.shaped();
    const again = material ? heightPrice(material) : { samples: 0, operations: 0 };
    const { count, spacingM } = this.on.vertices();
    return [
      { id: 'normal', name: 'Normals alone', price: 'free', off: false },
      {
        id: 'parallax',
        name: 'Parallax',
        price: `+${PARALLAX_STEPS * again.samples} samples, +${PARALLAX_STEPS * again.operations} operations`,
        off: false,
      },
      {
        id: 'displaced',
        name: 'Displaced',
        price: this.scene.fine()
          ? `${count.toLocaleString('en')} vertices, every ${(spacingM * 1000).toFixed(0)} mm`
          : `too few vertices: every ${(spacingM * 1000).toFixed(0)} mm`,
        off: !this.scene.fine(),
      },
    ];
  });
  /** The channel that is looked at: while the brush is out it may be one of the vertex colours. */
  readonly shown = computed<StageChannel>(() => {
    const [painting, view] = [this.painting, this.painting.view()];
    if (this.scene.heat()) return 'vertices';
    if (!this.onVertices() || view === 'look') return this.scene.channel();
    return view === 'all' ? 'vertices' : (`vertex${painting.channel().toUpperCase()}` as StageChannel);
  });
  /** Whether the brush paints vertices. */
  readonly onVertices = computed(() => this.painting.on() && !this.masks.active());
  /** The brush that paints on the picture of the mesh: of vertices, of a mask that lies on it, or none. */
  readonly onMesh = computed(() => (this.masks.onMesh() ? this.masks : this.onVertices() ? this.painting : null));
  /** Radius of the brush in pixels, where the pointer is; null beside the mesh. */
  readonly ring = computed(() => {
    const [away, at] = [this.onMesh()?.away() ?? null, this.pressed()];
    if (away === null || !at) return null;
    return { ...at, r: pixelsOf(this.painting.brush().radiusM, away, this.light.look().field * RADIANS, this.size().height) };
  });
  /** Where the pointer is over the specimen, in pixels. */
  private readonly pressed = signal<{ x: number; y: number } | null>(null);
  readonly size = this.scene.size;
  readonly failed = this.scene.failed;
  private turning = false;
  /** Share of the width that the specimen has; 1 leaves no flat. */
  readonly share = input(SPLIT);
  /** The brush has its card elsewhere. */
  readonly brushElsewhere = input(false);
  get split(): number {
    return this.scene.split;
  }

  readonly reading = computed(() => {
    const at = this.model.pointer();
    const stack = this.model.stack();
    const point = at && this.model.probe(at.u, at.v);
    if (!at || !point || !stack) return null;
    const name = stack.layers[point.winner[0]].layer.name;
    return `x ${(at.u * stack.extentM).toFixed(2)} m  y ${(at.v * stack.extentM).toFixed(2)} m  ${(point.height[0] * 1000).toFixed(1)} mm  ${name} ${point.layers[point.winner[0]].share[0].toFixed(2)}`;
  });

  constructor() {
    const host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
    this.scene.bars = () => barsOver(host, '', '[aria-label=Channel]', '.foot');
    effect(() => {
      const share = this.share();
      untracked(() => this.scene.divide(share));
    });
    effect(() => {
      const canvas = this.canvas()?.nativeElement;
      if (canvas) untracked(() => this.scene.open(canvas));
    });
    this.scene.onOpened = (stage, canvas) => {
      this.painting.stage.set(stage);
      this.compare.use(stage, canvas, () => this.scene.middle());
    };
    effect(() => this.scene.plain.set(this.compare.active()));
    this.scene.onStale = () => this.compare.stale();
    effect(() => this.scene.instead.set(this.shown() === this.scene.channel() ? null : this.shown()));
    effect(() => {
      const { width, height } = this.size();
      this.flat.size.set({ width: width * (1 - this.split), height });
    });
    this.accounts.elsewhere = (slot) => {
      const sits = this.assets.slots().find((s) => s.slot === slot);
      if (sits?.blend) this.assets.show(sits.blend, this.assets.id(), sits.variant);
    };
    closedByEscape(() => this.painting.on.set(false), this.painting.on);
    closedByEscape(() => this.model.cutting.set(false), this.model.cutting);
    closedByEscape(() => this.lightOpen.set(false), this.lightOpen);
    useActions({
      channel: { down: () => this.nextChannel() },
      frame: { down: () => this.frameSpecimen() },
      near: { down: () => this.scene.lookFrom('near') },
      middle: { down: () => this.scene.lookFrom('middle') },
      far: { down: () => this.scene.lookFrom('far') },
      without: { down: () => this.model.without.set(true), up: () => this.model.without.set(false) },
      brush: { down: () => this.painting.on.update((on) => !on) },
      erase: { down: () => this.painting.erasing.set(true), up: () => this.painting.erasing.set(false) },
      smaller: { down: () => this.painting.resize(1 / 1.1) },
      larger: { down: () => this.painting.resize(1.1) },
      light: {
        down: () => {
          this.turning = true;
        },
        up: () => {
          this.turning = false;
        },
      },
    });
  }

  show(channel: StageChannel): void {
    this.painting.view.set('look');
    this.scene.channel.set(channel);
  }
  nextChannel(): void {
    const all = this.channels();
    const at = all.findIndex((c) => c.id === this.scene.channel());
    this.show(all[(at + 1) % all.length].id);
  }
  frameSpecimen(): void {
    this.scene.reframe();
  }

  orbitBy(event: PointerEvent): void {
    this.specimenPane().nativeElement.focus({ preventScroll: true });
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
    const brush = this.onMesh();
    if (brush?.takes() && !this.pointing.active()) {
      const on: OnPicture = {
        place: (e) => ({ x: (e.clientX - box.left) / box.width, y: (e.clientY - box.top) / box.height }),
        sight: () => ({ eye: this.scene.eye(), aspect: box.width / box.height }),
        turn: (dx, dy) => this.scene.dragBy(dx, dy, event.shiftKey),
      };
      return brush === this.masks ? this.masks.pressOnMesh(event, on) : this.painting.press(event, on);
    }
    if (this.model.cutting()) {
      const at = (e: PointerEvent) =>
        this.accounts.coordinateAt(this.scene.eye(), box.width / box.height, (e.clientX - box.left) / box.width, (e.clientY - box.top) / box.height);
      // Beside the specimen a press turns it, as always.
      if (this.cut.draw(event, at)) return;
    }
    clicked(event, () =>
      this.accounts.onSpecimen(
        this.scene.eye(),
        box.width / box.height,
        (event.clientX - box.left) / box.width,
        (event.clientY - box.top) / box.height,
      ),
    );
    follow(event, (dx, dy, e) => this.scene.dragBy(dx, dy, e.shiftKey || event.button === 1));
  }
  hoverSpecimen(event: PointerEvent): void {
    const pane = event.currentTarget as HTMLElement;
    const brush = this.onMesh();
    if (brush) {
      const box = pane.getBoundingClientRect();
      const [x, y] = [event.clientX - box.left, event.clientY - box.top];
      this.pressed.set({ x, y });
      void brush.hover({ x: x / box.width, y: y / box.height }, { eye: this.scene.eye(), aspect: box.width / box.height });
    }
    if (!event.buttons) {
      const box = pane.getBoundingClientRect();
      this.marks.hover((event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height);
    }
    if (this.turning) {
      this.light.set({ turn: this.light.look().turn + event.movementX * 0.012 });
      this.scene.look(true);
    }
  }
  leaveSpecimen(): void {
    this.painting.away.set(null);
    this.masks.away.set(null);
    this.marks.leave();
  }
  specimenKey(event: KeyboardEvent): void {
    const brush = this.onMesh();
    if (event.key === 'Enter' && brush) {
      event.preventDefault();
      const { width, height } = this.size();
      return void brush.dab({ eye: this.scene.eye(), aspect: (width * this.split) / height });
    }
    this.scene.turnKey(event);
  }

  /** Sides of a picture of the specimen alone. */
  readonly pictureSides = [
    { label: 'Width of the picture', pixels: signal(2048) },
    { label: 'Height of the picture', pixels: signal(2048) },
  ];
  readonly saving = signal(false);
  async savePicture(): Promise<void> {
    this.saving.set(true);
    try {
      const [width, height] = this.pictureSides.map((s) => s.pixels());
      const png = await this.scene.picture(width, height);
      if (png) saveFile(`${nameSlug(this.model.blend()?.name ?? 'specimen')}_${width}x${height}.png`, png, 'image/png');
    } finally {
      this.saving.set(false);
    }
  }

  degrees = (radians: number): number => (((radians / RADIANS) % 360) + 360) % 360;
  readonly radians = RADIANS;
}
