// Channels and conditions that need more than one registered operation, or none.
import type { Builder, DagNode } from '../../compile';
import { COMPONENTS } from '../../compile';
import { mixedExtras } from '../../blend';
import { BLEND_ROLES } from '../../surface';
import type { GraphStep, GraphValue } from '../step';
import { isSurface } from '../step';
import { swizzleOf } from './swizzle';

const XYZW = 'xyzw';
/** Something between two values of one kind, by a number that nobody knows. */
function eitherOf(b: Builder, off: GraphValue, on: GraphValue, share: DagNode): GraphValue {
  if (!isSurface(off) && !isSurface(on)) return b.mix(off, on, share);
  if (!isSurface(off) || !isSurface(on)) return isSurface(off) ? off : on;
  const mix = (from: DagNode, to: DagNode) => b.mix(from, to, share);
  const [a, z] = [off.surface, on.surface];
  const channels = Object.fromEntries(BLEND_ROLES.map((role) => [role, mix(a.channels[role], z.channels[role])])) as typeof a.channels;
  return {
    surface: { channels, extras: mixedExtras(b, a.extras, z.extras, share), specular: mix(a.specular, z.specular), spread: mix(a.spread, z.spread) },
  };
}

export const CHANNELS: GraphStep[] = [
  {
    name: 'separate',
    group: 'channels',
    help: 'The components of a vector, each by itself',
    words: 'split channels, unpack, red green blue alpha',
    materialx: 'separate4',
    inputs: () => [{ name: 'in', type: 'any', initial: [0, 0, 0, 0] }],
    outputs: () => [...XYZW].map((name) => ({ name, type: 'float' })),
    settings: [],
    lower: ({ b, input }) => {
      const value = input('in');
      return Object.fromEntries([...XYZW].slice(0, COMPONENTS[value.type]).map((name, i) => [name, b.extract(value, i)]));
    },
  },
  {
    name: 'swizzle',
    group: 'channels',
    help: 'Components of a vector in another order, some twice or left out',
    words: 'reorder channels, xyzw, rgba, shuffle',
    materialx: 'swizzle',
    inputs: () => [{ name: 'in', type: 'any', initial: [0, 0, 0, 0] }],
    outputs: () => [{ name: 'out', type: 'any' }],
    settings: [{ name: 'channels', label: 'channels', kind: 'swizzle', initial: 'xyz' }],
    lower: ({ b, input, setting, fail }) => {
      const value = input('in');
      const text = String(setting('channels'));
      const picked = swizzleOf(text);
      if (!picked) return fail('type-mismatch', `"${text}" names no components. Write one to four of x y z w, or of r g b a`, 'in');
      const has = COMPONENTS[value.type];
      const beyond = picked.find((i) => i >= has);
      if (beyond !== undefined)
        return fail('type-mismatch', `${text} asks for component ${XYZW[beyond]}, and what comes in is a ${value.type}`, 'in');
      const parts = picked.map((i) => b.extract(value, i));
      return { out: parts.length === 1 ? parts[0] : b.combine(...parts) };
    },
  },
  {
    name: 'switch',
    group: 'conditions',
    help: 'One of two inputs, chosen before it is compiled: the other costs nothing. A side that nothing feeds is as the other',
    words: 'toggle a feature, fixed choice, on off, permutation, choose surface',
    materialx: 'PB_switch',
    inputs: () => [
      { name: 'off', type: 'either', initial: [0] },
      { name: 'on', type: 'either', initial: [1] },
    ],
    outputs: () => [{ name: 'out', type: 'either' }],
    settings: [{ name: 'switch', label: 'switch', kind: 'switch', initial: '' }],
    lower: ({ b, either, fed, setting, document, all }) => {
      // Where nothing that may be chosen is to be lost, neither side is: what comes of it is not known.
      if (all) return { out: eitherOf(b, either('off'), either('on'), b.value(`switch ${String(setting('switch'))}`)) };
      const [taken, other] = document.switches[String(setting('switch'))]?.on ? ['on', 'off'] : ['off', 'on'];
      return { out: either(fed(taken) || !fed(other) ? taken : other) };
    },
    shape: ({ settings, inputs }, { switches }) => `${switches[String(settings['switch'] ?? '')]?.on ?? false} ${Object.keys(inputs).sort().join()}`,
  },
];
