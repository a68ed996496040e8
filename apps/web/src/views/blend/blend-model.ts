import { Injectable, computed, effect, inject, signal, untracked } from '@angular/core';
import type {
  BlendDocument,
  GlslProgram,
  Hoisted,
  ImageChannel,
  Layer,
  PackedSurface,
  Price,
  Role,
  Section,
  Sources,
  Stack,
  SurfaceDocument,
} from '@pebble/core';
import {
  BLEND_ROLES,
  PACKED_FORMATS,
  SectionCutter,
  emitGlsl,
  inOrder,
  lowerBlend,
  makeStack,
  optimise,
  priceOf,
  densityGap,
  densityOf,
  sourcesOfPacked,
  specimenColour,
  stackShape,
  stackValues,
  textureBytes,
} from '@pebble/core';
import { LIGHT_UNITS } from '@pebble/stage';
import { blendSurface } from '@pebble/usecases';
import { ComputeService } from '../../services/compute.service';
import { DocumentsService } from '../../services/documents.service';
import { LightService } from '../../services/light.service';
import { NoticesService } from '../../services/notices.service';

/** Side of the stage's textures in pixels. */
const STAGE_SIDE = 1024;
/** Memory of the stage's textures past which they are made smaller. */
const STAGE_MEMORY = 192 * 2 ** 20;
const BYTES_A_TEXEL = (4 + 4 + 8 + 1) * (4 / 3);

/** Textures of a surface under a key that changes with its pixels. Only heights stay readable once the stage has them. */
export interface StageSurface {
  key: string;
  packed: PackedSurface;
}

export interface BlendProgram {
  glsl: GlslProgram;
  hoisted: readonly Hoisted[];
  price: Price;
  /** Of the height alone, which parallax works out again. */
  heightPrice: Price;
}

/** Everything that is computed from the open blend: stack, program, prices, textures, section. */
@Injectable()
export class BlendModel {
  private readonly documents = inject(DocumentsService);
  private readonly compute = inject(ComputeService);
  private readonly notices = inject(NoticesService);
  private readonly light = inject(LightService);
  readonly id = signal<string | null>(null);
  readonly selectedId = signal<string | null>(null);
  /** The chosen layer is left out of the picture. */
  readonly without = signal(false);
  private readonly packed = signal<ReadonlyMap<string, StageSurface>>(new Map());
  private readonly asked = new Map<string, string>();
  private readonly allSurfaces = this.documents.list('surface');

  readonly blend = computed(() => this.documents.body(this.id(), 'blend'));
  readonly surfaces = computed<Record<string, SurfaceDocument>>(() => Object.fromEntries(this.allSurfaces().map((s) => [s.id, s.body])));
  /** Layers from the top, as they lie. */
  readonly layers = computed(() => {
    const blend = this.blend();
    return blend ? inOrder(blend.layers).reverse() : [];
  });
  readonly selected = computed<Layer | null>(() => this.blend()?.layers[this.selectedId() ?? ''] ?? null);
  readonly groundId = computed(() => this.layers().at(-1)?.id ?? null);
  readonly stack = computed<Stack | null>(() => {
    const blend = this.blend();
    const stack = blend ? makeStack(blend, Object.fromEntries(Object.entries(this.surfaces()).map(([id, s]) => [id, blendSurface(s)]))) : null;
    return stack?.layers.length ? stack : null;
  });
  readonly shape = computed(() => {
    const stack = this.stack();
    return stack ? stackShape(stack) : '';
  });
  readonly values = computed(() => {
    const stack = this.stack();
    return stack ? stackValues(stack, this.without() ? (this.selectedId() ?? undefined) : undefined) : {};
  });
  /** The stack as of the last change of shape: what programs and prices are made from. Values do not come through here. */
  private readonly shaped = computed(() => ({ shape: this.shape(), stack: untracked(this.stack) }), { equal: (a, b) => a.shape === b.shape });

  /** Whether the stage moves texture coordinates along the line of sight. */
  readonly parallax = computed(() => this.light.look().relief === 'parallax');
  /** The program of the stage; made anew only when the shape changes. */
  readonly program = computed<BlendProgram | null>(() => {
    const { stack } = this.shaped();
    if (!stack) return null;
    const lowered = lowerBlend(stack, { far: true });
    const { outputs, hoisted } = optimise({ ...lowered.channels, identity: lowered.identity }, { hoist: true });
    return {
      glsl: emitGlsl(outputs, 'live', LIGHT_UNITS, this.parallax()),
      hoisted,
      price: priceOf(optimise(lowered.channels, { hoist: true }).outputs),
      heightPrice: priceOf(optimise({ height: lowered.channels.height }, { hoist: true }).outputs),
    };
  });

