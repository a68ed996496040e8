import type { DagNode, GlslProgram, MaterialGraph, Mesh, PackedSet, Values } from '@pebble/core';
import { CpuProgram, FEW_PLACES, NO_VERTEX_STAGE, optimise, sourcesOfPacked } from '@pebble/core';
import { PendingProgram, Uniforms } from './gl';
import { PANE_VERTEX, PARALLAX_STEPS, stageFragment } from './shaders';
import type { Meshes, Sight, Size, View } from './sight';
import { domainOf, viewsOf } from './sight';
import { floatArray } from './textures';

/** What a material puts out, by the layer of the texture that carries it and the first of its four numbers. */
const CARRIED_PLANES = {
  baseColor: [0, 0, 3],
  roughness: [0, 3, 1],
  normal: [1, 0, 3],
  occlusion: [1, 3, 1],
  identity: [2, 0, 3],
  metallic: [2, 3, 1],
  height: [3, 0, 1],
  specular: [3, 1, 1],
} as const;
type Carried = keyof typeof CARRIED_PLANES;
const NAMES = Object.keys(CARRIED_PLANES) as Carried[];
const LAYERS = 4;

/** What is seen at a pixel: its place and whether there is one, normal, tangent, vertex colour. */
const SEEN_LAYERS = 4;

const typeOf = (name: Carried) => (CARRIED_PLANES[name][2] === 3 ? 'vec3' : 'float');
/** A program that does not work a material out, but lights what was worked out for every pixel. It is the same for all. */
const LIT: GlslProgram = {
  source: `uniform sampler2DArray t_ahead; uniform sampler2DArray t_seen; uniform mat4 u_clip;
bool pb_seen() {
  ivec2 at = ivec2(gl_FragCoord.xy);
  vec4 place = texelFetch(t_seen, ivec3(at, 0), 0); vec4 facing = texelFetch(t_seen, ivec3(at, 1), 0);
  v_place = place.xyz; in_normal = facing.xyz; in_tangent = texelFetch(t_seen, ivec3(at, 2), 0); in_geomcolor = texelFetch(t_seen, ivec3(at, 3), 0);
  vec4 clip = u_clip * vec4(v_place, 1.0);
  gl_FragDepth = clip.z / clip.w * 0.5 + 0.5;
  return place.w > 0.5;
}
void pb_evaluate(${NAMES.map((n) => `out ${typeOf(n)} ${n}`).join(', ')}) {
  ivec2 at = ivec2(gl_FragCoord.xy);
${NAMES.map((n) => `  ${n} = texelFetch(t_ahead, ivec3(at, ${CARRIED_PLANES[n][0]}), 0).${'rgba'.slice(CARRIED_PLANES[n][1], CARRIED_PLANES[n][1] + CARRIED_PLANES[n][2])};`).join('\n')}
}`,
  outputs: NAMES.map((name) => ({ name, type: typeOf(name) })),
  values: [],
  units: [],
  inputs: [],
  fetches: LAYERS,
  vertex: NO_VERTEX_STAGE,
};

/** A material whose program is being built: what to work out meanwhile. */
export interface Wanted {
  graph: MaterialGraph['outputs'];
  values: Values;
  slots: PackedSet;
  /** Repetitions a metre where parallax moves the texture coordinate of the specimen along the line of sight; else 0. */
  perMetre: number;
}

/** Which of the views is that of the specimen. */
const SPECIMEN = 0;
/** Milliseconds that a picture ahead of its program may take to work out. */
const BUDGET_MS = 110;
/** Triangles of a specimen up to which they are looked through in time for a picture; more have to be looked through beforehand, and very many are not. */
const QUICK_TRIANGLES = 150_000;
const MAX_TRIANGLES = 2_000_000;
/** Milliseconds that looking beforehand takes before it lets others in. */
const SLICE_MS = 12;
/** Pictures that are worked out for nothing, so that the first that counts is quick, and their size. */
export const WARM_UP = { times: 3, size: { width: 64, height: 32 } };
/** What a place may cost before anything was measured, in milliseconds: much, as the first picture has to be in time on any machine. */
const FIRST_GUESS = 0.012;
/** Fewer places than this say little of what one costs. */
const TELLING = 2500;
/** Shares of the full width and height at which pictures are worked out: few, so that what is seen at one is known beforehand. */
const SCALES = [0.5, 0.4, 0.32, 0.25, 0.2, 0.16, 0.13, 0.1, 0.08];

