import { Injectable, inject } from '@angular/core';
import type { MeshPicture, Stack } from '@pebble/core';
import { CueSampler, clipMatrix, drawMesh, eyeOf, frameBounds } from '@pebble/core';
import { breathe } from '../../ui/breathe';
import { BlendModel } from './blend-model';
import { StageSpecimen } from './stage-specimen';

/** Which cue: of a layer of the stack, in which of the coverages that limit it. */
export interface CuePlace {
  layer: string;
  coverage: number;
  cue: string;
}
export interface CueLook {
  /** Inputs at the vertices of the specimen, in the unit of the cue; null where the cue has none. */
  inputs: Float32Array | null;
  /** The specimen, light where the cue is. */
  picture: MeshPicture;
}

/** Vertices that are worked out before the page is let in again. */
const CHUNK = 1536;
export const PREVIEW = { width: 224, height: 132 };

/** Works out what a cue sees on the specimen, a few milliseconds at a time. */
@Injectable()
export class CueLooks {
  private readonly model = inject(BlendModel);
  private readonly specimen = inject(StageSpecimen);
  private readonly sampler = new CueSampler();
  private run = 0;

  /** Where a cue lies in what is shown; null while it is not shown. */
  placeOf(stack: Stack, cue: string, group: string | null): CuePlace | null {
    const entry = group === null ? stack.layers.find((l) => l.id === this.model.selectedId()) : stack.layers.find((l) => l.layer.group === group);
    if (!entry || entry === stack.layers[0]) return null;
    return { layer: entry.id, coverage: group === null ? entry.coverages.length - 1 : 0, cue };
  }

  /** Null when something else was asked for in between, or nothing is there to look at. */
  async look(place: CuePlace): Promise<CueLook | null> {
    const run = ++this.run;
    const [stack, sources, mesh] = [this.model.stack(), this.model.sources(), this.specimen.mesh()];
    if (!stack || !sources) return null;
    const count = mesh.position.length / 3;
    const out = { input: new Float32Array(count), value: new Float32Array(count) };
    const footprint = this.specimen.vertices().spacingM / stack.extentM;
    for (let first = 0; first < count; first += CHUNK) {
      const end = Math.min(count, first + CHUNK);
      const part = (values: Float32Array | undefined, k: number) => values?.subarray(first * k, end * k);
      const places = {
        texcoord: mesh.texcoord.subarray(first * 2, end * 2),
        position: part(mesh.position, 3),
        normal: part(mesh.normal, 3),
        geomcolor: part(mesh.geomcolor, 4),
        geomprop: part(mesh.geomprop, 3),
        geomuv: part(mesh.geomuv, 4),
      };
      this.sampler.sample(stack, sources, place, places, footprint, out, first, { standing: this.specimen.standing() });
      await breathe();
      if (run !== this.run) return null;
    }
    const vertices = Float32Array.from({ length: count * 4 }, (_, i) => (i % 4 === 3 ? 1 : 0.12 + 0.88 * out.value[i >> 2]));
    const orbit = frameBounds(this.specimen.bounds());
    const picture = drawMesh(mesh, clipMatrix(orbit, PREVIEW.width / PREVIEW.height), eyeOf(orbit), PREVIEW, { vertices });
    return { inputs: Number.isNaN(out.input[0]) ? null : out.input, picture };
  }
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