  /** What each layer adds, by id: the price with it less the price of what lies below. */
  readonly prices = computed<Record<string, Price>>(() => {
    const { stack } = this.shaped();
    const out: Record<string, Price> = {};
    let below: Price = { samples: 0, operations: 0 };
    stack?.layers.forEach((entry, i) => {
      const price = priceOf(
        optimise(lowerBlend({ ...stack, layers: stack.layers.slice(0, i + 1) }, { far: true }).channels, { hoist: true }).outputs,
      );
      out[entry.id] = { samples: price.samples - below.samples, operations: price.operations - below.operations };
      below = price;
    });
    return out;
  });
  readonly bytes = computed(() => {
    const stack = this.stack();
    if (!stack) return 0;
    const side = (id: string) => Math.max(1, ...Object.values(this.surfaces()[id]?.maps ?? {}).map((m) => m.width));
    return stack.slots.reduce(
      (sum, id) => sum + (this.program()?.glsl.units ?? []).reduce((n, unit) => n + textureBytes(side(id), side(id), PACKED_FORMATS[unit]), 0),
      0,
    );
  });

  /** What to say when neighbours have texels of very different size; null while they get on. */
  readonly densityWarning = computed(() => {
    const gap = densityGap(
      this.layers().flatMap(({ surface, name }) => {
        const body = this.surfaces()[surface];
        return body ? [{ name, density: densityOf(body) }] : [];
      }),
    );
    if (!gap) return null;
    const say = ({ name, density }: typeof gap.coarse) => `${name.toLowerCase()} ${Math.round(density)}`;
    return `densities differ ${gap.ratio.toFixed(1)}×: ${say(gap.coarse)}, ${say(gap.fine)} px/m`;
  });

  /** Textures of all slots, in order; null until they are all there. */
  readonly slots = computed<readonly StageSurface[] | null>(() => {
    const stack = this.stack();
    const found = stack?.slots.flatMap((id) => this.packed().get(id) ?? []);
    return found && found.length === stack?.slots.length && new Set(found.map((f) => f.packed.size)).size === 1 ? found : null;
  });
  readonly sources = computed<Sources | null>(() => {
    const finders = this.slots()?.map((s) => sourcesOfPacked(s.packed));
    return finders ? (slot, channel: ImageChannel) => finders[slot](channel) : null;
  });
  private readonly cutter = new SectionCutter();
  private readonly prober = new SectionCutter();
  readonly section = computed<Section | null>(() => {
    const stack = this.stack();
    const sources = this.sources();
    const cut = this.blend()?.cut;
    return stack && sources && cut ? this.cutter.cut(stack, cut, sources, 512, specimenColour) : null;
  });

  constructor() {
    effect(() => {
      const layers = this.layers();
      if (!layers.some((l) => l.id === this.selectedId()))
        this.selectedId.set((layers.at(-1) === layers[0] ? layers[0]?.id : layers.find((l) => l.id !== this.groundId())?.id) ?? null);
    });
    effect(() => {
      const slots = this.stack()?.slots ?? [];
      const size = this.side(slots.length);
      for (const id of slots) this.fetch(id, this.surfaces()[id], size);
    });
  }

  private side(count: number): number {
    let side = STAGE_SIDE;
    while (side > 128 && side * side * BYTES_A_TEXEL * count > STAGE_MEMORY) side /= 2;
    return side;
  }

  private fetch(id: string, surface: SurfaceDocument | undefined, size: number): void {
    if (!surface) return;
    const maps = Object.fromEntries(BLEND_ROLES.flatMap((role: Role) => (surface.maps[role] ? [[role, surface.maps[role].stage]] : [])));
    const key = `${size}${JSON.stringify(maps)}`;
    if (this.asked.get(id) === key) return;
    this.asked.set(id, key);
    this.compute.run('pack', { maps, size }).then(
      (packed) => {
        if (this.asked.get(id) === key) this.packed.update((m) => new Map(m).set(id, { key: `${id}:${key}`, packed }));
      },
      (error: Error) => {
        this.asked.delete(id);
        this.notices.error(error);
      },
    );
  }

  /** Heights and shares at one point of the flat. */
  probe(u: number, v: number): Section | null {
    const stack = this.stack();
    const sources = this.sources();
    return stack && sources ? this.prober.cut(stack, { ax: u, ay: v, bx: u, by: v }, sources, 1, specimenColour) : null;
  }

  /** Edits of the open blend: `draft` in the middle of a gesture, `commit` at its end. */
  draft(change: (d: BlendDocument) => void): void {
    const id = this.id();
    if (id) this.documents.draft(id, 'blend', change);
  }
  commit(label: string): void {
    const id = this.id();
    if (id) this.documents.commit(id, label);
  }
  edit(label: string, change: (d: BlendDocument) => void): void {
    this.draft(change);
    this.commit(label);
  }
}
