import type { DrawnAs, GlslProgram, MeshInput } from '@pebble/core';
import {
  EXTRA_ROLES,
  HARMONIC_TERMS,
  LEVELS_PER_UNIT,
  LOBE_LEANS,
  MESH_INPUTS,
  METAL_FROM,
  MIN_ROUGHNESS,
  PIXEL_INPUTS,
  TABLE_SIZE,
  TONE_KNEE,
  inputType,
} from '@pebble/core';
import { SHADOW_GLSL } from './shadow';

/** What the stage shows; the order is the number in the shader. From `vertices` on nothing of the blend is worked out. */
export const CHANNELS = [
  ...(['lit', 'baseColor', 'normal', 'roughness', 'occlusion', 'metallic', 'height', 'weights'] as const),
  ...EXTRA_ROLES,
  ...(['vertices', 'vertexR', 'vertexG', 'vertexB', 'vertexA'] as const),
] as const;
const VERTICES = CHANNELS.indexOf('vertices');
export type StageChannel = (typeof CHANNELS)[number];

/** What a fragment leaves by how it goes over what is behind it; channels are looked at as they are. */
const OVER: Record<DrawnAs, string> = {
  solid: 'colour = vec4(shown, 1.0);',
  'cut-out': 'if (opacity < u_cut) discard; colour = vec4(shown, 1.0);',
  glass: 'colour = vec4(shown, u_channel == 0 ? opacity : 1.0);',
  additive: 'colour = vec4(u_channel == 0 ? shown * opacity : shown, 1.0);',
};

/** Texture units that light takes beside those of the blend. */
export const LIGHT_UNITS = 3;

/** What the stage itself needs of a place, whatever is drawn there. */
const NEEDED: readonly MeshInput[] = ['texcoord', 'normal', 'tangent', 'geomcolor'];
/** What a program is told of a place by the stage. */
const carriedBy = ({ inputs }: GlslProgram): MeshInput[] => MESH_INPUTS.filter((name) => NEEDED.includes(name) || inputs.includes(name));
/** Declarations of that, each behind a word. */
const declared = (word: string, names: readonly MeshInput[]): string => names.map((n) => `${word}${inputType(n)} in_${n};`).join(' ');

/** The vertex shader of a program: what every program needs, and what this one computes per vertex. */
export function stageVertex(program: GlslProgram): string {
  const { vertex } = program;
  const carried = carriedBy(program);
  // Places and coordinates are needed whether or not they are handed on.
  const read = MESH_INPUTS.filter((n) => carried.includes(n) || n === 'position');
  return `#version 300 es
precision highp float;
${read.map((n) => `layout(location = ${PIXEL_INPUTS[n].location}) in ${inputType(n)} a_${n};`).join('\n')}
uniform mat4 u_clip; uniform bool u_level;
${vertex.values.map((v) => `uniform ${v.type} u_${v.name};`).join('\n')}
${declared('out ', carried)} out vec3 v_place;
${vertex.outputs.map((v) => `out ${v.type} ${v.name};`).join('\n')}
void main() {
  ${carried.map((n) => `in_${n} = a_${n};`).join(' ')}
  v_place = u_level ? vec3(a_texcoord.x, 0.0, a_texcoord.y) : a_position;
  gl_Position = u_clip * vec4(v_place, 1.0);
  ${vertex.body.join('\n  ')}
}
`;
}

const f = (v: number) => (Number.isInteger(v) ? `${v}.0` : String(v));
const terms = (band: number) =>
  HARMONIC_TERMS.map((t, i) => (t.band === band ? `u_harmonics[${i}] * (${f(t.scale)} * ${t.glsl})` : ''))
    .filter(Boolean)
    .join(' + ');
