import { Injectable, computed, effect, inject, signal, untracked } from '@angular/core';
import type { BlendDocument, Layer, Material, MaterialProblem, MaterialSlots, Price, Section, Sources, Stack, SurfaceDocument } from '@pebble/core';
import { BlendMaterials, SectionCutter, densityGap, densityOf, inOrder, layerPrices, makeStack, sourcesOfPacked } from '@pebble/core';
import { blendSurfaces } from '@pebble/usecases';
import { DocumentsService } from '../../services/documents.service';
import { breathe, inSlices, later } from '../../ui/breathe';
import { materialFeed } from '../../stage/material-feed';
import { runtimeBytes } from '../../stage/runtime-bytes';
import { StagePixels, unkeyed } from '../../stage/stage-pixels';
import { PagePrograms } from '../../services/page-programs.service';
import type { StageSource } from '../../stage/stage-source';
import { StageSpecimen } from '../../stage/stage-specimen';

/** Everything that is computed from the open blend: stack, program, prices, textures, section. */
@Injectable()
export class BlendModel implements StageSource {
  private readonly documents = inject(DocumentsService);
  private readonly pixels = inject(StagePixels);
  private readonly specimen = inject(StageSpecimen);
  readonly id = signal<string | null>(null);
  readonly selectedId = signal<string | null>(null);
  /** The chosen layer is left out of the picture. */
  readonly without = signal(false);
  private readonly allSurfaces = this.documents.list('surface');
  private readonly allBlends = this.documents.list('blend');

  readonly blend = computed(() => this.documents.body(this.id(), 'blend'));
  readonly body = computed(() => this.blend() ?? null);
  readonly surfaces = computed<Record<string, SurfaceDocument>>(() => Object.fromEntries(this.allSurfaces().map((s) => [s.id, s.body])));
  /** Other blends, which may be layers of this one. */
  readonly blends = computed<Record<string, BlendDocument>>(() =>
    // The open one is the very object that stands in its own list: a circle is known by it.
    Object.fromEntries(this.allBlends().map((b) => [b.id, b.id === this.id() ? (this.blend() as BlendDocument) : b.body])),
  );
  /** What a cue or a layer calls a surface or a blend. */
  readonly nameOf = (id: string): string => this.surfaces()[id]?.name ?? this.blends()[id]?.name ?? id;
  /** The surface that bears a name; null when none does. */
  readonly idOf = (name: string): string | null => Object.entries(this.surfaces()).find(([, s]) => s.name === name)?.[0] ?? null;
  /** Layers from the top, as they lie. */
  readonly layers = computed(() => {
    const blend = this.blend();
    return blend ? inOrder(blend.layers).reverse() : [];
  });
  readonly selected = computed<Layer | null>(() => this.blend()?.layers[this.selectedId() ?? ''] ?? null);
  readonly groundId = computed(() => this.layers().at(-1)?.id ?? null);
  /** Materials of other blends that are on the stage as well. */
  readonly beside = signal<readonly Material[]>([]);
  readonly known = computed(() => blendSurfaces(this.surfaces()));
  /** Another state of the blend that is shown for a moment, to be compared; edits go to the blend itself. */
  readonly viewed = signal<BlendDocument | null>(null);
  private readonly made = computed(() => {
    const blend = this.viewed() ?? this.blend();
    return blend ? makeStack(blend, this.known(), this.blends(), true) : null;
  });
  readonly stack = computed<Stack | null>(() => (this.made()?.layers.length ? this.made() : null));
  readonly problems = computed<readonly MaterialProblem[]>(() => this.made()?.problems ?? []);
  private readonly materials = new BlendMaterials();
  /** What everything that shows the blend takes. */
  readonly material = computed<Material | null>(() => {
    const stack = this.stack();
    const without = this.without() ? (this.selectedId() ?? undefined) : undefined;
    return stack && this.materials.of(stack, { without, standing: this.specimen.standing() });
  });
  private readonly feed = materialFeed(this.material, () => untracked(this.material));
  readonly shaped = this.feed.shaped;
  readonly shape = computed(() => this.shaped().shape);
  readonly values = this.feed.values;
  readonly parallax = this.feed.parallax;
  readonly program = this.feed.program;
  readonly slots = this.feed.slots;
  readonly shown = this.feed.shown;
  readonly sources = this.feed.sources;
  /** What another material of this blend looks up; null until it is there. */
  sourcesOf(material: Material): Sources | null {
    const slots = untracked(() => this.pixels.of(material.slots));
    return slots && sourcesOfPacked(unkeyed(slots));
  }
  readonly bytes = runtimeBytes(() => {
    const [now, shaped] = [this.material(), this.shaped().material];
    return now && shaped && { reads: shaped.reads, slots: now.slots };
  }, this.surfaces);

  /** What each layer adds, by id: the price with it less the price of what lies below. Those of another shape come later, in pieces. */
  readonly prices = signal<Record<string, Price>>({});
  /** Of all layers together; null without any. */
  readonly price = signal<Price | null>(null);
  private async tellPrices(shape: string, stack: Stack | null): Promise<void> {
    const over = () => shape !== untracked(this.shape);
    const out: Record<string, Price> = {};
    let whole: Price | null = null;
    await breathe();
    await inSlices(stack ? layerPrices(stack) : [], ({ id, own, all }) => ((out[id] = own), (whole = all)), over);
    if (over()) return;
    this.prices.set(out);
    this.price.set(whole);
  }
  /** What to say when neighbours have texels of very different size; null while they get on. */
  readonly densityWarning = computed(() => {
    const gap = densityGap(
      this.layers().flatMap(({ shows, name }) => {
        const body = shows.kind === 'surface' ? this.surfaces()[shows.surface] : undefined;
        return body ? [{ name, density: densityOf(body) }] : [];
      }),
    );
    if (!gap) return null;
    const say = ({ name, density }: typeof gap.coarse) => `${name.toLowerCase()} ${Math.round(density)}`;
    return `px/m differ ${gap.ratio.toFixed(1)}×: ${say(gap.coarse)}, ${say(gap.fine)}`;
  });

