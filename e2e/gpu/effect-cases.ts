// Every effect of graphs over a real map: on the GPU in exact mode, and as the shaders that leave, beside the processor.
import type { GraphContext, MasterDocument, PackedSet, Values, WrittenShader } from '@pebble/core';
import {
  COMPONENTS,
  MasterMaterials,
  TIME_VALUE,
  evaluate,
  flatDomain,
  footprintValues,
  generateSurface,
  linkTo,
  makeMaster,
  makeOperation,
  materialAt,
  optimise,
  sourcesOfPacked,
  stepKinds,
  valueOf,
  writtenShader,
} from '@pebble/core';
import { evaluateExact, packSurface } from '@pebble/stage';

const SIDE = 128;
const N = 64;
const SECONDS = 1.3;

/** A texture array as anybody would fill it. */
export interface PlainTexture {
  name: string;
  kind: 'srgb' | 'rgba' | 'rg32f' | 'r';
  size: number;
  levels: number[][];
}
export interface EffectCase<A> {
  name: string;
  exact: A;
  shader: WrittenShader;
  textures: PlainTexture[];
  /** The number of the output that is compared, and what the processor makes of it: three numbers a pixel, rows from the top. */
  output: number;
  cpu: number[];
  width: number;
}

const IMAGE = makeOperation('image', 1, { settings: { surface: 's', role: 'baseColor' } });
type Inputs = MasterDocument['operations'][string]['inputs'];
type Made = [inputs: Inputs, settings?: Record<string, string | number>];

/** Ways in which each effect is tried; those that are not here are tried as they start, over the map. */
const WAYS: Record<string, Made[]> = {
  polar: [
    [{ around: valueOf(3), outward: valueOf(1.5), spin: valueOf(0.3), flow: valueOf(-0.2), distortion: valueOf(0.2), twist: valueOf(0.5) }],
    [{ around: valueOf(2) }, { cut: 'folded' }],
  ],
  panning: [[{ speed: valueOf(0.3, -0.7) }]],
  stamps: [
    [{ cells: valueOf(3), keep: valueOf(0.8) }],
    [
      { cells: valueOf(2), size: valueOf(1.2) },
      { composite: 'max', stamps: 2 },
    ],
    [{ cells: valueOf(4), offset: valueOf(0.5) }, { around: '2 × 2' }],
  ],
  flipbook: [
    [{ picture: valueOf(5.4) }, { columns: 4, rows: 2 }],
    [{ picture: valueOf(7) }, { columns: 3, rows: 3, between: 'cut' }],
  ],
  rotatedcells: [[{ cells: valueOf(5) }]],
  triplanarprojection: [[{ position: linkTo('p'), normal: linkTo('n') }], [{ position: linkTo('p'), normal: linkTo('n') }, { planes: 'two' }]],
  nearfar: [[{ distance: linkTo('far'), from: valueOf(0.2), to: valueOf(0.8) }]],
  parallax: [[{ height: linkTo('h'), scale: valueOf(0.03), viewdirection: linkTo('look') }]],
  glitter: [[{ cells: valueOf(24), share: valueOf(0.4), viewdirection: linkTo('look') }]],
  gauge: [[{ mask: linkTo('h'), level: valueOf(0.6) }]],
  displacement: [[{ in: linkTo('h'), amount: valueOf(1), middle: valueOf(0) }]],
  glow: [[{ mask: linkTo('h') }]],
  translucentglow: [[{ mask: linkTo('h'), baseColor: linkTo('i') }]],
  translucency: [[{ mask: linkTo('h') }]],
  wave: [[{}]],
  time: [[{ speed: valueOf(0.2) }]],
  water: [[{ below: linkTo('s'), level: valueOf(0.002), clear: valueOf(0.02), drift: valueOf(0.2, 0.1) }]],
};
/** What effects are fed beside the map. */
const BESIDE: MasterDocument['operations'] = {
  i: IMAGE,
  s: makeOperation('surface', 2, { settings: { surface: 's' } }),
  h: makeOperation('luminance', 3, { inputs: { in: linkTo('i') } }),
  uv: makeOperation('texcoord', 4),
  far: makeOperation('extract', 5, { inputs: { in: linkTo('uv') } }),
  // A place and a direction that lean differently everywhere, of what every picture has.
  p: makeOperation('formula', 6, { inputs: { uv: linkTo('uv') }, settings: { text: 'in vec2 uv; vec3(uv.x, uv.x * uv.y, uv.y) * 2.0 - 0.7' } }),
  n: makeOperation('formula', 7, { inputs: { uv: linkTo('uv') }, settings: { text: 'in vec2 uv; normalize(vec3(uv.x - 0.4, 0.35, uv.y - 0.7))' } }),
  look: makeOperation('formula', 8, { inputs: { uv: linkTo('uv') }, settings: { text: 'in vec2 uv; normalize(vec3(uv.x - 0.5, 1.0, uv.y - 0.3))' } }),
};

