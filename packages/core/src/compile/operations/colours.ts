// Colour in linear light, sRGB primaries.
import type { Lanes } from '../lanes';
import { dotLanes } from '../lanes';
import type { Operation } from '../registry';
import type { ValueType } from '../types';
import { ANY } from '../types';
import { LUMINANCE } from '../../image';
import { always } from './shared';

const colour = (name: string) => ({ name, type: 'vec3' as ValueType });

/** Hue 0–1, saturation, value. Source: Smith, "Color Gamut Transform Pairs", 1978. */
function hsvOf<V>(l: Lanes<V>, [r, g, b]: readonly V[]): V[] {
  const zero = l.number(0);
  const [high, low] = [l.max(r, l.max(g, b)), l.min(r, l.min(g, b))];
  const span = l.subtract(high, low);
  const even = l.equal(span, zero);
  const by = l.select(even, l.number(1), span);
  const part = (x: V, y: V, from: number) => l.add(l.number(from / 6), l.divide(l.subtract(x, y), l.multiply(l.number(6), by)));
  const hue = l.select(l.equal(high, r), part(g, b, 0), l.select(l.equal(high, g), part(b, r, 2), part(r, g, 4)));
  const whole = l.select(l.less(hue, zero), l.add(hue, l.number(1)), hue);
  const saturation = l.select(l.equal(high, zero), zero, l.divide(span, l.select(l.equal(high, zero), l.number(1), high)));
  return [l.select(even, zero, whole), saturation, high];
}

function rgbOf<V>(l: Lanes<V>, [h, s, v]: readonly V[]): V[] {
  const [zero, one] = [l.number(0), l.number(1)];
  const six = l.multiply(l.subtract(h, l.floor(h)), l.number(6));
  // Each channel is a trapezium over the circle of hues.
  const ramp = (x: V) => l.max(zero, l.min(one, x));
  const away = (centre: number) => l.abs(l.subtract(six, l.number(centre)));
  const shares = [ramp(l.subtract(away(3), one)), ramp(l.subtract(l.number(2), away(2))), ramp(l.subtract(l.number(2), away(4)))];
  return shares.map((share) => l.multiply(v, l.add(one, l.multiply(s, l.subtract(share, one)))));
}

export const COLOURS: Operation[] = [
  {
    name: 'luminance',
    help: 'How bright a colour in linear light is: 0.2126 red, 0.7152 green, 0.0722 blue',
    materialx: 'luminance',
    inputs: [colour('in')],
    result: always('float'),
    graph: { group: 'channels', words: 'desaturate, grey, brightness, luma', defaults: [[0]] },
    lanes: (l, [rgb]) => [
      dotLanes(
        l,
        rgb,
        LUMINANCE.map((k) => l.number(k)),
      ),
    ],
    price: { alu: 3 },
    range: ([a]) => a,
    derivative: (b, _, d) => b.node('luminance', [d(0)]),
  },
  {
    name: 'rgbtohsv',
    help: 'A colour as hue (0–1 around the circle), saturation and value',
    materialx: 'rgbtohsv',
    inputs: [colour('in')],
    result: always('vec3'),
    graph: { group: 'channels', words: 'hue, saturation, value', defaults: [[0]] },
    lanes: (l, [rgb]) => hsvOf(l, rgb),
    price: { alu: 28 },
    range: () => ANY,
    derivative: 'zero',
  },
  {
    name: 'hsvtorgb',
    help: 'Hue (0–1 around the circle), saturation and value as a colour',
    materialx: 'hsvtorgb',
    inputs: [colour('in')],
    result: always('vec3'),
    graph: { group: 'channels', words: 'hue, saturation, value, colour wheel', defaults: [[0]] },
    lanes: (l, [hsv]) => rgbOf(l, hsv),
    price: { alu: 24 },
    range: () => ANY,
    derivative: 'zero',
  },
  {
    name: 'hsvadjust',
    help: 'A colour with its hue turned by x (1 is once around), its saturation times y, its value times z',
    materialx: 'hsvadjust',
    inputs: [colour('in'), colour('amount')],
    result: always('vec3'),
    graph: { group: 'channels', words: 'hue shift, saturate, desaturate, recolour, vary colour', defaults: [[0], [0, 1, 1]] },
    lanes: (l, [rgb, [turn, more, brighter]]) => {
      const [h, s, v] = hsvOf(l, rgb);
      return rgbOf(l, [l.add(h, turn), l.max(l.number(0), l.min(l.number(1), l.multiply(s, more))), l.multiply(v, brighter)]);
    },
    price: { alu: 56 },
    range: () => ANY,
    derivative: 'zero',
  },
];
