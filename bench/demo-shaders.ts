// The masters of Orrin Ridge that need no map, and the same written by hand with care.
import type { MasterDocument } from '@pebble/core';
import { linearOf } from '@pebble/core';
import { EXAMPLE_MASTERS } from '@pebble/usecases';

/** What both draw: an expression of the outputs. */
export interface DemoShader {
  name: string;
  document: MasterDocument;
  /** Outputs that count, and how they are seen. */
  outputs: readonly string[];
  shown: string;
  hand: string;
  numbers: Record<string, number[]>;
}
const held = (d: MasterDocument): Record<string, number[]> =>
  Object.fromEntries(
    Object.entries(d.parameters).flatMap(([id, { holds }]) =>
      holds.kind === 'number' ? [[id, holds.value]] : holds.kind === 'colour' ? [[id, linearOf(holds.value)]] : [],
    ),
  );
const SECONDS = 0;
const NOISE = `uvec3 pcg3d(uvec3 v) { v = v * 1664525u + 1013904223u; v.x += v.y * v.z; v.y += v.z * v.x; v.z += v.x * v.y; v ^= v >> 16u; v.x += v.y * v.z; v.y += v.z * v.x; v.z += v.x * v.y; return v; }
vec2 corner(vec2 c, float p, uint s) { c -= p * floor(c / p); return vec2(pcg3d(uvec3(uint(c.x), uint(c.y), s)).xy >> 8u) / 16777216.0; }
vec2 noises(vec2 p, float period, uint s) { vec2 c = floor(p); vec2 f = p - c; f = f * f * (3.0 - 2.0 * f);
  return mix(mix(corner(c, period, s), corner(c + vec2(1, 0), period, s), f.x), mix(corner(c + vec2(0, 1), period, s), corner(c + vec2(1, 1), period, s), f.x), f.y); }
float noise(vec2 p, float period, uint s) { return noises(p, period, s).x; }
float fractal(vec2 p, float q, uint s, int octaves) { float sum = 0.0, w = 0.5, t = 0.0; for (int i = 0; i < octaves; i++) { sum += w * noise(p, q, s + uint(i)); t += w; w *= 0.5; p *= 2.0; q *= 2.0; } return sum / t; }`;

