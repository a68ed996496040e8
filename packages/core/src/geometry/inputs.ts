/** A number of components with its name in GLSL. */
const GLSL_TYPES = ['float', 'vec2', 'vec3', 'vec4'] as const;
export type InputWidth = 1 | 2 | 3 | 4;

export interface PixelInputFacts {
  help: string;
  /** MaterialX node category. */
  materialx: string;
  /** Numbers a place. */
  width: InputWidth;
  range: { readonly lo: number; readonly hi: number };
  /**
   * What a place has that nobody said anything of, as on a plane without a mesh: numbers, what another input has there, or
   * `place`: where it lies on the plane, which only the plane knows.
   */
  flat: readonly number[] | 'texcoord' | 'place';
  /** Where a vertex shader takes it from; null for what no mesh carries. */
  location: number | null;
  /** Whether every mesh has it; others may leave it out. */
  always?: true;
  /** Whether pictures are looked up by it, so that how far it moves from pixel to pixel decides their mip level. */
  coordinate?: true;
  /** What it is looked for by in graphs; those without are reached by another step. */
  words?: string;
  /** How it comes about between vertices: mixed; brought to length 1, a fourth number being a sign; the nearest whole number. */
  between: 'mixed' | 'direction' | 'whole';
}

function facts<M extends Partial<PixelInputFacts>>(
  help: string,
  materialx: string,
  width: InputWidth,
  flat: PixelInputFacts['flat'],
  more: M,
): PixelInputFacts & M {
  return { help, materialx, width, flat, range: { lo: -Infinity, hi: Infinity }, location: null, between: 'mixed', ...more };
}

const UNIT = { lo: 0, hi: 1 };
const DIRECTION = { range: { lo: -1, hi: 1 }, between: 'direction' } as const;

/**
 * What is known of a place that is evaluated. To add one: an entry here, and whoever works it out. Without a mesh vertex
 * colour is white, as glTF has it; a plane looks up, is not bent, and all the sky is open over it.
 */
export const PIXEL_INPUTS = {
  position: facts('Place in metres', 'position', 3, 'place', { location: 0, always: true, words: 'place, world position, altitude' }),
  normal: facts('Direction of the ground, unit length', 'normal', 3, [0, 1, 0], {
    ...DIRECTION,
    location: 1,
    always: true,
    words: 'world normal, slope, up',
  }),
  tangent: facts('Direction in which u grows, unit length, and the sign of the bitangent', 'tangent', 4, [1, 0, 0, 1], {
    ...DIRECTION,
    location: 2,
    always: true,
    words: 'direction of u',
  }),
  texcoord: facts('Texture coordinate: u right, v down, one repetition of the extent a unit', 'texcoord', 2, 'place', {
    location: 3,
    always: true,
    coordinate: true,
  }),
  geomcolor: facts('Vertex colour', 'geomcolor', 4, [1, 1, 1, 1], { range: UNIT, location: 4, always: true, words: 'vertex colour, painted' }),
  curvature: facts('How sharply the mesh bends: mean curvature in 1/m, positive outwards', 'geompropvalue', 1, [0], {
    location: 5,
    words: 'edges, convexity, wear, bend',
  }),
  occlusion: facts('Share of the sky that the mesh leaves open', 'geompropvalue', 1, [1], {
    range: UNIT,
    location: 6,
    words: 'dirt, hollows, sky, ao',
  }),
  part: facts('Number of the part', 'geompropvalue', 1, [0], {
    range: { lo: 0, hi: Infinity },
    location: 7,
    between: 'whole',
    words: 'object, piece, random by object',
  }),
  uv1: facts('First set of texture coordinates of a mesh, as it came', 'texcoord', 2, 'texcoord', { location: 8, coordinate: true }),
  uv2: facts('Second set of texture coordinates of a mesh, as it came', 'texcoord', 2, 'texcoord', { location: 9, coordinate: true }),
  relief: facts(
    'The ground around: height 0–1, slope (rise over run), convexity (−1 hollow to 1 edge), occlusion',
    'PB_relief',
    4,
    [0.5, 0, 0, 1],
    {},
  ),
  viewdirection: facts('Direction to the eye, unit length; straight up where nobody looks, as in a bake', 'viewdirection', 3, [0, 1, 0], {
    ...DIRECTION,
    words: 'eye, camera, view vector',
  }),
  viewdistance: facts('Metres to the eye; one where nobody looks, as in a bake', 'PB_viewdistance', 1, [1], {
    range: { lo: 0, hi: Infinity },
    words: 'distance to camera, far away, depth',
  }),
  sweep: facts('A number that runs along while everything else stays: what plots are made by', 'PB_sweep', 1, [0], {}),
} satisfies Record<string, PixelInputFacts>;