/** Light by core's numbers: harmonics, pre-filtered map, table of shading; the key light by the glTF 2.0 BRDF. */
export const LIGHT = `
uniform vec3 u_harmonics[${HARMONIC_TERMS.length}]; uniform sampler2DArray t_light; uniform sampler2DArray t_table; uniform vec2 u_turn; uniform float u_exposure; uniform float u_levels; uniform vec3 u_key; uniform vec3 u_toward; uniform bool u_mapped;
// F0 of what is no metal.
float dielectric = 0.04;
vec3 turned(vec3 d) { return vec3(u_turn.x * d.x + u_turn.y * d.z, d.y, u_turn.x * d.z - u_turn.y * d.x); }
vec3 radiance(vec3 d, float rough) {
  vec2 uv = vec2(atan(d.z, d.x) / 6.28318530718 + 0.5, acos(clamp(d.y, -1.0, 1.0)) / 3.14159265359);
  float at = clamp(rough * ${f(LEVELS_PER_UNIT)}, 0.0, u_levels - 1.0); float l = floor(at);
  return mix(textureLod(t_light, vec3(uv, l), 0.0).rgb, textureLod(t_light, vec3(uv, min(l + 1.0, u_levels - 1.0)), 0.0).rgb, at - l); }
vec3 along(vec3 n, vec3 v, float nv, float sine, float at, float rough) { float s = sin(at) / sine; return radiance(n * (cos(at) + nv * s) - v * s, rough); }
// Of light from all around, what is mirrored back several times; the share that is mirrored at all.
vec3 again(vec3 f0, vec3 single, vec2 split) { float missing = 1.0 - split.x - split.y; vec3 average = f0 + (1.0 - f0) / 21.0; return single * average * missing / (1.0 - average * missing); }
vec3 mirrored(vec3 f0, vec2 split) { vec3 single = f0 * split.x + split.y; return single + again(f0, single, split); }
vec3 environment(vec3 base, float metal, vec2 split, vec3 mirror, vec3 even) {
  vec3 f0 = mix(vec3(dielectric), base, metal); vec3 single = f0 * split.x + split.y;
  vec3 multiple = again(f0, single, split); return single * mirror + (multiple + base * (1.0 - metal) * (1.0 - single - multiple)) * even; }
// Light that enters wraps around: as much comes out over all directions as before.
vec3 keyLight(vec3 base, float metal, float rough, float through, vec3 n, vec3 v, vec3 l) {
  float nl = dot(n, l); float wrap = through * 0.5; float scattered = max(0.0, (nl + wrap) / ((1.0 + wrap) * (1.0 + wrap))); if (scattered <= 0.0) return vec3(0.0); vec3 h = normalize(l + v); float nv = max(dot(n, v), 1e-3); float nh = max(dot(n, h), 0.0); float vh = max(dot(v, h), 0.0);
  float alpha = max(rough, ${f(MIN_ROUGHNESS)}); alpha *= alpha; float a2 = alpha * alpha; float k = (nh * a2 - nh) * nh + 1.0; float D = a2 / (3.14159265359 * k * k);
  float V = 0.5 / max(nl * sqrt(nv * nv * (1.0 - a2) + a2) + nv * sqrt(nl * nl * (1.0 - a2) + a2), 1e-7); vec3 f0 = mix(vec3(dielectric), base, metal); vec3 F = f0 + (1.0 - f0) * pow(1.0 - vh, 5.0);
  return (1.0 - F) * base * (1.0 - metal) * scattered + F * D * V * 3.14159265359 * max(nl, 0.0); }
vec3 lit(vec3 base, vec3 n, float rough, float metal, float open, float through, vec3 v, float arriving) {
  float nv = clamp(dot(n, v), 1e-3, 1.0); vec2 cell = vec2(nv, rough) * ${f((TABLE_SIZE - 1) / TABLE_SIZE)} + ${f(0.5 / TABLE_SIZE)};
  vec4 s0 = texture(t_table, vec3(cell, 0.0)); vec3 tn = turned(n); vec3 tv = turned(v); vec3 q = tn * tn; vec3 even0; vec3 even1; vec3 even2; vec3 mirror;
  { vec3 n = tn; even0 = ${terms(0)}; even1 = ${terms(1)}; even2 = ${terms(2)} + ${terms(4)}; }
  if (metal < ${f(METAL_FROM)}) mirror = radiance(normalize(mix(tn, reflect(-tv, tn), 1.0 - smoothstep(${LOBE_LEANS.map(f).join(', ')}, rough))), rough);
  else {
    // Albedo a and b, even light, ratio; spread, inner, outer, nearest; near, furthest, bands of the even light.
    vec4 s1 = texture(t_table, vec3(cell, 1.0)); vec4 s2 = texture(t_table, vec3(cell, 2.0)); vec3 even3; { vec3 n = tn; even3 = ${terms(3)}; }
    float sine = max(1e-4, sqrt(1.0 - nv * nv)); float angle = s0.w * acos(nv);
    mirror = s0.z * even0 + s2.z * even1 + s2.w * even2 + (s0.z - s2.w) * even3; vec4 shares = vec4(s1.w, s2.x, 1.0 - s0.z - s1.w - s2.x - s2.y, s2.y);
    // In a loop, so that it is compiled once.
    for (int i = 0; i < 4; i++) mirror += shares[i] * along(tn, tv, nv, sine, angle + (float(i) - 1.5) * s1.x, i == 0 || i == 3 ? s1.z : s1.y); }
  vec3 sky = environment(base, metal, s0.xy, max(vec3(0.0), mirror), max(vec3(0.0), even0 + even1 + even2)) * open;
  return sky + keyLight(base, metal, rough, through, n, v, u_toward) * u_key * arriving * (0.5 + 0.5 * open); }
vec3 tone(vec3 x) { vec3 s = ${f(TONE_KNEE)} + ${f(1 - TONE_KNEE)} * (1.0 - exp(-(x - ${f(TONE_KNEE)}) / ${f(1 - TONE_KNEE)})); return mix(x, s, vec3(greaterThan(x, vec3(${f(TONE_KNEE)})))); }
vec3 encode(vec3 x) { x = clamp(x, 0.0, 1.0); return mix(x * 12.92, 1.055 * pow(max(x, vec3(1e-6)), vec3(1.0 / 2.4)) - 0.055, vec3(greaterThan(x, vec3(0.0031308)))); }
`;

