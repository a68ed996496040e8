import { Injectable, computed, effect, inject, signal, untracked } from '@angular/core';
import type { BlendDocument, GraphContext, LiveProgram, MasterDocument, Material, Mesh, PaintedVertices, Span } from '@pebble/core';
import { BlendMaterials, DEFAULT_CONSTANT, MasterMaterials, blendMaterial, Recent, liveProgram, makeBlend, makeLayer, makeStack } from '@pebble/core';
import type { KeyedSet, Other } from '@pebble/stage';
import { LIGHT_UNITS } from '@pebble/stage';
import { DocumentsService } from '../services/documents.service';
import { MeshService } from '../services/mesh.service';
import { NoticesService } from '../services/notices.service';
import { AssetModel } from './asset-model';
import { StageSource } from './stage-source';
import { StagePixels } from './stage-pixels';
import { PaintedColours } from './painted-colours';
import { StageSpecimen } from './stage-specimen';

/** Programs of neighbours that are kept. */
const MAX_PROGRAMS = 16;

/** Plain grey: what nothing sits on. */
export const BARE = blendMaterial(
  makeStack(makeBlend('Nothing', { layers: { grey: makeLayer({ kind: 'constant', ...DEFAULT_CONSTANT }, 'Grey', 1) } }), {}, {}, true),
);

/** Colours that were painted for a blend, and how fine the mesh is that shall wear them. */
interface Wear {
  bare: Mesh;
  times: number;
  painted: PaintedVertices;
}
const sameWear = (a: Wear, b: Wear): boolean => a.bare === b.bare && a.times === b.times && JSON.stringify(a.painted) === JSON.stringify(b.painted);

/** The blends and masters on the other slots of the asset, as the stage shows them beside the open one. */
@Injectable()
export class Neighbours {
  private readonly source = inject(StageSource);
  private readonly assets = inject(AssetModel);
  private readonly specimen = inject(StageSpecimen);
  private readonly pixels = inject(StagePixels);
  private readonly painted = inject(PaintedColours);
  private readonly notices = inject(NoticesService);
  private readonly meshes = inject(MeshService);
  private readonly documents = inject(DocumentsService);
  private readonly materials = new BlendMaterials();
  private readonly masters = new MasterMaterials();
  private readonly programs = new Recent<string, LiveProgram>(MAX_PROGRAMS);
  /** Vertex colours that were painted for other blends, by blend, with what they were read from. */
  private readonly read = signal<ReadonlyMap<string, { wear: Wear; colours: Float32Array | null }>>(new Map());

  /** What sits on other slots than the open document does: `id` is that of a blend, or of a master and its variant. */
  private readonly sitting = computed<readonly { id: string; body: BlendDocument | MasterDocument; slots: readonly string[] }[]>(
    () => {
      const own = new Set(this.assets.slotsWith(this.source.id()));
      const found = new Map<string, { id: string; body: BlendDocument | MasterDocument; slots: string[] }>();
      for (const { slot, key, body } of this.assets.slots()) {
        if (!body || own.has(slot)) continue;
        const known = found.get(key);
        if (known) known.slots.push(slot);
        else found.set(key, { id: key, body, slots: [slot] });
      }
      return [...found.values()];
    },
    {
      equal: (a, b) =>
        a.length === b.length && a.every((v, i) => v.id === b[i].id && v.body === b[i].body && v.slots.join('/') === b[i].slots.join('/')),
    },
  );
  private readonly blends = computed(() => this.sitting().flatMap(({ id, body }) => (body.kind === 'blend' ? [{ id, body }] : [])));
  private readonly allMasters = this.documents.list('master');
  private readonly context = computed<GraphContext>(() => ({
    surfaces: this.source.known(),
    blends: untracked(this.source.blends),
    masters: Object.fromEntries(this.allMasters().map((m) => [m.id, m.body])),
  }));
  readonly others = computed<readonly { id: string; material: Material; slots: readonly string[] }[]>(() =>
    this.sitting().flatMap(({ id, body, slots }) => {
      if (body.kind === 'master') return [{ id, slots, material: this.masters.of(body, this.context()) }];
      // What is inside of a neighbour is asked for when the neighbour changes: drafts of the open blend do not come through here.
      const stack = makeStack(body, this.source.known(), untracked(this.source.blends), true);
      return stack.layers.length ? [{ id, slots, material: this.materials.of(stack, { standing: this.specimen.standing() }) }] : [];
    }),
  );

