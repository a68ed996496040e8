import type { Operation } from '../registry';
import { ANY, UNIT } from '../types';
import { PACKING, channelOf, slotOf } from '../pictures';
import { sampleChannel } from '../sampling';
import { always } from './shared';

export const IMAGES: Operation[] = [
  {
    name: 'imagelevel',
    picture: 'size',
    help: 'The mip level that a footprint of a pixel asks for',
    materialx: 'PB_imagelevel',
    inputs: [
      { name: 'dx', type: 'vec2' },
      { name: 'dy', type: 'vec2' },
    ],
    result: always('float'),
    functions: [
      `float pb_level(vec2 dx, vec2 dy, ivec2 size) { vec2 s = vec2(size); dx *= s; dy *= s; return max(0.0, 0.5 * log2(max(max(dot(dx, dx), dot(dy, dy)), 1e-12))); }`,
    ],
    glsl: ([dx, dy], node) => `pb_level(${dx}, ${dy}, textureSize(t_${PACKING[channelOf(node)].unit}, 0).xy)`,
    kernel: ({ memory: m, n, out: [o], args: [[dxu, dxv], [dyu, dyv]], node, context }) => {
      const { width: w, height: h } = context.sources(slotOf(node), channelOf(node)).levels[0];
      for (let i = 0; i < n; i++) {
        const a = (m[dxu + i] * w) ** 2 + (m[dxv + i] * h) ** 2;
        const b = (m[dyu + i] * w) ** 2 + (m[dyv + i] * h) ** 2;
        m[o + i] = Math.max(0, 0.5 * Math.log2(Math.max(a, b, 1e-12)));
      }
    },
    price: { alu: 11 },
    range: () => ({ lo: 0, hi: 20 }),
    derivative: 'zero',
  },
  {
    name: 'image',
    picture: 'texels',
    help: 'A channel of a map, filtered; colour comes as linear light, IDs as they are stored, unmixed',
    materialx: 'image',
    inputs: [
      { name: 'texcoord', type: 'vec2' },
      { name: 'level', type: 'float' },
    ],
    result: (_, attrs) => (({ baseColor: 'vec3', normal: 'vec2', id: 'vec3', emissive: 'vec3' })[attrs['channel'] as string] as never) ?? 'float',
    // The GLSL back end emits the fetch and shares it between channels of one packed texture.
    glsl: ([fetched], node) => {
      const { swizzle, signed } = PACKING[channelOf(node)];
      return signed ? `${fetched}.${swizzle} * 2.0 - 1.0` : `${fetched}.${swizzle}`;
    },
    kernel: sampleChannel,
    price: { alu: 0 },
    range: (_, node) => (channelOf(node) === 'normal' ? { lo: -1, hi: 1 } : channelOf(node) === 'height' ? ANY : UNIT),
    derivative: 'zero',
  },
  {
    name: 'imagedetail',
    picture: 'coarse texels',
    help: 'The same without what is smaller than a share of the map; the level says so too, where levels are read',
    materialx: 'PB_imagedetail',
    inputs: [
      { name: 'texcoord', type: 'vec2' },
      { name: 'level', type: 'float' },
      { name: 'share', type: 'float' },
    ],
    result: always('float'),
    glsl: ([fetched], node) => `${fetched}.${PACKING[channelOf(node)].swizzle}`,
    kernel: sampleChannel,
    price: { alu: 8 },
    range: () => ANY,
    derivative: 'zero',
  },
];