/**
 * Pictures of a material before its program is there: worked out on the processor for few pixels, and lit by a program that
 * was built beforehand.
 */
export class Ahead {
  private built: { program: WebGLProgram; uniforms: Uniforms } | null = null;
  private asked = false;
  private texture: WebGLTexture | null = null;
  private places: WebGLTexture | null = null;
  private program: { of: MaterialGraph['outputs']; cpu: CpuProgram; height: CpuProgram | null } | null = null;
  /** What a place costs, with parallax and without. */
  private readonly msPerPlace = { plain: FIRST_GUESS, shifted: 3 * FIRST_GUESS };
  /** The meshes as they are drawn; null while they have too many triangles to be looked through. */
  private meshes: Meshes | null = null;
  /** What was looked at last, and of what; a change of the meshes makes it nobody's. */
  private seen: { key: string; views: View[] } | null = null;
  /** What is being looked at beforehand. */
  private looking: { key: string; size: Size; steps: Generator<undefined, View[]> } | null = null;
  /** Whether everything has run once: what runs for the first time is slow. */
  warm = false;

  constructor(private readonly gl: WebGL2RenderingContext) {}

  /** Builds the program that lights, once. Calls back when it is there. */
  build(then: () => void): void {
    if (this.asked) return;
    this.asked = true;
    new PendingProgram(this.gl, PANE_VERTEX, stageFragment(LIT, false, 'solid', true)).finish().then(
      (program) => {
        this.built = { program, uniforms: new Uniforms(this.gl, program) };
        then();
      },
      // Without it pictures come when their programs do.
      () => undefined,
    );
  }

  /** Whether what lights is built. */
  get ready(): boolean {
    return this.built !== null;
  }
  /** Whether pictures can be worked out in time. */
  get able(): boolean {
    return this.warm && this.meshes !== null;
  }

  setMeshes(specimen: Mesh, flat: Mesh): void {
    // Colours are painted upon copies.
    const own = (mesh: Mesh): Mesh => ({ ...mesh, geomcolor: mesh.geomcolor.slice() });
    this.meshes = specimen.index.length / 3 <= MAX_TRIANGLES ? { specimen: own(specimen), flat: own(flat) } : null;
    this.seen = this.looking = null;
  }
  setRelief(position: Float32Array): void {
    this.seen = this.looking = null;
    if (this.meshes) this.meshes.specimen = { ...this.meshes.specimen, position };
  }
  setColours(of: keyof Meshes, first: number, colours: Float32Array): void {
    this.seen = this.looking = null;
    this.meshes?.[of].geomcolor.set(colours, first * 4);
  }

  /** The share of full width and height at which so many pixels are worked out in time. */
  scaleFor(pixels: number, kind: 'plain' | 'shifted'): number {
    const most = Math.sqrt(BUDGET_MS / this.msPerPlace[kind] / Math.max(1, pixels));
    return SCALES.find((scale) => scale <= most) ?? SCALES[SCALES.length - 1];
  }

  /** Whether a picture would come in time: what it sees is known, or quickly looked at. */
  knows(...of: Sight): boolean {
    const triangles = (this.meshes?.specimen.index.length ?? 0) / 3;
    return triangles <= QUICK_TRIANGLES || this.seen?.key === JSON.stringify(of);
  }

  /** Looks at both panes of a picture beforehand, for a short while. True when that is done; else it wants to be called again. */
  lookOn(...of: Sight): boolean {
    const began = performance.now();
    while (this.step(of)) if (performance.now() - began > SLICE_MS) return false;
    return true;
  }

  /** What a picture sees in both panes. */
  private see(...of: Sight): readonly View[] {
    while (this.step(of));
    return this.seen?.views ?? [];
  }

  /** Looks on a little. False when there is nothing more to look at. */
  private step(of: Sight): boolean {
    const [size, look, panes, spans] = of;
    const key = JSON.stringify(of);
    if (!this.meshes || this.seen?.key === key) return false;
    if (this.looking?.key !== key) this.looking = { key, size, steps: viewsOf(look, panes, this.meshes, spans, size) };
    const { done, value } = this.looking.steps.next();
    if (!done) return true;
    this.looking = null;
    this.seen = { key, views: value };
    this.upload(value, size);
    return false;
  }

