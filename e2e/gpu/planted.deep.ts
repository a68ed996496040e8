// Shaders made wrong one by one, on the graphics processor alone: each has to be noticed.
import type { Browser, Page } from 'playwright-core';
import { launch } from '../browser';
import type { BentCase } from './bent-cases';
import { openGpuPage } from './open-page';
import { disagreements } from './verdict';

declare const pebble: { bent(random: number): Promise<BentCase[]> };

/** What is found in the sources of shaders, and what takes its place. */
const MISTAKES: readonly (readonly [string, RegExp, string])[] = [
  ['green of normals is flipped', /(o_normal = )(v\d+);/g, '$1vec3($2.x, -$2.y, $2.z);'],
  ['positions are doubled', /in_position = a_position;/g, 'in_position = a_position * 2.0;'],
  [
    'curvature and part are swapped',
    /in_curvature = a_curvature; in_occlusion = a_occlusion; in_part = a_part;/g,
    'in_curvature = a_part; in_occlusion = a_occlusion; in_part = a_curvature;',
  ],
  ['coordinate sets are swapped', /\bin_uv1 = a_uv1; in_uv2 = a_uv2;/g, 'in_uv1 = a_uv2; in_uv2 = a_uv1;'],
  ['the first ID picture is always taken', /pb_nearest\(t_id, ([^;]+), \d+\);/g, 'pb_nearest(t_id, $1, 0);'],
  ['the first mask is always taken', /pb_fetch\(t_mask, ([^,]+), \d+,/g, 'pb_fetch(t_mask, $1, 0,'],
  ['the floor of softness is tenfold', /0\.0009765625/g, '0.009765625'],
  ['offsets of layers are dropped', /uniform vec2 u_(l\d+)_moved;/g, 'const vec2 u_$1_moved = vec2(0.0);'],
  ['fine heights are nothing', /vec4 (f\d+) = pb_fetch_coarse\(t_height, (p_\d+), (\d+), [^;]+;/g, 'vec4 $1 = pb_fetch(t_height, $2, $3, 0.0);'],
  ['curvature has the other sign', /in_curvature = a_curvature;/g, 'in_curvature = -a_curvature;'],
  ['occlusion is turned over', /in_occlusion = a_occlusion;/g, 'in_occlusion = 1.0 - a_occlusion;'],
  ['parts are one too high', /in_part = a_part;/g, 'in_part = a_part + 1.0;'],
  ['normals are those of a plane', /in_normal = a_normal;/g, 'in_normal = vec3(0.0, 1.0, 0.0);'],
  ['red and blue of vertices are swapped', /in_geomcolor = a_geomcolor;/g, 'in_geomcolor = a_geomcolor.bgra;'],
  ['alpha of vertices is full', /in_geomcolor = a_geomcolor;/g, 'in_geomcolor = vec4(a_geomcolor.rgb, 1.0);'],
  ['coverage is not bent by the bias', /(float pb_bend_\w+\([^)]*\) \{)[^}]*\}/g, '$1 return a0; }'],
  // The last but one of its steps makes the share smooth, of which the fifth is straight.
  ['ramps are straight', /(float pb_ramp_\w+\([^}]*\? t\d+ : )t\d+;(\s+return)/g, '$1t4;$2'],
  ['seams do not close in on light', /(float pb_seamshade_\w+\([^)]*\) \{)[^}]*\}/g, '$1 return a0; }'],
  [
    'normals are mixed as they are',
    /vec3 pb_mixnormal\([^}]*\}/g,
    'vec3 pb_mixnormal(vec3 a, vec3 b, float t) { return normalize(a + (b - a) * t); }',
  ],
  ['the strength of normals counts for nothing', /pb_unit\(vec3\(xy \* k, z\)\)/g, 'pb_unit(vec3(xy, z))'],
  ['follow is left out', /uniform float u_(l\d+)_follow;/g, 'const float u_$1_follow = 0.0;'],
  ['lift is left out', /uniform float u_(l\d+)_lift;/g, 'const float u_$1_lift = 0.0;'],
  ['strength is full', /uniform float u_(l\d+)_strength;/g, 'const float u_$1_strength = 1.0;'],
  ['pictures are not repeated', /vec2\(u_l\d+_g\d+c\d+_repeats\)/g, 'vec2(1.0)'],
  ['the first surface is always taken', /pb_fetch\(t_colour, (p_\d+), \d+,/g, 'pb_fetch(t_colour, $1, 0,'],
  ['colours are shown as they are computed', /if \(u_channel < 2 \|\| u_channel == 7\)/g, 'if (u_channel < 1 || u_channel == 7)'],
  ['the contest is turned round', /(float pb_crossover_\w+\([^)]*\) \{\s*float t\d+ =) a0 - a1;/g, '$1 a1 - a0;'],
  ['mips are a level too small', /return texture\(t, vec3\(uv, float\(slot\)\)\);/g, 'return texture(t, vec3(uv, float(slot)), 1.0);'],
];

describe('a shader with a mistake', () => {
  let browser: Browser;
  let page: Page;
  let close = () => undefined as void;
  beforeAll(async () => {
    browser = await launch();
    ({ page, close } = await openGpuPage(browser));
    await page.evaluate(() => {
      const kind = WebGL2RenderingContext.prototype as { shaderSource(shader: WebGLShader, source: string): void };
      const given = kind.shaderSource;
      const planted = window as unknown as { mistake: [string, string, string] | null; times: number };
      kind.shaderSource = function (this: WebGL2RenderingContext, shader, source) {
        const wrong = planted.mistake ? source.replace(new RegExp(planted.mistake[0], planted.mistake[1]), planted.mistake[2]) : source;
        if (wrong !== source) planted.times++;
        given.call(this, shader, wrong);
      };
    });
  });
  afterAll(async () => {
    close();
    await browser.close();
  });
  const caseOf = async (mistake: readonly [string, string, string] | null) => {
    await page.evaluate((m) => Object.assign(window, { mistake: m, times: 0 }), mistake);
    const cases = await page.evaluate(() => pebble.bent(0));
    return { cases, times: await page.evaluate(() => (window as unknown as { times: number }).times) };
  };

  it('is not seen where there is none', async () => expect(disagreements((await caseOf(null)).cases)).toEqual([]));
  for (const [name, found, instead] of MISTAKES)
    it(`is noticed: ${name}`, async () => {
      const { cases, times } = await caseOf([found.source, found.flags, instead]);
      expect(times).withContext('The mistake was not made: what it changes is written otherwise by now').toBeGreaterThan(0);
      expect(disagreements(cases).length).toBeGreaterThan(0);
    });
});
