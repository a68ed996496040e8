// Runs in the browser: graphs as they are compiled, and the same written by hand.
import type { MasterDocument } from '@pebble/core';
import { MasterMaterials, NO_CONTEXT, emitGlsl, frameValues, linkTo, makeMaster, makeOperation, optimise, valueOf } from '@pebble/core';

import { DEMO_SHADERS } from './demo-shaders';

const [WIDTH, HEIGHT] = [640, 400];
const VERTEX = `#version 300 es
out vec2 in_texcoord; void main() { vec2 p = vec2(gl_VertexID & 1, gl_VertexID >> 1) * 2.0; in_texcoord = p; gl_Position = vec4(p * 2.0 - 1.0, 0.0, 1.0); }`;
/** The hash and the noise that the registry states, as somebody would write them. */
const NOISE = `uvec3 pcg3d(uvec3 v) { v = v * 1664525u + 1013904223u; v.x += v.y * v.z; v.y += v.z * v.x; v.z += v.x * v.y; v ^= v >> 16u; v.x += v.y * v.z; v.y += v.z * v.x; v.z += v.x * v.y; return v; }
float corner(vec2 c, float p, uint s) { c -= p * floor(c / p); return float(pcg3d(uvec3(uint(c.x), uint(c.y), s)).x >> 8u) / 16777216.0; }
float noise(vec2 p, float period, uint s) { vec2 c = floor(p); vec2 f = p - c; f = f * f * (3.0 - 2.0 * f);
  return mix(mix(corner(c, period, s), corner(c + vec2(1, 0), period, s), f.x), mix(corner(c + vec2(0, 1), period, s), corner(c + vec2(1, 1), period, s), f.x), f.y); }`;
const HSV = `vec3 toHsv(vec3 c) { float v = max(c.r, max(c.g, c.b)); float d = v - min(c.r, min(c.g, c.b)); float h = d == 0.0 ? 0.0 : c.r == v ? (c.g - c.b) / d : c.g == v ? 2.0 + (c.b - c.r) / d : 4.0 + (c.r - c.g) / d; return vec3(fract(h / 6.0 + 1.0), v == 0.0 ? 0.0 : d / v, v); }
vec3 toRgb(vec3 c) { vec3 k = clamp(abs(fract(c.x + vec3(0.0, 2.0, 1.0) / 3.0) * 6.0 - 3.0) - 1.0, 0.0, 1.0); return c.z * mix(vec3(1.0), k, c.y); }`;

type Steps = MasterDocument['operations'];
const graph = (operations: Steps, baseColor: string, port = 'out') =>
  makeMaster('Bench', { operations, outputs: { baseColor: linkTo(baseColor, port) } });
const op = (step: string, inputs: Steps[string]['inputs'] = {}, settings: Steps[string]['settings'] = {}) =>
  makeOperation(step, 1, { inputs, settings });
const formula = (text: string, inputs: Steps[string]['inputs']) => op('formula', inputs, { text });

