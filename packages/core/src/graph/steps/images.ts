import type { DagNode, ImageChannel } from '../../compile';
import { slotIn } from '../../blend';
import type { CuePicture } from '../../coverage';
import { pictureKey } from '../../coverage';
import type { MasterDocument, MasterOperation } from '../../document';
import type { Role } from '../../surface';
import { ROLES, ROLE_FACTS, isBlendRole } from '../../surface';
import type { GraphContext, StepInput, GraphStep, StepSite } from '../step';

/** Roles that can be looked up: positions are no picture to be mixed. */
export const IMAGE_ROLES = ROLES.filter((role) => role !== 'position');

/** Which map an operation shows: that of its parameter, else its own. */
export function mapOf({ inputs, settings }: Pick<MasterOperation, 'inputs' | 'settings'>, document: MasterDocument): { surface: string; role: Role } {
  const source = inputs['map'];
  const holds = source?.from === 'parameter' ? document.parameters[source.parameter]?.holds : undefined;
  if (holds?.kind === 'map') return { surface: holds.surface, role: holds.role };
  return { surface: String(settings['surface'] ?? ''), role: (settings['role'] as Role | undefined) ?? 'baseColor' };
}
const has = ({ surfaces }: GraphContext, { surface, role }: { surface: string; role: Role }): boolean => surfaces[surface]?.roles.has(role) ?? false;

const typeOf = (role: Role) => (ROLE_FACTS[role].components === 3 ? 'vec3' : 'float');

/** A map at a coordinate: colour as linear light, a normal with length 1 and Y+, everything else as it is stored. */
function looked({ b, lists, context, document, operation, far, level, note }: StepSite, uv: DagNode): DagNode {
  const { surface, role } = mapOf(operation, document);
  const zero = b.constant(0);
  const one = (slot: number, channel: ImageChannel): DagNode => {
    const node = b.node('image', [uv, far && channel !== 'id' ? level(uv, slot, channel) : zero], { slot, channel });
    return channel === 'normal' ? b.node('normalmap', [node, b.constant(1)]) : node;
  };
  if (!has(context, { surface, role })) {
    const empty = !surface;
    const name = ROLE_FACTS[role].label.toLowerCase();
    note(
      empty ? 'missing-map' : 'missing-surface',
      empty
        ? `No map is chosen: it gives the neutral ${name}. Choose one`
        : `The ${name} map that it shows is gone: it gives the neutral value. Choose another`,
    );
    return b.constant(...ROLE_FACTS[role].neutral);
  }
  if (isBlendRole(role) || role === 'emissive') return one(slotIn(lists.slots, surface), role);
  const picture: CuePicture = role === 'id' ? { kind: 'id', surface } : { kind: 'map', surface, role, channel: 0 };
  const list = role === 'id' ? lists.ids : lists.masks;
  return one(
    slotIn<CuePicture>(list, picture, (p) => pictureKey(p) === pictureKey(picture)),
    role === 'id' ? 'id' : 'mask',
  );
}

const settings: GraphStep['settings'] = [
  { name: 'surface', label: 'map of', kind: 'surface', initial: '' },
  { name: 'role', label: 'role', kind: 'role', initial: 'baseColor', choices: IMAGE_ROLES },
];
const shape = (operation: MasterOperation, document: MasterDocument, context: GraphContext): string => {
  const map = mapOf(operation, document);
  return `${map.surface}/${map.role}/${has(context, map)}`;
};
const map: StepInput = { name: 'map', type: 'map', initial: [] };
const texcoord: StepInput = { name: 'texcoord', type: 'vec2', initial: 'texcoord' };
const outputs: GraphStep['outputs'] = ({ settings }) => [{ name: 'out', type: typeOf((settings['role'] as Role | undefined) ?? 'baseColor') }];

export const IMAGES: GraphStep[] = [
  {
    name: 'image',
    group: 'images',
    help: 'A map of a surface: colour as linear light, a normal ready to use (Y+), everything else as it is stored',
    words: 'texture, sample, map, base colour, mask, bitmap',
    materialx: 'image',
    inputs: () => [map, texcoord],
    outputs,
    settings,
    lower: (site) => ({ out: looked(site, site.input('texcoord')) }),
    shape,
  },
  {
    name: 'tiledimage',
    group: 'images',
    help: 'A map that repeats over the coordinate, turned by degrees and moved',
    words: 'texture, tiling, repeat, detail map, rotate a map',
    materialx: 'tiledimage',
    inputs: () => [
      map,
      texcoord,
      { name: 'uvtiling', type: 'vec2', initial: [1, 1] },
      { name: 'turn', type: 'float', initial: [0], unit: '°', low: -180, high: 180 },
      { name: 'uvoffset', type: 'vec2', initial: [0, 0] },
    ],
    outputs,
    settings,
    lower: (site) => {
      const { b, input, fed } = site;
      const turned = fed('turn') ? b.node('rotate2d', [input('texcoord'), input('turn')]) : input('texcoord');
      return { out: looked(site, b.node('place2d', [turned, input('uvtiling'), input('uvoffset')])) };
    },
    shape: (operation, document, context) => `${shape(operation, document, context)}${operation.inputs['turn'] ? 'turned' : ''}`,
  },
];
