import { topological } from './builder';
import { laneFunction } from './glsl-lanes';
import type { LaneDefinition } from './lanes';
import type { VertexStage } from './vertex-stage';
import { NO_VERTEX_STAGE, vertexStage } from './vertex-stage';
import type { Unit } from './pictures';
import { footprintOf } from './domain';
import { PACKING, SRGB_UNITS, channelOf, levelBy, liveInputs, slotOf } from './pictures';
import { operation, readsCoarse, readsMap, readsSize } from './registry';
import type { DagNode, ValueType } from './types';
import { CompileError } from './types';

/** `exact` filters by itself from explicit levels and decodes colour through a table; `live` leaves both to the hardware. */
export type GlslMode = 'exact' | 'live';

/** Texture units that WebGL2 promises to a fragment shader. */
export const MAX_UNITS = 16;

export interface GlslProgram {
  /**
   * Functions, uniforms and `void pb_evaluate(out …)`, for a moved place `void pb_height(out …)` too; wants the `in_…` pixel
   * inputs declared before it.
   */
  source: string;
  outputs: { name: string; type: ValueType }[];
  values: { name: string; type: ValueType }[];
  units: Unit[];
  inputs: string[];
  /** Texture fetches of one evaluation. */
  fetches: number;
  /** What the vertex shader computes for this program. */
  vertex: VertexStage;
}

/** IDs are looked up, not filtered: between two of them lies a third. */
const NEAREST = `vec4 pb_nearest(sampler2DArray t, vec2 uv, int slot) { ivec2 size = textureSize(t, 0).xy; return texelFetch(t, ivec3(min(ivec2((uv - floor(uv)) * vec2(size)), size - 1), slot), 0); }`;

const FETCH: Record<GlslMode, string> = {
  live: `vec4 pb_fetch(sampler2DArray t, vec2 uv, int slot) { return texture(t, vec3(uv, float(slot))); }
vec4 pb_fetch_level(sampler2DArray t, vec2 uv, int slot, float level) { return textureLod(t, vec3(uv, float(slot)), level); }
vec4 pb_fetch_slopes(sampler2DArray t, vec2 uv, int slot, vec2 dx, vec2 dy) { return textureGrad(t, vec3(uv, float(slot)), dx, dy); }
vec4 pb_fetch_coarse(sampler2DArray t, vec2 uv, int slot, vec2 dx, vec2 dy, float share) {
  dx *= max(1.0, share / max(length(dx), 1e-9)); dy *= max(1.0, share / max(length(dy), 1e-9)); return textureGrad(t, vec3(uv, float(slot)), dx, dy); }`,
  exact: `vec4 pb_texel(sampler2DArray t, ivec2 p, int slot, int l, bool decode) { vec4 v = texelFetch(t, ivec3(p, slot), l); if (decode) { ivec3 k = ivec3(v.rgb * 255.0 + 0.5); v.rgb = vec3(texelFetch(t_curve, ivec2(k.r, 0), 0).r, texelFetch(t_curve, ivec2(k.g, 0), 0).r, texelFetch(t_curve, ivec2(k.b, 0), 0).r); } return v; }
vec4 pb_bilinear(sampler2DArray t, vec2 uv, int slot, int l, bool decode) {
  ivec2 size = textureSize(t, l).xy; vec2 p = (uv - floor(uv)) * vec2(size) - 0.5; vec2 q = floor(p); vec2 f = p - q;
  ivec2 a = ivec2(q); a += size * ivec2(lessThan(a, ivec2(0))); a -= size * ivec2(greaterThanEqual(a, size)); ivec2 b = a + 1; b *= ivec2(lessThan(b, size));
  vec4 v00 = pb_texel(t, a, slot, l, decode); vec4 v10 = pb_texel(t, ivec2(b.x, a.y), slot, l, decode);
  vec4 v01 = pb_texel(t, ivec2(a.x, b.y), slot, l, decode); vec4 v11 = pb_texel(t, b, slot, l, decode);
  vec4 top = v00 + (v10 - v00) * f.x; vec4 low = v01 + (v11 - v01) * f.x; return top + (low - top) * f.y; }
vec4 pb_fetch(sampler2DArray t, vec2 uv, int slot, float level, int last, bool decode) {
  level = min(level, float(last)); int l = int(floor(level)); float f = level - float(l);
  vec4 v = pb_bilinear(t, uv, slot, l, decode); if (f <= 0.0) return v;
  vec4 w = pb_bilinear(t, uv, slot, l + 1, decode); return v + (w - v) * f; }`,
};

/**
 * `moved` is for a shader that looks for its texture coordinate: everything stays in the fragment, and `pb_height`
 * evaluates the output `height` alone.
 * @param trace told each line of `pb_evaluate` with the node that it works out
 * @throws CompileError `too-many-units` when the program and what the stage needs beside it pass 16 texture units.
 */
