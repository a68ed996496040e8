// Runs in the browser: roles beside the usual six in exact mode, and blocks as hardware reads them.
import type { BlendSurface, DagNode, Image, MapSet, PackedSet } from '@pebble/core';
import {
  EXTRA_ROLES,
  decodeBc7,
  evaluate,
  flatDomain,
  footprintValues,
  frameValues,
  generateSurface,
  lowerBlend,
  makeBlend,
  makeCue,
  makeLayer,
  makeRandom,
  makeStack,
  optimise,
  sourcesOfPacked,
  stackValues,
} from '@pebble/core';
import { evaluateExact, packMask, packSurface } from '@pebble/stage';
import type { Agreement } from './agreement.js';
import { compare, gl } from './agreement.js';
import { stageOutputs } from './stage-page.js';

/** Blocks of BC7 at random, of every mode, as the browser's own decoder and as the core reads them: how many samples differ. */
export async function bc7(): Promise<{ modes: number; differ: number; read: number } | null> {
  const context = gl();
  const format = (context.getExtension('EXT_texture_compression_bptc') as { COMPRESSED_RGBA_BPTC_UNORM_EXT: number } | null)
    ?.COMPRESSED_RGBA_BPTC_UNORM_EXT;
  if (!format) return null;
  const [across, down] = [64, 64];
  const next = makeRandom(77);
  const blocks = new Uint8Array(across * down * 16).map(() => Math.floor(next() * 256));
  // The lowest bit that is set says the mode: as many blocks of each.
  for (let b = 0; b < across * down; b++) blocks[b * 16] = (blocks[b * 16] & ~((2 << (b % 8)) - 1) & 255) | (1 << (b % 8));
  const texture = context.createTexture();
  context.bindTexture(context.TEXTURE_2D, texture);
  context.compressedTexImage2D(context.TEXTURE_2D, 0, format, across * 4, down * 4, 0, blocks);
  context.texParameteri(context.TEXTURE_2D, context.TEXTURE_MIN_FILTER, context.NEAREST);
  context.texParameteri(context.TEXTURE_2D, context.TEXTURE_MAG_FILTER, context.NEAREST);
  const shader = (type: number, source: string) => {
    const made = context.createShader(type) as WebGLShader;
    context.shaderSource(made, source);
    context.compileShader(made);
    return made;
  };
  const program = context.createProgram() as WebGLProgram;
  context.attachShader(
    program,
    shader(
      context.VERTEX_SHADER,
      '#version 300 es\nvoid main() { gl_Position = vec4(vec2(gl_VertexID & 1, gl_VertexID >> 1) * 4.0 - 1.0, 0.0, 1.0); }',
    ),
  );
  context.attachShader(
    program,
    shader(
      context.FRAGMENT_SHADER,
      '#version 300 es\nprecision highp float; uniform sampler2D t; out vec4 c; void main() { c = texelFetch(t, ivec2(gl_FragCoord.xy), 0); }',
    ),
  );
  context.linkProgram(program);
  const target = context.createTexture();
  context.bindTexture(context.TEXTURE_2D, target);
  context.texStorage2D(context.TEXTURE_2D, 1, context.RGBA8, across * 4, down * 4);
  const frame = context.createFramebuffer();
  context.bindFramebuffer(context.FRAMEBUFFER, frame);
  context.framebufferTexture2D(context.FRAMEBUFFER, context.COLOR_ATTACHMENT0, context.TEXTURE_2D, target, 0);
  context.viewport(0, 0, across * 4, down * 4);
  context.disable(context.BLEND);
  context.disable(context.DEPTH_TEST);
  context.useProgram(program);
  context.activeTexture(context.TEXTURE0);
  context.bindTexture(context.TEXTURE_2D, texture);
  context.uniform1i(context.getUniformLocation(program, 't'), 0);
  context.drawArrays(context.TRIANGLES, 0, 3);
  const seen = new Uint8Array(across * down * 64);
  context.readPixels(0, 0, across * 4, down * 4, context.RGBA, context.UNSIGNED_BYTE, seen);
  context.bindFramebuffer(context.FRAMEBUFFER, null);
  const texels = new Float32Array(64);
  let differ = 0;
  for (let b = 0; b < across * down; b++) {
    decodeBc7(blocks, b * 16, texels);
    const [x0, y0] = [(b % across) * 4, Math.floor(b / across) * 4];
    for (let t = 0; t < 16; t++)
      for (let c = 0; c < 4; c++) if (seen[((y0 + (t >> 2)) * across * 4 + x0 + (t & 3)) * 4 + c] !== texels[t * 4 + c]) differ++;
  }
  return { modes: 8, differ, read: across * down * 64 };
}

/** Two layers that bring roles beside the usual six, in exact mode, near and far. */
export async function extras(): Promise<Agreement[]> {
  const size = 32;
  const [stone, moss] = [generateSurface('terrace-stone', { seed: 3, size }), generateSurface('cushion-moss', { seed: 5, size })];
  const maps: Record<string, MapSet> = {
    stone: { ...stone.maps, opacity: stone.maps.roughness, cavity: stone.maps.occlusion, emissive: stone.maps.baseColor },
    moss: {
      ...moss.maps,
      subsurface: moss.maps.height,
      emissive: moss.maps.normal,
      transmission: moss.maps.roughness,
      specular: moss.maps.height,
      clearcoat: moss.maps.occlusion,
    },
  };
  const known = Object.fromEntries(
    [stone, moss].map((s, i) => {
      const id = Object.keys(maps)[i];
      return [id, { ...s.facts, roles: new Set(Object.keys(maps[id])) as BlendSurface['roles'] }];
    }),
  );
  const blend = makeBlend('x', {
    extentM: 1,
    layers: {
      a: makeLayer('stone', 'Stone', 1),
      b: makeLayer('moss', 'Moss', 2, { coverage: { n: makeCue('noise', { centre: 0.5, width: 0.4, seed: 7 }) } }),
    },
  });
  const stack = makeStack(blend, known);
  const slots: PackedSet = {
    surfaces: stack.slots.map((id) => packSurface(maps[id], size)),
    masks: stack.masks.map((p) => packMask((p.kind === 'map' && maps[p.surface][p.role]) as Image, 0, size)),
    ids: [],
  };
  const out: Agreement[] = [];
  for (const [name, far, side] of [
    ['near', false, 32],
    ['far', true, 12],
  ] as const) {
    const domain = flatDomain(side, side, 1);
    const all = stageOutputs(lowerBlend(stack, { far }));
    const { outputs, hoisted } = optimise(Object.fromEntries(EXTRA_ROLES.map((role) => [role, all[role] as DagNode])), { hoist: true });
    const values = frameValues(hoisted, { ...stackValues(stack), ...footprintValues(domain) });
    const cpu = evaluate(outputs, { domain, values, sources: sourcesOfPacked(slots) });
    out.push(compare(name, cpu, await evaluateExact(gl(), outputs, domain, values, slots)));
  }
  return out;
}