  /** Surfaces and blends that may be chosen soon, the likeliest first: coarse pixels of theirs are fetched meanwhile. */
  offer(ids: readonly string[]): void {
    const [surfaces, blends] = [this.surfaces(), this.blends()];
    const shown = (id: string) => (blends[id] ? makeStack(blends[id], this.known(), blends).slots : [id]);
    void this.pixels.offer(Object.fromEntries(ids.flatMap(shown).flatMap((of) => (surfaces[of] ? [[of, surfaces[of]]] : []))));
  }
  readonly programs = inject(PagePrograms);
  private readonly cutter = new SectionCutter(this.programs);
  private readonly prober = new SectionCutter(this.programs);
  /** The next drag over the specimen draws the cut. */
  readonly cutting = signal(false);
  /** The cut goes along with the pointer on the flat. */
  readonly following = signal(false);
  /** Where the pointer is: on the flat, in texture coordinates, and along the cut, 0–1. */
  readonly pointer = signal<{ u: number; v: number } | null>(null);
  readonly along = signal<number | null>(null);
  /** The cut that is shown: the blend's own, moved to the pointer while it follows. */
  readonly cut = computed<BlendDocument['cut'] | null>(
    () => {
      const cut = this.blend()?.cut ?? null;
      const at = this.following() ? this.pointer() : null;
      if (!cut || !at) return cut;
      const [du, dv] = [at.u - (cut.ax + cut.bx) / 2, at.v - (cut.ay + cut.by) / 2];
      return { ax: cut.ax + du, ay: cut.ay + dv, bx: cut.bx + du, by: cut.by + dv };
    },
    { equal: (a, b) => JSON.stringify(a) === JSON.stringify(b) },
  );
  /** The shape for which a cut is quick. */
  private readonly cutShape = later(
    this.shaped,
    ({ shape, material }) =>
      material &&
      inSlices(
        this.cutter.preparing(material),
        () => undefined,
        () => shape !== untracked(this.shape),
      ),
  );
  private lastSection: Section | null = null;
  /** The section along the cut; while another shape is prepared for, the last one. */
  readonly section = computed<Section | null>(() => {
    const material = this.material();
    const sources = this.sources();
    const cut = this.cut();
    if (!material || !sources || !cut) return (this.lastSection = null);
    const late = this.cutShape().shape !== this.shape();
    if (late && this.lastSection) return this.lastSection;
    return (this.lastSection = this.cutter.cut(material, cut, sources, 512, this.specimen.ground()));
  });

  constructor() {
    effect(() => {
      const layers = this.layers();
      if (!layers.some((l) => l.id === this.selectedId()))
        this.selectedId.set((layers.at(-1) === layers[0] ? layers[0]?.id : layers.find((l) => l.id !== this.groundId())?.id) ?? null);
    });
    effect(() => {
      const { shape } = this.shaped();
      void this.tellPrices(shape, untracked(this.stack));
    });
    effect(() => {
      const stack = this.stack();
      if (stack) this.pixels.want([slotsOf(stack), ...this.beside().map((m) => m.slots)], this.surfaces());
    });
    effect(() => {
      const { material } = this.shaped();
      const all = material ? [material, ...this.beside()] : [];
      this.specimen.follow(
        this.id(),
        this.blend(),
        all.map((m) => m.reads),
      );
    });
  }

  /** Heights and shares at one point of the flat. */
  probe(u: number, v: number): Section | null {
    const [material, sources] = [this.material(), this.sources()];
    return material && sources ? this.prober.cut(material, { ax: u, ay: v, bx: u, by: v }, sources, 1, this.specimen.ground()) : null;
  }

  /** Edits of the open blend: `draft` in the middle of a gesture, `commit` at its end. */
  draft(change: (d: BlendDocument) => void): void {
    const id = this.id();
    if (id) this.documents.draft(id, 'blend', change);
  }
  commit(label: string, strict = false): void {
    const id = this.id();
    if (id) this.documents.commit(id, label, strict);
  }
  /** Ends a gesture that was lost: everything is as before it. */
  giveUp(): void {
    const id = this.id();
    if (id) this.documents.dropDraft(id);
  }
  lookOn(specimen: string, called: string): void {
    const footM = this.documents.body(specimen, 'specimen')?.terrain?.footM;
    this.edit(`Look at it on: ${called}`, (d) => {
      d.specimen = specimen;
      // Its altitudes are those of the land.
      if (footM !== undefined) d.standsAtM = footM;
    });
  }
  edit(label: string, change: (d: BlendDocument) => void): void {
    this.draft(change);
    this.commit(label);
  }
}

/** What a stack looks up; the same lists as long as it is the same stack. */
const slotsOf = ({ slots, masks, ids }: Stack): MaterialSlots => ({ surfaces: slots, masks, ids });
