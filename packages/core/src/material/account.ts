import type { CpuProgram, DagNode, GBuffer, Sources } from '../compile';
import { COMPONENTS, lineDomain } from '../compile';
import type { BlendRole, ExtraRole, MaterialRole } from '../surface';
import { MATERIAL_ROLES, ROLE_FACTS } from '../surface';
import { givenRoles } from './live';
import type { LayerProbe, Material } from './material';
import { MaterialPrograms } from './programs';

/** Places at which a material is looked into: as many as `texcoord` has pairs. */
export type Places = Required<Pick<GBuffer, 'texcoord'>> & Omit<GBuffer, 'texcoord'>;

/** What is there of each role: the usual six, and those that something brings. */
export type Channels = Record<BlendRole, number[]> & Partial<Record<ExtraRole, number[]>>;

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
  own: Channels | null;
  /** Mip level of its height map that the footprint asks for; 0 for layers without maps. */
  level: number;
}
export interface Account {
  layers: LayerAccount[];
  result: Channels;
}

/** As much of a material as it takes. */
export type Accountable = Pick<Material, 'key' | 'values' | 'layers' | 'far'>;

const cueName = (kind: 'x' | 'v', layer: number, coverage: number, cue: number) => `${kind}${layer}_${coverage}_${cue}`;

/** Roles that a layer brings. */
const ownRoles = ({ own }: LayerProbe): MaterialRole[] => MATERIAL_ROLES.filter((role) => own?.[role]);

function outputsOf({ far }: Accountable): Record<string, DagNode> {
  const { outputs, probes } = far;
  const out: Record<string, DagNode> = {};
  for (const role of givenRoles(far)) out[`r_${role}`] = outputs[role] as DagNode;
  probes.forEach((probe, i) => {
    const { coverage, height, weight, own, cues } = probe;
    Object.assign(out, { [`c${i}`]: coverage, [`h${i}`]: height, [`w${i}`]: weight });
    for (const role of ownRoles(probe)) out[`o${i}_${role}`] = own?.[role] as DagNode;
    cues.forEach((list, k) =>
      list.forEach(({ input, value }, n) => {
        if (input) out[cueName('x', i, k, n)] = input;
        out[cueName('v', i, k, n)] = value;
      }),
    );
  });
  return out;
}

/** Works out how a material came to be what it is. While only values change no program is built. */
export class Accountant {
  constructor(private readonly programs = new MaterialPrograms()) {}

  /**
   * Accounts for every place.
   * @param footprint extents between one pixel and the next: decides the mip level
   */
  at(material: Accountable, sources: Sources, places: Places, footprint: number): Account[] {
    const program = this.programs.of(material, 'account', () => outputsOf(material), 256);
    const { texcoord, ...geometry } = places;
    const count = texcoord.length / 2;
    const planes: Record<string, Float32Array[]> = {};
    for (const [name, node] of Object.entries(program.outputs))
      planes[name] = Array.from({ length: COMPONENTS[node.type] }, () => new Float32Array(count));
    program.run({ domain: lineDomain(texcoord, footprint, geometry), sources, values: material.values }, (tile, of) => {
      for (const name of Object.keys(planes)) of(name).forEach((plane, c) => planes[name][c].set(plane.subarray(0, tile.width), tile.x));
    });
    return Array.from({ length: count }, (_, i) => oneOf(material, sources, (name, c = 0) => planes[name][c][i], footprint));
  }
}

function oneOf(material: Accountable, sources: Sources, read: (name: string, component?: number) => number, footprint: number): Account {
  const roles = (prefix: string, of: readonly MaterialRole[]) =>
    Object.fromEntries(
      of.map((role) => [role, Array.from({ length: ROLE_FACTS[role].components }, (_, c) => read(`${prefix}${role}`, c))]),
    ) as Channels;
  const probes = material.far.probes;
  const layers = material.layers.map(({ id, heights }, i): LayerAccount => {
    const probe: LayerProbe = probes[i];
    const width = heights ? sources(heights.slot, 'height').levels[0].width * heights.repeats : 0;
    return {
      id,
      coverages: probe.cues.map((list, k) =>
        list.map((cue, n) => ({ id: cue.id, input: cue.input ? read(cueName('x', i, k, n)) : null, value: read(cueName('v', i, k, n)) })),
      ),
      coverage: read(`c${i}`),
      height: read(`h${i}`),
      weight: read(`w${i}`),
      share: 0,
      own: probe.own ? roles(`o${i}_`, ownRoles(probe)) : null,
      level: width ? Math.max(0, Math.log2(Math.max(1e-9, footprint * width))) : 0,
    };
  });
  let left = 1;
  for (const layer of [...layers].reverse()) {
    layer.share = layer === layers[0] ? left : layer.weight * left;
    left *= 1 - layer.weight;
  }
  return { layers, result: roles('r_', givenRoles(material.far)) };
}

/** A cue of a layer: in which of the coverages that limit it. Null is all that limits the layer, together. */
export interface CueAddress {
  layer: string;
  coverage: number;
  cue: string | null;
}

/** Places at which a cue is looked at. */
export interface CueSample {
  material: Material;
  sources: Sources;
  at: CueAddress;
  places: Places;
  /** Extents that a place stands for. */
  footprint: number;
}

/** Looks at one cue over many places: its input (NaN where it has none) and what it gives. */
export class CueSampler {
  constructor(private readonly programs = new MaterialPrograms()) {}

  /** Makes a cue quick to look at, if it is not. @throws RangeError when there is no such cue in what is shown */
  prepare(material: Material, at: CueAddress): CpuProgram {
    const i = material.layers.findIndex((l) => l.id === at.layer);
    const probe = material.far.probes.at(i);
    if (at.cue === null && probe && i >= 0) return this.programs.of(material, `coverage ${i}`, () => ({ value: probe.coverage }));
    const list = material.far.probes[i]?.cues[at.coverage] ?? [];
    const n = list.findIndex((c) => c.id === at.cue);
    if (n < 0) throw new RangeError('There is no such cue in what is shown');
    const { input, value } = list[n];
    // By its place, not its name: cues that change places look at each other's numbers.
    return this.programs.of(material, `cue ${i},${at.coverage},${n}`, () => ({ ...(input ? { input } : {}), value }));
  }

  /** @param out gets what is found from number `first` on */
  sample({ material, sources, at, places, footprint }: CueSample, out: { input: Float32Array; value: Float32Array }, first = 0): void {
    const program = this.prepare(material, at);
    const { texcoord, ...geometry } = places;
    program.run({ domain: lineDomain(texcoord, footprint, geometry), sources, values: material.values }, (tile, planes) => {
      for (const name of ['input', 'value'] as const)
        if (program.outputs[name]) out[name].set(planes(name)[0].subarray(0, tile.width), first + tile.x);
        else out[name].fill(Number.NaN, first + tile.x, first + tile.x + tile.width);
    });
  }
}