const CASES: { name: string; document: MasterDocument; hand: string }[] = [
  {
    name: 'a gauge over a ramp',
    document: graph(
      {
        uv: op('texcoord'),
        u: op('extract', { in: linkTo('uv') }),
        less: op('subtract', { in1: linkTo('u'), in2: valueOf(0.4) }),
        lit: op('clamp', { in: linkTo('steep') }),
        steep: op('multiply', { in1: linkTo('less'), in2: valueOf(10) }),
        colour: op('mix', { bg: valueOf(0.2, 0.25, 0.3), fg: valueOf(0.3, 0.6, 0.6), mix: linkTo('lit') }),
      },
      'colour',
    ),
    hand: 'uniform float level, steps; uniform vec3 low, high; vec3 shade(vec2 uv) { return mix(low, high, clamp((uv.x - level) * steps, 0.0, 1.0)); }',
  },
  {
    name: 'patches of noise through a threshold',
    document: graph(
      {
        at: op('place2d', { scale: valueOf(12, 12) }),
        n: op('noise2d', { texcoord: linkTo('at'), period: valueOf(12), seed: valueOf(3) }),
        t: op('smoothstep', { in: linkTo('n'), low: valueOf(0.4), high: valueOf(0.6) }),
        colour: op('mix', { bg: valueOf(0.4, 0.2, 0.1), fg: valueOf(0.2, 0.4, 0.2), mix: linkTo('t') }),
      },
      'colour',
    ),
    hand: `${NOISE} uniform vec2 scale; uniform float period, seed, a, b; uniform vec3 low, high; vec3 shade(vec2 uv) { return mix(low, high, smoothstep(a, b, noise(uv * scale, period, uint(seed)))); }`,
  },
  {
    name: 'a hue turned along u',
    document: graph(
      {
        uv: op('texcoord'),
        turn: formula('vec3(uv.x, 1.0, 0.5 + 0.5 * uv.y)', { uv: linkTo('uv') }),
        colour: op('hsvadjust', { in: valueOf(0.7, 0.3, 0.2), amount: linkTo('turn') }),
      },
      'colour',
    ),
    hand: `${HSV} uniform vec3 base; vec3 shade(vec2 uv) { vec3 h = toHsv(base); return toRgb(vec3(h.x + uv.x, clamp(h.y, 0.0, 1.0), h.z * (0.5 + 0.5 * uv.y))); }`,
  },
  {
    name: 'waves and a power',
    document: graph(
      {
        uv: op('texcoord'),
        wave: formula('0.5 + 0.5 * sin(uv.x * k + cos(uv.y * k))', { uv: linkTo('uv'), k: valueOf(31) }),
        sharp: op('power', { in1: linkTo('wave'), in2: valueOf(2.5) }),
        colour: op('multiply', { in1: valueOf(0.9, 0.7, 0.4), in2: linkTo('sharp') }),
      },
      'colour',
    ),
    hand: 'uniform float k, e; uniform vec3 tint; vec3 shade(vec2 uv) { return tint * pow(0.5 + 0.5 * sin(uv.x * k + cos(uv.y * k)), e); }',
  },
  {
    name: 'three octaves and levels',
    document: graph(
      {
        at: op('place2d', { scale: valueOf(6, 6) }),
        n: op('fractal2d', { texcoord: linkTo('at'), period: valueOf(6), seed: valueOf(5), octaves: valueOf(3) }),
        r: op('remap', { in: linkTo('n'), inlow: valueOf(0.25), inhigh: valueOf(0.75) }),
        held: op('clamp', { in: linkTo('r') }),
        colour: op('mix', { bg: valueOf(0.1, 0.1, 0.1), fg: valueOf(0.8, 0.75, 0.7), mix: linkTo('held') }),
      },
      'colour',
    ),
    hand: `${NOISE} uniform vec2 scale; uniform float period, seed, a, b; uniform int octaves; uniform vec3 low, high; vec3 shade(vec2 uv) { float s = 0.0, w = 0.5, t = 0.0, q = period; vec2 p = uv * scale; for (int i = 0; i < octaves; i++) { s += w * noise(p, q, uint(seed) + uint(i)); t += w; w *= 0.5; p *= 2.0; q *= 2.0; } return mix(low, high, clamp((s / t - a) / (b - a), 0.0, 1.0)); }`,
  },
];
/** Numbers of the programs written by hand, the same as in the graphs. */
const HAND: Record<string, number[]>[] = [
  { level: [0.4], steps: [10], low: [0.2, 0.25, 0.3], high: [0.3, 0.6, 0.6] },
  { scale: [12, 12], period: [12], seed: [3], a: [0.4], b: [0.6], low: [0.4, 0.2, 0.1], high: [0.2, 0.4, 0.2] },
  { base: [0.7, 0.3, 0.2] },
  { k: [31], e: [2.5], tint: [0.9, 0.7, 0.4] },
  { scale: [6, 6], period: [6], seed: [5], a: [0.25], b: [0.75], octaves: [3], low: [0.1, 0.1, 0.1], high: [0.8, 0.75, 0.7] },
];

const canvas = Object.assign(document.createElement('canvas'), { width: WIDTH, height: HEIGHT });
const gl = canvas.getContext('webgl2', { preserveDrawingBuffer: true }) as WebGL2RenderingContext;