/** A coat of varnish: F0 and roughness of glTF's KHR_materials_clearcoat at an index of refraction of 1.5, nearly smooth. */
const COAT = { f0: 0.04, rough: 0.05 };

/**
 * What a place shows beside its lit face, as far as the program gives it, each part by itself so that it costs nothing elsewhere:
 * what shines through a thin wall (KHR_materials_transmission: instead of what is scattered back), a clear coat over all of it, and
 * light of its own.
 */
function beside(gives: (name: string) => boolean): { base: string; over: string } {
  const through = gives('transmission');
  const coated = gives('clearcoat');
  return {
    // Metals let nothing through.
    base: through ? 'baseColor * (1.0 - transmission * (1.0 - metallic))' : 'baseColor',
    over: [
      ...(through
        ? [
            `vec2 pb_split = texture(t_table, vec3(vec2(clamp(dot(world, eyeward), 1e-3, 1.0), roughness) * ${f((TABLE_SIZE - 1) / TABLE_SIZE)} + ${f(0.5 / TABLE_SIZE)}, 0.0)).xy;`,
            'shown += transmission * (1.0 - metallic) * (1.0 - mirrored(vec3(dielectric), pb_split)) * baseColor * radiance(turned(-eyeward), roughness);',
          ]
        : []),
      ...(coated
        ? [
            `float pb_facing = clamp(dot(n, eyeward), 1e-3, 1.0); float pb_coat = clearcoat * (${f(COAT.f0)} + ${f(1 - COAT.f0)} * pow(1.0 - pb_facing, 5.0)); shown = shown * (1.0 - pb_coat) + pb_coat * occlusion * radiance(turned(reflect(-eyeward, n)), ${f(COAT.rough)});`,
          ]
        : []),
      ...(gives('emissive') ? ['shown += emissive;'] : []),
    ].join(' '),
  };
}

/** The key light counts in part: its sky holds some of it already. */
export const KEY_SHARE = 0.6;

/** How often parallax looks again; each costs what the height costs. */
export const PARALLAX_STEPS = 2;
/** Cosine of the angle to the normal at which a line of sight grazes: flatter ones move a place no farther. */
export const MIN_SLOPE = 0.3;

/** A vertex shader without vertices: one triangle over the whole pane, for what looks its places up. */
export const PANE_VERTEX = `#version 300 es
void main() { gl_Position = vec4(vec2(gl_VertexID & 1, gl_VertexID >> 1) * 4.0 - 1.0, 0.0, 1.0); }
`;

/**
 * The stage's fragment shader around a program with outputs baseColor, normal, roughness, occlusion, metallic, height, specular, identity.
 * @param drawn how it goes over what is behind it
 * @param seen whether what vertices carry is looked up by the program's `bool pb_seen()`, which says whether there is something
 */