export const DEMO_SHADERS: DemoShader[] = [
  {
    name: 'steam swirl',
    document: EXAMPLE_MASTERS['steam-swirl'],
    outputs: ['emissive', 'opacity'],
    shown: 'emissive * opacity',
    numbers: { ...held(EXAMPLE_MASTERS['steam-swirl']), time: [SECONDS] },
    hand: `${NOISE} uniform vec3 tint; uniform float density, twist, spin, flow, bend, width, time;
vec3 shade(vec2 uv) { vec2 p = uv + (noises(uv * 4.0, 4.0, 31u) - 0.5) * bend - 0.5; float far = 2.0 * length(p);
  vec2 w = vec2(atan(p.y, p.x) / 3.14159265 + fract(spin * time) + far * twist, far + fract(flow * time));
  float near = 1.0 - smoothstep(0.06, width, distance(uv, vec2(0.5)));
  return tint * (0.9 * density * near * smoothstep(0.38, 0.8, fractal(w * 4.0, 4.0, 11u, 2))); }`,
  },
  {
    name: 'cistern gauge',
    document: EXAMPLE_MASTERS['cistern-gauge'],
    outputs: ['baseColor', 'emissive', 'opacity'],
    shown: '(baseColor + emissive) * opacity',
    numbers: held(EXAMPLE_MASTERS['cistern-gauge']),
    hand: `${NOISE} uniform float level, steps, shine; uniform vec3 full, empty, plate;
vec3 shade(vec2 uv) { vec2 p = uv - 0.5; float far = 2.0 * length(p); float at = fract(atan(p.y, p.x) / 6.2831853 + 0.75) * steps;
  float mask = step(0.58, far) * step(far, 0.84) * step(abs(fract(at) - 0.5), 0.4) * (floor(at) + 1.0) / steps;
  float k = floor(mask * steps + 0.5); float lit = k < 1.0 ? 0.0 : clamp(level * steps - k + 1.0, 0.0, 1.0);
  vec3 metal = plate * (0.85 + 0.3 * noise(uv * vec2(6.0, 160.0), 160.0, 3u));
  return (mix(metal, mix(empty, full, lit), step(0.001, mask)) + full * (shine * lit)) * step(far, 0.96); }`,
  },
  {
    name: 'beeswax blocks',
    document: EXAMPLE_MASTERS['beeswax-blocks'],
    outputs: ['baseColor', 'roughness', 'subsurface', 'normal'],
    shown: 'baseColor * 0.5 + vec3(subsurface, roughness, 0.0) * 0.25 + normal * 0.1',
    numbers: held(EXAMPLE_MASTERS['beeswax-blocks']),
    hand: `${NOISE} uniform vec3 wax, deep; uniform float cloud, rough, through, thick;
float rim(vec2 uv) { vec2 p = abs(fract(uv * 2.0) - 0.5); return smoothstep(0.44, 0.475, max(p.x, p.y)); }
vec3 shade(vec2 uv) { float r = rim(uv); vec3 colour = mix(mix(wax, deep, fractal(uv * 5.0, 5.0, 7u, 2) * cloud), vec3(0.05, 0.035, 0.025), r);
  const float e = 1.0 / 1024.0; float k = 0.012 * 0.5 * 512.0 / 0.4;
  vec2 slope = vec2(rim(uv - vec2(e, 0)) - rim(uv + vec2(e, 0)), rim(uv - vec2(0, e)) - rim(uv + vec2(0, e))) * k;
  float z = inversesqrt(dot(slope, slope) + 1.0); vec3 n = normalize(vec3(vec2(-slope.x, slope.y) * z, max(z, 0.05)));
  return colour * 0.5 + vec3((1.0 - r) * through * (1.0 - thick), mix(rough, 0.8, r), 0.0) * 0.25 + n * 0.1; }`,
  },
  {
    name: 'leaf scatter',
    document: EXAMPLE_MASTERS['leaf-scatter'],
    outputs: ['baseColor', 'roughness', 'height'],
    shown: 'baseColor + vec3(roughness, height * 50.0, 0.0) * 0.25',
    numbers: held(EXAMPLE_MASTERS['leaf-scatter']),
    hand: `${NOISE} uniform vec3 first, second; uniform float cells, keep, size, thick;
vec3 shade(vec2 uv) { vec2 at = uv * cells; vec2 base = floor(at - 0.5); vec2 q = at - base; float shown = 0.0, own = 0.0, cover = 0.0; float long_ = min(size, 0.75 * 1.41421356);
  for (int i = 0; i < 4; i++) { vec2 step_ = vec2(i & 1, i >> 1); vec2 c = base + step_; c -= cells * floor(c / cells); uvec3 w = pcg3d(uvec3(uint(c.x), uint(c.y), 4u));
    vec3 r = vec3(w >> 8u) / 16777216.0; float low = float(((w.x ^ w.z) << 16u) >> 8u) / 16777216.0; if (fract(r.x * 4096.0) >= keep) continue;
    float a = 3.14159265 * (2.0 * r.z - 1.0); vec2 d = (q - step_ - 0.5 - 0.5 * (r.xy - 0.5)) / (long_ * (1.0 - 0.35 * low)); float cs = cos(a), sn = sin(a);
    vec2 s = vec2(cs * d.x + sn * d.y, cs * d.y - sn * d.x) + 0.5; if (min(s.x, s.y) < 0.0 || max(s.x, s.y) > 1.0) continue;
    float l = s.x * 2.0 - 1.0; float across = abs(s.y * 2.0 - 1.0) / max(max(0.0, 1.0 - l * l) * (0.55 - 0.2 * s.x), 0.001); if (across > 1.0) continue;
    shown = 0.72 + 0.28 * clamp(across * 9.0 - 0.3, 0.0, 1.0) * smoothstep(0.04, 0.2, abs(fract((s.x + across * 0.12) * 7.0) - 0.5)); own = r.z; cover = 1.0; }
  vec3 colour = mix(vec3(0.5), mix(first, second, own) * shown, cover); return colour + vec3(mix(0.8, 0.55, cover), cover * thick * 50.0, 0.0) * 0.25; }`,
  },
];
