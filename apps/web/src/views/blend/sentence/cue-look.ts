import { Injectable, inject } from '@angular/core';
import type {
  BlendDocument,
  Coverage,
  CueAddress,
  CueKind,
  Layer,
  Material,
  MeshPicture,
  Places,
  Sources,
  Stack,
  WeatheringName,
} from '@pebble/core';
import {
  BlendMaterials,
  CueSampler,
  MESH_FACTS,
  coverageOf,
  cueKind,
  frameBounds,
  inputSlice,
  makeCue,
  makeStack,
  readsOf,
  weatheringCoverage,
} from '@pebble/core';
import { MeshService } from '../../../services/mesh.service';
import { breathe } from '../../../ui/breathe';
import { BlendModel } from '../blend-model';
import { StageSpecimen } from '../../../stage/stage-specimen';
import { Newest } from '../../../ui/latest';

export interface CueLook {
  /** Inputs at the vertices of the specimen, in the unit of the cue; null where the cue has none. */
  inputs: Float32Array | null;
  /** The specimen, light where the cue is. */
  picture: MeshPicture;
}

/** Vertices that are worked out before the page is let in again. */
const CHUNK = 1536;
export const PREVIEW = { width: 224, height: 132 };
/** In a list of kinds; twice as many pixels as it takes. */
const SMALL = { width: 104, height: 64 };
const NEARER = 0.75;
/** Shares of values at either end that are not told apart: single edges are sharper than all the rest by far. */
const ENDS = 0.03;
const newIdOf = (kind: CueKind): string => `new-${kind}`;

/** Works out what a cue sees on the specimen, a few milliseconds at a time. */
@Injectable()
export class CueLooks {
  private readonly model = inject(BlendModel);
  private readonly specimen = inject(StageSpecimen);
  private readonly meshes = inject(MeshService);
  private readonly sampler = new CueSampler(this.model.programs);
  private readonly materials = new BlendMaterials();
  private readonly looking = new Newest();

  /** Where a cue lies in what is shown; null while it is not shown. */
  placeOf(stack: Stack, cue: string, group: string | null): CueAddress | null {
    const entry = group === null ? stack.layers.find((l) => l.id === this.model.selectedId()) : stack.layers.find((l) => l.layer.group === group);
    if (!entry || entry === stack.layers[0]) return null;
    return { layer: entry.id, coverage: group === null ? entry.coverages.length - 1 : 0, cue };
  }

  /** Null when something else was asked for in between, or nothing is there to look at. */
  async look(place: CueAddress): Promise<CueLook | null> {
    const going = this.looking.begin();
    const material = this.model.material();
    const seen = material && (await this.sample(this.sampler, material, place, going));
    if (!seen) return null;
    return { inputs: Number.isNaN(seen.input[0]) ? null : seen.input, picture: await this.draw(seen.value, PREVIEW) };
  }

  /**
   * What new cues of the chosen layer would look at, the least dark and the most light, one after the other until something
   * else is asked for. Those that read a picture, or what is not worked out of this mesh, cannot be told before they are there.
   */
  async preview(kinds: readonly CueKind[], show: (kind: CueKind, picture: MeshPicture) => void): Promise<void> {
    const going = this.previewing.begin();
    // Opening the list is work enough for one task.
    await breathe();
    if (!going()) return;
    const [shown, id] = [this.draftStack(kinds), this.model.selectedId()];
    if (!shown || id === null) return;
    const { stack, coverage } = shown;
    const material = this.materials.of(stack, { standing: this.specimen.standing() });
    const cues = material.far.probes.at(-1)?.cues[coverage] ?? [];
    const mesh = this.specimen.mesh();
    for (const kind of kinds) {
      const input = cues.find((c) => c.id === newIdOf(kind))?.input;
      // What is not worked out of this mesh cannot be told before it is there.
      const lacks = input && MESH_FACTS.some((fact) => !mesh[fact] && readsOf({ input }).mesh.has(fact));
      if (!cueKind(kind).preview || !input || lacks) continue;
      const seen = await this.sample(new CueSampler(), material, { layer: id, coverage, cue: newIdOf(kind) }, going);
      if (!seen) return;
      const picture = await this.draw(stretched(seen.input), SMALL, NEARER);
      if (!going()) return;
      show(kind, picture);
    }
  }
  /** Where weathering would bring the chosen layer, one after the other until something else is asked for. */
  async previewWeathering(names: readonly WeatheringName[], show: (name: WeatheringName, picture: MeshPicture) => void): Promise<void> {
    const going = this.previewing.begin();
    await breathe();
    const id = this.model.selectedId();
    for (const name of names) {
      if (!going() || id === null) return;
      const stack = this.drafted((layer) => ({ ...layer, shared: null, group: null, coverage: weatheringCoverage(name) }));
      if (!stack) return;
      const material = this.materials.of(stack, { standing: this.specimen.standing() });
      const probe = material.far.probes.at(-1);
      const mesh = this.specimen.mesh();
      if (!probe || MESH_FACTS.some((fact) => !mesh[fact] && readsOf({ value: probe.coverage }).mesh.has(fact))) continue;
      const seen = await this.sample(new CueSampler(), material, { layer: id, coverage: 0, cue: null }, going);
      if (!seen) return;
      const picture = await this.draw(seen.value, SMALL, NEARER);
      if (!going()) return;
      show(name, picture);
      await breathe();
    }
  }
  endPreview = (): void => this.previewing.end();
  private readonly previewing = new Newest();