function link(fragment: string): WebGLProgram {
  const program = gl.createProgram() as WebGLProgram;
  for (const [kind, text] of [
    [gl.VERTEX_SHADER, VERTEX],
    [gl.FRAGMENT_SHADER, `#version 300 es\nprecision highp float; precision highp int; in vec2 in_texcoord; out vec4 pixel;\n${fragment}`],
  ] as const) {
    const shader = gl.createShader(kind) as WebGLShader;
    gl.shaderSource(shader, text);
    gl.compileShader(shader);
    if (!gl.getShaderParameter(shader, gl.COMPILE_STATUS)) throw new Error(`${gl.getShaderInfoLog(shader)}\n${text}`);
    gl.attachShader(program, shader);
  }
  gl.linkProgram(program);
  return program;
}
function tell(program: WebGLProgram, values: Readonly<Record<string, readonly number[]>>, prefix: string): void {
  gl.useProgram(program);
  for (const [name, v] of Object.entries(values)) {
    const at = gl.getUniformLocation(program, prefix + name);
    if (!at) continue;
    if (name === 'octaves') gl.uniform1i(at, v[0]);
    else (gl[`uniform${v.length as 1 | 2 | 3}fv`] as (at: WebGLUniformLocation, v: readonly number[]) => void).call(gl, at, v);
  }
}

const demos = DEMO_SHADERS.map(({ document, outputs: wanted, shown, hand, numbers }) => {
  const { far, values } = new MasterMaterials().of(document, NO_CONTEXT);
  const given = Object.fromEntries(wanted.map((name) => [name, far.outputs[name as 'height']]));
  const { outputs, hoisted } = optimise({ ...given, height: far.outputs.height }, { hoist: true });
  const glsl = emitGlsl(outputs, 'live', 0, true);
  const all = glsl.outputs.map((o) => `${o.type} ${o.name};`).join(' ');
  const made = link(
    `${glsl.source}\nvoid main() { ${all} pb_evaluate(${glsl.outputs.map((o) => o.name).join(', ')}); pixel = vec4(${shown}, 1.0); }`,
  );
  tell(made, frameValues(hoisted, values), 'u_');
  const own = link(`${hand}\nvoid main() { pixel = vec4(shade(in_texcoord), 1.0); }`);
  tell(own, numbers, '');
  return { made, own };
});
const written = CASES.map(({ document, hand }, i) => {
  const { far, values } = new MasterMaterials().of(document, NO_CONTEXT);
  const { outputs, hoisted } = optimise({ baseColor: far.outputs.baseColor, height: far.outputs.height }, { hoist: true });
  // All of it in the fragment, as the other.
  const made = link(`${emitGlsl(outputs, 'live', 0, true).source}\nvoid main() { vec3 c; float h; pb_evaluate(c, h); pixel = vec4(c, 1.0); }`);
  tell(made, frameValues(hoisted, values), 'u_');
  const own = link(`${hand}\nvoid main() { pixel = vec4(shade(in_texcoord), 1.0); }`);
  tell(own, HAND[i], '');
  return { made, own };
});

async function frame(program: WebGLProgram): Promise<number> {
  gl.useProgram(program);
  const began = performance.now();
  // Several draws a frame: one is over too soon to be measured.
  for (let i = 0; i < 8; i++) gl.drawArrays(gl.TRIANGLES, 0, 3);
  const fence = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0) as WebGLSync;
  gl.flush();
  while (gl.clientWaitSync(fence, 0, 0) === gl.TIMEOUT_EXPIRED) await new Promise((r) => setTimeout(r, 1));
  return performance.now() - began;
}
const pixels = (): Uint8Array => {
  const out = new Uint8Array(WIDTH * HEIGHT * 4);
  gl.readPixels(0, 0, WIDTH, HEIGHT, gl.RGBA, gl.UNSIGNED_BYTE, out);
  return out;
};

const programs = [...written, ...demos];
async function turn(which: number): Promise<{ made: number[]; hand: number[]; apart: number }> {
  const { made, own } = programs[which];
  gl.viewport(0, 0, WIDTH, HEIGHT);
  await frame(made);
  const a = pixels();
  await frame(own);
  const b = pixels();
  const result = { made: [] as number[], hand: [] as number[], apart: a.reduce((most, v, i) => Math.max(most, Math.abs(v - b[i])), 0) };
  for (let i = 0; i < 5; i++) {
    result.made.push(await frame(made));
    result.hand.push(await frame(own));
  }
  return result;
}

Object.assign(window, { pebbleGraphs: { names: [...CASES, ...DEMO_SHADERS].map((c) => c.name), turn } });
