import { lineDomain } from '../compile';
import type { DagNode, Sources } from '../compile';
import type { GBuffer } from '../compile';
import type { Material } from './material';
import { MaterialPrograms } from './programs';

/** A cut through a material, seen from the side. Arrays run along the cut. */
export interface Section {
  /** Length of the cut in metres. */
  lengthM: number;
  /** Height of the material in metres. */
  height: Float32Array;
  layers: {
    id: string;
    /** Height with which the layer contends, metres. */
    profile: Float32Array;
    /** Where the layer may be at all, 0–1. */
    coverage: Float32Array;
    /** Weight over what lies below it. */
    weight: Float32Array;
    /** Share of the visible surface: weight times what the layers above leave; sums to 1 over the layers. */
    share: Float32Array;
  }[];
  /** Index of the layer with the largest share, at every point. */
  winner: Uint8Array;
}

/** Ends of a cut line in texture coordinates. */
export interface Cut {
  ax: number;
  ay: number;
  bx: number;
  by: number;
}
/** What is known of places of texture space, given as pairs of coordinates: a plane, or a mesh spread out. */
export interface CutGround {
  along(texcoord: Float32Array): GBuffer;
}

/** Points along a cut, as texture coordinates with what lies there. */
export function cutPoints(cut: Cut, count: number, ground: CutGround): GBuffer & { texcoord: Float32Array } {
  const texcoord = new Float32Array(count * 2);
  for (let i = 0; i < count; i++) {
    const t = (i + 0.5) / count;
    texcoord[i * 2] = cut.ax + (cut.bx - cut.ax) * t;
    texcoord[i * 2 + 1] = cut.ay + (cut.by - cut.ay) * t;
  }
  return { ...ground.along(texcoord), texcoord };
}

const PURPOSE = 'section';

function outputsOf({ near }: Material): Record<string, DagNode> {
  const layers = near.probes.flatMap((p, i) => [
    [`h${i}`, p.height],
    [`c${i}`, p.coverage],
    [`w${i}`, p.weight],
  ]);
  return { ...(Object.fromEntries(layers) as Record<string, DagNode>), height: near.outputs.height };
}

/** Cuts through materials. While only values change, a drag costs the evaluation alone. */
export class SectionCutter {
  private points: { key: string; ground: CutGround; at: ReturnType<typeof cutPoints> } | null = null;

  constructor(private readonly programs = new MaterialPrograms()) {}

  /** Makes the program for a material, if it is not there, a piece at a time: what a first cut takes longer for. */
  preparing = (material: Material): Generator<void> => this.programs.building(material, PURPOSE, () => outputsOf(material));

  cut(material: Material, cut: Cut, sources: Sources, count: number, ground: CutGround): Section {
    const program = this.programs.of(material, PURPOSE, () => outputsOf(material));
    // The line stays where it is while values are dragged: its points and what lies there are kept.
    const key = `${cut.ax},${cut.ay},${cut.bx},${cut.by},${count}`;
    if (this.points?.key !== key || this.points.ground !== ground) this.points = { key, ground, at: cutPoints(cut, count, ground) };
    const { texcoord, ...geometry } = this.points.at;
    const section: Section = {
      lengthM: Math.hypot(cut.bx - cut.ax, cut.by - cut.ay) * material.extentM,
      height: new Float32Array(count),
      layers: material.layers.map(({ id }) => ({
        id,
        profile: new Float32Array(count),
        coverage: new Float32Array(count),
        weight: new Float32Array(count),
        share: new Float32Array(count),
      })),
      winner: new Uint8Array(count),
    };
    program.run({ domain: lineDomain(texcoord, 1 / count, geometry), sources, values: material.values }, (tile, planes) => {
      section.height.set(planes('height')[0].subarray(0, tile.width), tile.x);
      section.layers.forEach((layer, i) => {
        layer.profile.set(planes(`h${i}`)[0].subarray(0, tile.width), tile.x);
        layer.coverage.set(planes(`c${i}`)[0].subarray(0, tile.width), tile.x);
        layer.weight.set(planes(`w${i}`)[0].subarray(0, tile.width), tile.x);
      });
    });
    shares(section);
    return section;
  }
}

function shares(section: Section): void {
  const n = section.height.length;
  for (let i = 0; i < n; i++) {
    let left = 1;
    let most = -1;
    for (let l = section.layers.length - 1; l >= 0; l--) {
      const { weight, share } = section.layers[l];
      share[i] = l === 0 ? left : weight[i] * left;
      left *= 1 - weight[i];
      if (share[i] > most) {
        most = share[i];
        section.winner[i] = l;
      }
    }
  }
}