  /** What is seen goes over while it is looked at: lighting then takes as many pixels, however many triangles there are. */
  private upload(views: readonly View[], { width, height }: Size): void {
    const layer = width * height * 4;
    const data = new Float32Array(layer * SEEN_LAYERS);
    for (const { seen, at, place, tangent } of views) {
      const { normal, geomcolor } = seen.geometry;
      for (let n = 0; n < at.length; n++) {
        const to = at[n] * 4;
        for (let c = 0; c < 3; c++) {
          data[to + c] = place[n * 3 + c];
          data[layer + to + c] = normal[n * 3 + c];
        }
        data[to + 3] = 1;
        for (let c = 0; c < 4; c++) {
          data[2 * layer + to + c] = tangent[n * 4 + c];
          data[3 * layer + to + c] = geomcolor[n * 4 + c];
        }
      }
    }
    this.gl.deleteTexture(this.places);
    this.places = floatArray(this.gl, data, { width, height, layers: SEEN_LAYERS, internal: this.gl.RGBA32F });
  }

  /** Works out what a picture sees in both its panes. */
  workOut(wanted: Wanted, ...of: Sight): void {
    const [{ width, height }] = of;
    const { cpu, height: high } = this.programOf(wanted);
    const began = performance.now();
    const layer = width * height * 4;
    const data = new Float32Array(layer * LAYERS);
    const given = { sources: sourcesOfPacked(wanted.slots), values: wanted.values };
    let places = 0;
    // Seen from straight above nothing shifts.
    for (const [pane, { seen, at, lean }] of this.see(...of).entries()) {
      const texcoord = seen.geometry.texcoord.slice();
      if (high && pane === SPECIMEN)
        for (let i = 0; i < PARALLAX_STEPS; i++)
          for (const group of seen.groups)
            high.run({ domain: domainOf(seen, group, texcoord), ...given }, (tile, planes) => {
              const [height] = planes('height');
              const first = (group.first + tile.x) * 2;
              for (let j = 0; j < tile.width * 2; j++)
                texcoord[first + j] = seen.geometry.texcoord[first + j] + lean[first + j] * wanted.perMetre * height[j >> 1];
            });
      places += at.length;
      for (const group of seen.groups)
        cpu.run({ domain: domainOf(seen, group, texcoord), ...given }, (tile, planes) => {
          for (const name of NAMES) {
            const [of, component] = CARRIED_PLANES[name];
            planes(name).forEach((plane, c) => {
              for (let i = 0; i < tile.width; i++) data[of * layer + at[group.first + tile.x + i] * 4 + component + c] = plane[i];
            });
          }
        });
    }
    this.gl.deleteTexture(this.texture);
    this.texture = floatArray(this.gl, data, { width, height, layers: LAYERS });
    if (places <= TELLING) return;
    const kind = high ? 'shifted' : 'plain';
    this.msPerPlace[kind] = (this.msPerPlace[kind] + (performance.now() - began) / places) / 2;
  }

  private programOf({ graph, perMetre }: Wanted): NonNullable<Ahead['program']> {
    const parallax = perMetre !== 0;
    if (this.program?.of === graph && (this.program.height !== null) === parallax) return this.program;
    const made = (of: Readonly<Record<string, DagNode>>) => new CpuProgram(optimise(of).outputs, FEW_PLACES);
    return (this.program = { of: graph, cpu: made(graph), height: parallax ? made({ height: graph.height }) : null });
  }

  /** Takes the program that lights into use, with two textures from `unit` on. */
  use(unit: number): Uniforms {
    const { program, uniforms } = this.built as NonNullable<Ahead['built']>;
    const { gl } = this;
    gl.useProgram(program);
    gl.activeTexture(gl.TEXTURE0 + unit);
    gl.bindTexture(gl.TEXTURE_2D_ARRAY, this.texture);
    gl.uniform1i(uniforms.at('t_ahead'), unit);
    gl.activeTexture(gl.TEXTURE0 + unit + 1);
    gl.bindTexture(gl.TEXTURE_2D_ARRAY, this.places);
    gl.uniform1i(uniforms.at('t_seen'), unit + 1);
    return uniforms;
  }

  dispose(): void {
    this.gl.deleteTexture(this.texture);
    this.gl.deleteTexture(this.places);
    if (this.built) this.gl.deleteProgram(this.built.program);
  }
}
