import type { GBuffer, Sources } from '../compile';
import { COMPONENTS, CpuProgram, lineDomain, optimise } from '../compile';
import type { DagNode } from '../compile';
import { inOrder } from '../document';
import type { BlendRole } from '../surface';
import { BLEND_ROLES, ROLE_FACTS } from '../surface';
import { lowerBlend } from './lower';
import type { Stack } from './stack';
import { stackShape } from './stack';
import type { ValueOptions } from './values';
import { stackValues } from './values';

/** Places at which a blend is looked into: as many as `texcoord` has pairs. */
export type Places = Required<Pick<GBuffer, 'texcoord'>> & Omit<GBuffer, 'texcoord'>;

/** What a cue looked at, in its unit, and what it gave. */
export interface CueAccount {
  id: string;
  /** Null where the picture that it reads is not there. */
  input: number | null;
  value: number;
}
export interface LayerAccount {
  id: string;
  /** By coverage: the group's first where there is one. */
  coverages: CueAccount[][];
  coverage: number;
  /** Height with which it contends in metres, weight over what lies below, share of what is seen. */
  height: number;
  weight: number;
  share: number;
  /** What the layer is by itself, colour in linear light; null for water. */
  own: Record<BlendRole, number[]> | null;
  /** Mip level of its height map that the footprint asks for; 0 for layers without maps. */
  level: number;
}
export interface Account {
  layers: LayerAccount[];
  result: Record<BlendRole, number[]>;
}

/** Works out how a blend came to be what it is. Keeps its program while only values change. */
export class Accountant {
  private shape = '';
  private program: CpuProgram | null = null;
  private names: string[] = [];
  private inputs = new Set<string>();

  private prepare(stack: Stack): CpuProgram {
    const shape = stackShape(stack);
    if (this.program && shape === this.shape) return this.program;
    const lowered = lowerBlend(stack, { far: true, detail: true });
    const outputs: Record<string, DagNode> = {};
    for (const role of BLEND_ROLES) outputs[`r_${role}`] = lowered.channels[role];
    lowered.profiles.forEach((p, i) => Object.assign(outputs, { [`c${i}`]: p.coverage, [`h${i}`]: p.height, [`w${i}`]: p.weight }));
    lowered.details.forEach(({ coverages, own }, i) => {
      if (own) for (const role of BLEND_ROLES) outputs[`o${i}_${role}`] = own[role];
      coverages.forEach((cues, k) =>
        cues.forEach(({ input, value }, n) => {
          if (input) outputs[`x${i}_${k}_${n}`] = input;
          outputs[`v${i}_${k}_${n}`] = value;
        }),
      );
    });
    this.names = Object.keys(outputs);
    this.inputs = new Set(this.names);
    this.program = new CpuProgram(optimise(outputs).outputs, 256);
    this.shape = shape;
    return this.program;
  }

  /**
   * Accounts for every place.
   * @param footprint extents between one pixel and the next: decides the mip level
   */
  at(stack: Stack, sources: Sources, places: Places, footprint: number, options: ValueOptions = {}): Account[] {
    const program = this.prepare(stack);
    const { texcoord, ...geometry } = places;
    const count = texcoord.length / 2;
    const planes: Record<string, Float32Array[]> = {};
    for (const [name, node] of Object.entries(program.outputs))
      planes[name] = Array.from({ length: COMPONENTS[node.type] }, () => new Float32Array(count));
    program.run({ domain: lineDomain(texcoord, footprint, geometry), sources, values: stackValues(stack, options) }, (tile, of) => {
      for (const name of this.names) of(name).forEach((plane, c) => planes[name][c].set(plane.subarray(0, tile.width), tile.x));
    });
    return Array.from({ length: count }, (_, i) => this.one(stack, sources, (name, c = 0) => planes[name][c][i], footprint));
  }

  private one(stack: Stack, sources: Sources, read: (name: string, component?: number) => number, footprint: number): Account {
    const roles = (prefix: string) =>
      Object.fromEntries(
        BLEND_ROLES.map((role) => [role, Array.from({ length: ROLE_FACTS[role].components }, (_, c) => read(`${prefix}${role}`, c))]),
      ) as Record<BlendRole, number[]>;
    const layers = stack.layers.map((entry, i): LayerAccount => {
      const width = entry.surface?.roles.has('height') ? sources(entry.slot, 'height').levels[0].width : 0;
      return {
        id: entry.id,
        coverages:
          i === 0
            ? []
            : entry.coverages.map((c, k) =>
                inOrder(c).map(({ id }, n) => ({
                  id,
                  input: this.inputs.has(`x${i}_${k}_${n}`) ? read(`x${i}_${k}_${n}`) : null,
                  value: read(`v${i}_${k}_${n}`),
                })),
              ),
        coverage: read(`c${i}`),
        height: read(`h${i}`),
        weight: read(`w${i}`),
        share: 0,
        own: this.inputs.has(`o${i}_height`) ? roles(`o${i}_`) : null,
        level: width ? Math.max(0, Math.log2(Math.max(1e-9, footprint * entry.repeats * width))) : 0,
      };
    });
    let left = 1;
    for (const layer of [...layers].reverse()) {
      layer.share = layer === layers[0] ? left : layer.weight * left;
      left *= 1 - layer.weight;
    }
    return { layers, result: roles('r_') };
  }
}

/** Looks at one cue over many places: its input (NaN where it has none) and what it gives. */
export class CueSampler {
  private shape = '';
  private program: CpuProgram | null = null;

  /** Makes a cue quick to look at, if it is not. @throws RangeError when there is no such cue in what is shown */
  prepare(stack: Stack, at: { layer: string; coverage: number; cue: string }): CpuProgram {
    const i = stack.layers.findIndex((l) => l.id === at.layer);
    const n = inOrder(stack.layers[i]?.coverages[at.coverage] ?? {}).findIndex((c) => c.id === at.cue);
    // By its place, not its name: cues that change places look at each other's numbers.
    const shape = `${stackShape(stack)}#${i},${at.coverage},${n}`;
    if (this.program && shape === this.shape) return this.program;
    const found = lowerBlend(stack, { far: true, detail: true }).details[i]?.coverages[at.coverage]?.at(n);
    if (n < 0 || !found) throw new RangeError('There is no such cue in what is shown');
    this.shape = shape;
    return (this.program = new CpuProgram(optimise({ ...(found.input ? { input: found.input } : {}), value: found.value }).outputs, 512));
  }

  /** @param at which coverage of the layer, and which of its cues in their order */
  sample(
    stack: Stack,
    sources: Sources,
    at: { layer: string; coverage: number; cue: string },
    places: Places,
    footprint: number,
    out: { input: Float32Array; value: Float32Array },
    first: number,
    options: ValueOptions = {},
  ): void {
    const program = this.prepare(stack, at);
    const { texcoord, ...geometry } = places;
    program.run({ domain: lineDomain(texcoord, footprint, geometry), sources, values: stackValues(stack, options) }, (tile, planes) => {
      for (const name of ['input', 'value'] as const)
        if (program.outputs[name]) out[name].set(planes(name)[0].subarray(0, tile.width), first + tile.x);
        else out[name].fill(Number.NaN, first + tile.x, first + tile.x + tile.width);
    });
  }
}