  /** What is painted on this specimen for others, and the mesh that shall wear it. */
  private readonly entries = computed<readonly { id: string; wear: Wear }[]>(() => {
    const [bare, times] = [this.painted.bare(), this.painted.finerTimes()];
    return this.blends().flatMap(({ id, body }) => {
      const painted = body.paint?.[this.specimen.name()];
      return bare && painted ? [{ id, wear: { bare, times, painted } }] : [];
    });
  });
  /** rgba of all vertices for each other blend that something is painted for. */
  readonly colours = computed<ReadonlyMap<string, Float32Array>>(() => {
    const read = this.read();
    return new Map(
      this.entries().flatMap(({ id, wear }) => {
        const found = read.get(id);
        return found?.colours && sameWear(found.wear, wear) ? [[id, found.colours] as const] : [];
      }),
    );
  });

  /** Vertex colours of the open blend with those of others on the slots that these sit on. */
  over(own: Float32Array): Float32Array {
    const [out, spans, { index }] = [own.slice(), this.specimen.spans() ?? {}, this.specimen.form()];
    for (const [id, colours] of this.colours())
      for (const slot of this.sitting().find((s) => s.id === id)?.slots ?? [])
        for (const [first, count] of spans[slot] ?? [])
          for (let k = first; k < first + count; k++) out.set(colours.subarray(index[k] * 4, index[k] * 4 + 4), index[k] * 4);
    return out;
  }

  /** What the stage draws beside the open blend; those whose textures are still read come later. */
  readonly shown = computed<readonly (Omit<Other, 'slots'> & { slots: KeyedSet })[]>(() => {
    const spans = this.specimen.spans();
    if (!spans) return [];
    const parallax = this.source.parallax();
    const colours = this.colours();
    const piece = (key: string, material: Material, slots: KeyedSet, on: readonly Span[]) => {
      const { glsl, hoisted, drawn } = this.programs.of(`${parallax}${material.key}`, () => liveProgram(material, parallax, LIGHT_UNITS));
      const { values, extentM } = material;
      return {
        key,
        program: { glsl, hoisted, drawn: material.drawn ?? drawn },
        values,
        slots,
        spans: on,
        perMetre: 1 / extentM,
        parallax,
        colours: colours.get(key) ?? null,
      };
    };
    const left = new Set(Object.keys(spans));
    this.assets.slotsWith(this.source.id()).forEach((slot) => left.delete(slot));
    const shown = this.others().flatMap(({ id, material, slots: names }) => {
      const slots = this.pixels.of(material.slots);
      const on = names.flatMap((slot): Span[] => spans[slot] ?? []);
      if (!slots || !on.length) return [];
      names.forEach((slot) => left.delete(slot));
      return [piece(id, material, slots, on)];
    });
    // What nothing sits on, or not yet, is there all the same.
    const bare = [...left].flatMap((slot) => spans[slot]);
    return bare.length ? [...shown, piece('', BARE, { surfaces: [], masks: [], ids: [] }, bare)] : shown;
  });

  constructor() {
    // What is shown together shares the memory for textures, and knows as much of the mesh as any of it asks.
    effect(() => this.source.beside.set(this.others().map((s) => s.material)));
    effect(() => {
      for (const { id, wear } of this.entries()) untracked(() => void this.load(id, wear));
    });
  }

  private readonly reading = new Map<string, Wear>();
  /** Reads what was painted for a blend, onto the mesh that is shown; nothing where it was painted on another one. */
  private async load(id: string, wear: Wear): Promise<void> {
    const under = this.reading.get(id);
    if (under && sameWear(under, wear)) return;
    this.reading.set(id, wear);
    try {
      const colours = await this.meshes.run('coloursAt', { mesh: wear.bare, painted: wear.painted, times: wear.times });
      if (this.reading.get(id) === wear) this.read.update((m) => new Map(m).set(id, { wear, colours }));
    } catch (error) {
      this.reading.delete(id);
      this.notices.error(error);
    }
  }
}