  /** What lies up to the chosen layer, whose coverage has a new cue of each kind besides its own; null where there is none to show. */
  private draftStack(kinds: readonly CueKind[]): { stack: Stack; coverage: number } | null {
    const fresh = Object.fromEntries(kinds.map((kind, i) => [newIdOf(kind), { ...makeCue(kind), order: 1e6 + i }]));
    // Its own cues stay, so that pictures keep their places.
    const stack = this.drafted((layer, blend) => ({ ...layer, shared: null, coverage: { ...coverageOf(blend, layer), ...fresh } }));
    return stack && { stack, coverage: stack.layers[stack.layers.length - 1].coverages.length - 1 };
  }
  /**
   * What a coverage gives in the place of a layer's own, 0–1: at the vertices of the specimen, or at coordinates of the flat. Null when
   * another was asked for in between, or the layer is not shown.
   */
  async shares(coverage: Coverage, layer: string, texcoord: Float32Array | null): Promise<Float32Array | null> {
    const going = this.sharing.begin();
    const stack = this.drafted((own) => ({ ...own, shared: null, group: null, coverage }), layer);
    if (!stack) return null;
    const material = this.materials.of(stack, { standing: this.specimen.standing() });
    const over = texcoord && { places: { ...this.specimen.ground().along(texcoord), texcoord }, spacing: 1 / Math.sqrt(texcoord.length / 2) };
    // It may look things up that nothing on the stage does, or in another order.
    const sources = this.model.sourcesOf(material);
    if (!sources) return null;
    return (await this.sample(new CueSampler(), material, { layer, coverage: 0, cue: null }, going, { ...over, sources }))?.value ?? null;
  }
  private readonly sharing = new Newest();

  /** What lies up to a layer, the chosen one unless stated, which is another; null where there is none to show. */
  private drafted(as: (layer: Layer, blend: BlendDocument) => Layer, id = this.model.selectedId()): Stack | null {
    const blend = this.model.blend();
    const layer = blend?.layers[id ?? ''];
    if (!blend || !layer || id === null) return null;
    const draft = { ...blend, layers: { ...blend.layers, [id]: as(layer, blend) } };
    const stack = makeStack(draft, this.model.known(), this.model.blends(), true);
    const at = stack.layers.findIndex((l) => l.id === id);
    return at > 0 ? { ...stack, layers: stack.layers.slice(0, at + 1) } : null;
  }

  /** Inputs and values of a cue at the vertices of the specimen, or at other places; null once nobody waits for them. */
  private async sample(
    sampler: CueSampler,
    material: Material,
    place: CueAddress,
    going: () => boolean,
    over: { places?: Places; spacing?: number; sources?: Sources } = {},
  ): Promise<{ input: Float32Array; value: Float32Array } | null> {
    const [sources, all] = [over.sources ?? this.model.sources(), over.places ?? this.specimen.mesh()];
    if (!sources) return null;
    const count = all.texcoord.length / 2;
    const out = { input: new Float32Array(count), value: new Float32Array(count) };
    const footprint = over.spacing ?? this.specimen.vertices().spacingM / material.extentM;
    sampler.prepare(material, place);
    await breathe();
    for (let first = 0; first < count; first += CHUNK) {
      const end = Math.min(count, first + CHUNK);
      const places = inputSlice<Places>(all, first, end);
      sampler.sample({ material, sources, at: place, places, footprint }, out, first);
      await breathe();
      if (!going()) return null;
    }
    return out;
  }

  /** The specimen, light where values are. */
  private draw(values: Float32Array, size: { width: number; height: number }, nearer = 1): Promise<MeshPicture> {
    const { position, normal, index } = this.specimen.mesh();
    const framed = frameBounds(this.specimen.bounds());
    const orbit = { ...framed, distance: framed.distance * nearer };
    return this.meshes.run('valued', { mesh: { position, normal, index }, values, orbit, size });
  }
}

/** Values from 0 for the least to 1 for the most, but for a few at the ends. */
export function stretched(values: Float32Array): Float32Array {
  const sorted = values.slice().sort();
  const at = (share: number) => sorted[Math.round(share * (sorted.length - 1))] ?? 0;
  const [lo, hi] = [at(ENDS), at(1 - ENDS)];
  return values.map((v) => (hi > lo ? Math.min(1, Math.max(0, (v - lo) / (hi - lo))) : 0.5));
}

/** Shares of values in equal steps between two ends; what lies outside counts at its end. */
export function histogram(values: Float32Array, least: number, most: number, steps: number): number[] {
  const bins = new Array<number>(steps).fill(0);
  for (const v of values) bins[Math.min(steps - 1, Math.max(0, Math.floor(((v - least) / (most - least)) * steps)))]++;
  return bins.map((n) => n / Math.max(1, values.length));
}

/** Ends between which a histogram is drawn: what is there, and the ramp, with some air. */
export function rangeOf(values: Float32Array, centre: number, width: number): [number, number] {
  let [lo, hi] = [centre - width / 2, centre + width / 2];
  for (const v of values) {
    lo = Math.min(lo, v);
    hi = Math.max(hi, v);
  }
  const air = Math.max(1e-6, (hi - lo) * 0.04);
  return [lo - air, hi + air];
}