export function stageFragment(program: GlslProgram, parallax = false, drawn: DrawnAs = 'solid', seen = false): string {
  const names = program.outputs.map((o) => o.name).join(', ');
  const gives = (name: string) => program.outputs.some((o) => o.name === name);
  const { base, over } = beside(gives);
  // What no mesh carries: the flat is looked at from straight above, as what is baked is.
  const looks = program.inputs.includes('viewdirection');
  const measures = program.inputs.includes('viewdistance');
  // With parallax the place is looked for: where the surface, as high as it is there, meets the line of sight.
  const place = parallax
    ? `vec2 pb_given() { return in_texcoord; }
vec2 pb_place;
#define in_texcoord pb_place`
    : '';
  const evaluate = parallax
    ? `vec3 sight = normalize(u_eye - v_place); vec3 seen = vec3(dot(sight, t), dot(sight, b), dot(sight, n));
  vec2 lean = vec2(seen.x, -seen.y) / max(seen.z, ${f(MIN_SLOPE)}) * u_per_metre; pb_place = pb_given();
  for (int i = 0; i < ${PARALLAX_STEPS}; i++) { pb_height(height); pb_place = pb_given() + lean * height; }
  pb_evaluate(${names});`
    : `pb_evaluate(${names});`;
  return `#version 300 es
precision highp float; precision highp int; precision highp sampler2DArray; precision highp sampler2D;
${declared(seen ? '' : 'in ', carriedBy(program))} ${seen ? '' : 'in '}vec3 v_place;
// The flat view knows the places of the specimen, and is lit and seen as a plane.
uniform bool u_level; uniform int u_channel; uniform vec3 u_eye; uniform vec2 u_bounds; uniform float u_per_metre; uniform float u_cut;
out vec4 colour;
${looks ? 'vec3 in_viewdirection;' : ''} ${measures ? 'float in_viewdistance;' : ''}
${place}
${program.source}
${LIGHT}
${SHADOW_GLSL}
void main() {
  ${seen ? 'if (!pb_seen()) discard;' : ''}
  if (u_channel >= ${VERTICES}) { colour = vec4(u_channel == ${VERTICES} ? in_geomcolor.rgb : vec3(in_geomcolor[u_channel - ${VERTICES + 1}]), 1.0); return; }
  vec3 baseColor; vec3 normal; float roughness; float occlusion; float metallic; float height; float specular; vec3 identity; vec3 emissive = vec3(0.0); float opacity = 1.0; float transmission = 0.0; float subsurface = 0.0; float clearcoat = 0.0; float cavity = 1.0;
  vec3 n = u_level ? vec3(0.0, 1.0, 0.0) : normalize(in_normal); vec3 along = u_level ? vec3(1.0, 0.0, 0.0) : in_tangent.xyz; vec3 t = normalize(along - n * dot(n, along)); vec3 b = cross(n, t) * (u_level ? 1.0 : in_tangent.w);${drawn === 'solid' ? '' : '\n  if (!u_level && !gl_FrontFacing) n = -n;'}
  ${looks ? 'in_viewdirection = u_level ? vec3(0.0, 1.0, 0.0) : normalize(u_eye - v_place);' : ''}
  ${measures ? 'in_viewdistance = u_level ? 1.0 : distance(u_eye, v_place);' : ''}
  ${evaluate}
  // What lies in a crevice mirrors nothing that comes head-on.
  dielectric = 0.08 * specular${gives('cavity') ? ' * cavity' : ''};
  vec3 world = normalize(t * normal.x + b * normal.y + n * normal.z);
  vec3 shown;
  // Curves are long; what goes through one waits for it.
  if (u_channel == 0) { vec3 eyeward = normalize(u_eye - v_place); shown = lit(${base}, world, roughness, metallic, occlusion, subsurface, eyeward, arrives(v_place, n)); ${over} shown *= u_exposure; if (u_mapped) shown = tone(shown); }
  else if (u_channel == 1) shown = baseColor;
  else if (u_channel == 2) shown = normal * 0.5 + 0.5;
  else if (u_channel == 3) shown = vec3(roughness);
  else if (u_channel == 4) shown = vec3(occlusion);
  else if (u_channel == 5) shown = vec3(metallic);
  else if (u_channel == 6) shown = vec3(clamp((height - u_bounds.x) / (u_bounds.y - u_bounds.x), 0.0, 1.0));
  else if (u_channel == 7) shown = identity;
${EXTRA_ROLES.map((name) => `  else if (u_channel == ${CHANNELS.indexOf(name)}) shown = vec3(${name});`).join('\n')}
  if (u_channel < 2 || u_channel == 7 || u_channel == ${CHANNELS.indexOf('emissive')}) shown = encode(shown);
  if (u_channel == 7) shown *= 0.72 + 0.28 * occlusion * clamp(0.6 + dot(shown, vec3(0.3, 0.5, 0.2)), 0.0, 1.0);
  ${OVER[drawn]}
}
`;
}