function documentOf(step: string, [inputs, settings = {}]: Made): MasterDocument {
  const kind = stepKinds().find((k) => k.name === step)!;
  const op = makeOperation(step, 20, { settings });
  const first: Inputs = kind.inputs(op, CONTEXT).some((i) => i.name === 'in') ? { in: linkTo('i') } : {};
  op.inputs = { ...first, ...inputs };
  const operations: MasterDocument['operations'] = { ...BESIDE, e: op };
  const [out] = kind.outputs(op, CONTEXT);
  if (out.type === 'surface') return makeMaster(step, { operations, outputs: { surface: linkTo('e') } });
  // Coordinates are seen by what is looked up with them.
  if (out.type === 'vec2') {
    operations['looked'] = makeOperation('image', 21, { inputs: { texcoord: linkTo('e') }, settings: IMAGE.settings });
    return makeMaster(step, { operations, outputs: { baseColor: linkTo('looked') } });
  }
  return makeMaster(step, { operations, outputs: { baseColor: linkTo('e') } });
}

let CONTEXT: GraphContext = { surfaces: {}, blends: {}, masters: {} };

export async function effects<A>(
  gl: WebGL2RenderingContext,
  compare: (name: string, cpu: Record<string, Float32Array[]>, gpu: Record<string, Float32Array[]>) => A,
): Promise<EffectCase<A>[]> {
  const { maps, facts } = generateSurface('terrace-stone', { seed: 3, size: SIDE });
  CONTEXT = {
    surfaces: { s: { ...facts, roles: new Set(['baseColor', 'normal', 'roughness', 'occlusion', 'height'] as const) } },
    blends: {},
    masters: {},
  };
  const surface = packSurface(maps, SIDE);
  const packed: PackedSet = { surfaces: [surface], masks: [], ids: [] };
  const sources = sourcesOfPacked(packed);
  const plain: Record<string, PlainTexture> = {
    t_colour: { name: 't_colour', kind: 'srgb', size: SIDE, levels: surface.colour.map((l) => [...l.data]) },
    t_shape: { name: 't_shape', kind: 'rgba', size: SIDE, levels: surface.shape.map((l) => [...l.data]) },
    t_height: { name: 't_height', kind: 'rg32f', size: SIDE, levels: surface.height.map((l) => [...l.data]) },
    t_rare: { name: 't_rare', kind: 'r', size: SIDE, levels: surface.rare.map((l) => [...l.data]) },
  };
  const out: EffectCase<A>[] = [];
  const steps = stepKinds().filter((k) => k.group === 'effects');
  for (const { name: step } of steps)
    for (const [i, way] of (WAYS[step] ?? [[{}]]).entries()) {
      const document = documentOf(step, way as Made);
      const still = new MasterMaterials().of(document, CONTEXT);
      if (still.problems.some((p) => p.code === 'graph')) throw new Error(`${step}: ${still.problems[0].message}`);
      const material = materialAt(still, { [TIME_VALUE]: [SECONDS] });
      const domain = flatDomain(N, N, 1);
      const values: Values = { ...material.values, ...footprintValues(domain) };
      const { outputs } = optimise({ baseColor: material.far.outputs.baseColor });
      const cpu = evaluate(outputs, { domain, values, sources });
      const shader = writtenShader(document, CONTEXT);
      const name = `${step} ${i + 1}`;
      out.push({
        name,
        exact: compare(name, cpu, await evaluateExact(gl, outputs, domain, values, packed)),
        shader: { ...shader, uniforms: shader.uniforms.map((u) => (u.name === 'u_time' ? { ...u, initial: [SECONDS] } : u)) },
        textures: shader.textures.map((t) => plain[t.name]),
        output: shader.outputs.find((o) => o.name === 'baseColor')!.number,
        cpu: Array.from(
          { length: N * N * 3 },
          (_, k) => cpu['baseColor'][Math.min(k % 3, COMPONENTS[outputs['baseColor'].type] - 1)][Math.floor(k / 3)],
        ),
        width: N,
      });
    }
  return out;
}