export type PixelInput = keyof typeof PIXEL_INPUTS;
/** Inputs that a mesh carries at its vertices. */
export type MeshInput = { [K in PixelInput]: (typeof PIXEL_INPUTS)[K] extends { location: number } ? K : never }[PixelInput];
/** Those that every mesh has. */
export type CertainInput = { [K in PixelInput]: (typeof PIXEL_INPUTS)[K] extends { always: true } ? K : never }[PixelInput];

/** Inputs by which pictures are looked up. */
export type Coordinate = { [K in PixelInput]: (typeof PIXEL_INPUTS)[K] extends { coordinate: true } ? K : never }[PixelInput];

export const inputFacts = (name: PixelInput): PixelInputFacts => PIXEL_INPUTS[name];
export const inputWidth = (name: PixelInput): InputWidth => PIXEL_INPUTS[name].width;
export const inputType = (name: PixelInput): (typeof GLSL_TYPES)[number] => GLSL_TYPES[inputWidth(name) - 1];
export const PIXEL_INPUT_NAMES = Object.keys(PIXEL_INPUTS) as PixelInput[];
export const COORDINATES = PIXEL_INPUT_NAMES.filter((name): name is Coordinate => inputFacts(name).coordinate === true);
/** Inputs of which it is known how far they move from one pixel to the next. */
export type Tracked = Coordinate | 'position';
export const TRACKED: readonly Tracked[] = [...COORDINATES, 'position'];
export const isTracked = (name: string): name is Tracked => (TRACKED as readonly string[]).includes(name);
export const isPixelInput = (name: string): name is PixelInput => name in PIXEL_INPUTS;
/** Names of what meshes carry, by their places in a vertex shader. */
export const MESH_INPUTS = PIXEL_INPUT_NAMES.filter((name): name is MeshInput => inputFacts(name).location !== null);

/** What places, or vertices, say of themselves: planes of `width` numbers each, by name. */
export type InputPlanes<K extends PixelInput = PixelInput> = { [N in K]: Float32Array };
/** What a mesh carries at its vertices. */
export type MeshPlanes = InputPlanes<CertainInput> & Partial<InputPlanes<MeshInput>>;

/** Every input that vertices carry, made by a function of what they have; what is not there is left out. */
export function mapInputs<T extends MeshPlanes | Partial<MeshPlanes>>(
  of: T,
  make: (values: Float32Array, name: MeshInput, width: InputWidth) => Float32Array,
): T {
  const out: Partial<InputPlanes<MeshInput>> = {};
  for (const name of MESH_INPUTS) {
    const values = of[name];
    if (values) out[name] = make(values, name, inputWidth(name));
  }
  return out as T;
}

/** Places `[first, end)` of planes, without copying them. */
export const inputSlice = <T extends MeshPlanes | Partial<MeshPlanes>>(of: T, first: number, end: number): T =>
  mapInputs(of, (values, _, width) => values.subarray(first * width, end * width));

/** An input of so many places of which nobody said anything. @param texcoord of those places: what some inputs are taken for */
export function flatPlane(name: PixelInput, texcoord: Float32Array): Float32Array {
  const { flat, width } = inputFacts(name);
  if (flat === 'texcoord') return texcoord.slice();
  const out = new Float32Array((texcoord.length / 2) * width);
  if (flat !== 'place') for (let i = 0; i < out.length; i++) out[i] = flat[i % width];
  return out;
}

/** Brings what was mixed between vertices to what it is there: directions to length 1, a sign to ±1, numbers to whole ones. */
export function settle(name: PixelInput, values: Float32Array): Float32Array {
  const { between, width } = inputFacts(name);
  if (between === 'whole') for (let i = 0; i < values.length; i++) values[i] = Math.round(values[i]);
  if (between !== 'direction') return values;
  for (let i = 0; i < values.length; i += width) {
    const long = Math.hypot(values[i], values[i + 1], values[i + 2]) || 1;
    for (let c = 0; c < 3; c++) values[i + c] /= long;
    if (width === 4) values[i + 3] = values[i + 3] < 0 ? -1 : 1;
  }
  return values;
}