export function emitGlsl(
  outputs: Readonly<Record<string, DagNode>>,
  mode: GlslMode,
  unitsBeside = 0,
  moved = false,
  trace: (line: string, node: DagNode) => void = () => undefined,
): GlslProgram {
  // Live shaders leave levels to the hardware where they can, so what only computes levels is not emitted.
  const read = (node: DagNode): readonly DagNode[] => (mode === 'live' ? liveInputs(node) : readsMap(node) ? node.args.slice(0, 2) : node.args);
  const vertex = mode === 'live' && !moved ? vertexStage(Object.values(outputs), read) : NO_VERTEX_STAGE;
  const functions = new Set<string>();
  const values = new Map<string, ValueType>();
  const inputs = new Set<string>();
  const units = new Set<Unit>();

  /** A function that works out some outputs. */
  function emit(called: string, results: Readonly<Record<string, DagNode>>): { text: string; fetches: number } {
    const fetched = new Map<string, string>();
    const name = new Map<DagNode, string>();
    const lines: string[] = [];
    const say = (node: DagNode, line: string): void => {
      lines.push(line);
      if (called === 'pb_evaluate') trace(line, node);
    };
    function fetchOnce(node: DagNode, given: string[]): string {
      const { unit } = PACKING[channelOf(node)];
      units.add(unit);
      const slot = slotOf(node);
      const [uv, ...rest] = given;
      const key = `${unit},${slot},${given.join()}`;
      let variable = fetched.get(key);
      if (!variable) {
        variable = `f${fetched.size}`;
        fetched.set(key, variable);
        const called = (name: string, more: readonly (string | number | boolean)[]) => `${name}(${[`t_${unit}`, uv, slot, ...more].join(', ')})`;
        say(
          node,
          `vec4 ${variable} = ${unit === 'id' ? called('pb_nearest', []) : mode === 'exact' ? called('pb_fetch', [...rest, `u_last_${unit}`, SRGB_UNITS.has(unit)]) : live(node, uv, rest, called)};`,
        );
      }
      return variable;
    }
    for (const node of topological(Object.values(results), (n) => (vertex.names.has(n) ? [] : read(n)))) {
      const interpolated = vertex.names.get(node);
      if (interpolated) {
        name.set(node, interpolated);
        continue;
      }
      const op = operation(node.op);
      op.functions?.forEach((f) => functions.add(f));
      if (op.leaf) {
        const moved = mode === 'live' ? footprintOf(String(node.attrs['name'])) : undefined;
        if (op.leaf === 'value' && !moved) values.set(String(node.attrs['name']), node.type);
        if (op.leaf === 'pixel') inputs.add(node.op);
        if (moved) inputs.add(moved.of);
        name.set(node, moved ? `dFd${moved.axis}(in_${moved.of})` : expression(node, []));
        continue;
      }
      let args = read(node).map((a) => name.get(a) as string);
      if (readsSize(node)) units.add(PACKING[channelOf(node)].unit);
      if (readsMap(node)) args = [fetchOnce(node, args)];
      const variable = `v${lines.length}`;
      say(node, `${node.type} ${variable} = ${expression(node, args)};`);
      name.set(node, variable);
    }
    const parameters = Object.entries(results).map(([n, node]) => `out ${node.type} o_${n}`);
    const body = [...lines, ...Object.entries(results).map(([n, node]) => `o_${n} = ${name.get(node)};`)];
    return { text: `void ${called}(${parameters.join(', ')}) {\n  ${body.join('\n  ')}\n}\n`, fetches: fetched.size };
  }
  /** How a live shader looks something up. */
  function live(node: DagNode, uv: string, rest: readonly string[], called: (name: string, more: readonly string[]) => string): string {
    const by = levelBy(node);
    if (readsCoarse(node)) return called('pb_fetch_coarse', by === 'slopes' ? rest : [`dFdx(${uv})`, `dFdy(${uv})`, rest[rest.length - 1]]);
    return called({ neighbours: 'pb_fetch', slopes: 'pb_fetch_slopes', level: 'pb_fetch_level' }[by], rest);
  }
  function expression(node: DagNode, args: string[]): string {
    const { glsl, live, lanes, name: called } = operation(node.op);
    if (live && mode === 'live') return live(args, node);
    if (glsl) return glsl(args, node);
    const made = laneFunction(called, lanes as LaneDefinition, node);
    functions.add(made.text);
    return `${made.name}(${args.join(', ')})`;
  }
  const whole = emit('pb_evaluate', outputs);
  const high = moved ? emit('pb_height', { height: outputs['height'] }).text : '';
  const unitList = [...units];
  const total = unitList.length + unitsBeside + (mode === 'exact' ? 1 : 0);
  if (total > MAX_UNITS) throw new CompileError('too-many-units', `This needs ${total} texture units; ${MAX_UNITS} are safe everywhere`, 'image');
  vertex.values.forEach((v) => values.set(v.name, v.type));
  const declared = [
    ...vertex.outputs.map((v) => `in ${v.type} ${v.name};`),
    ...unitList.map((u) => `uniform sampler2DArray t_${u};${mode === 'exact' ? ` uniform int u_last_${u};` : ''}`),
    ...(mode === 'exact' && unitList.length ? ['uniform sampler2D t_curve;'] : []),
    ...[...values].map(([n, t]) => `uniform ${t} u_${n};`),
  ];
  const source = `${declared.join('\n')}\n${unitList.length ? `${FETCH[mode]}\n${NEAREST}` : ''}\n${[...functions].join('\n')}\n${whole.text}${high}`;
  return {
    source,
    outputs: Object.entries(outputs).map(([n, node]) => ({ name: n, type: node.type })),
    values: [...values].map(([n, type]) => ({ name: n, type })),
    units: unitList,
    inputs: [...inputs],
    fetches: whole.fetches,
    vertex,
  };
}
