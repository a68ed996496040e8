import { Builder, CpuProgram, optimise } from '../compile';
import type { DagNode, Domain, Sources, Tile, Values } from '../compile';
import type { Image } from '../image';
import { makeImage, makeSamples, srgbByte } from '../image';
import type { MaterialRole, SurfaceFacts } from '../surface';
import { BLEND_ROLES, ROLE_FACTS } from '../surface';
import type { Material } from './material';

/** Size and relief of the surface that a material evaluates to: its height map spans the bounds of its height. */
export const materialFacts = ({ extentM, bounds: { lo, hi } }: Pick<Material, 'extentM' | 'bounds'>): SurfaceFacts => ({
  sizeM: extentM,
  reliefM: hi - lo,
  mid: -lo / (hi - lo),
});

/** What a material can be made maps of. */
export type MapRole = MaterialRole;

/** Empty maps for the result: 8-bit, height 16-bit. `shared` lets several workers fill them. */
export function makeMaterialMaps(
  width: number,
  height: number,
  roles: readonly MapRole[] = BLEND_ROLES,
  shared = false,
): Partial<Record<MapRole, Image>> {
  return Object.fromEntries(
    roles.map((role) => {
      const { components, colourSpace } = ROLE_FACTS[role];
      const depth = role === 'height' ? 16 : 8;
      return [
        role,
        makeImage({ width, height, channels: components, depth, colourSpace, data: makeSamples(depth, width * height * components, shared) }),
      ];
    }),
  );
}

/** What makes maps, as plain data: it can be handed to another thread. */
export interface MapGraph {
  outputs: Record<string, DagNode>;
  roles: readonly MapRole[];
}

/** The outputs of a material as maps store them. @param far read mip levels: wanted when the picture has fewer texels than what it shows */
export function mapGraph(material: Material, roles: readonly MapRole[], far: boolean): MapGraph {
  const { outputs } = far ? material.far : material.near;
  const b = new Builder();
  return {
    roles,
    outputs: optimise(
      Object.fromEntries(
        roles.map((role) => [role, stored(b, role, b.taken(outputs[role] ?? b.constant(...ROLE_FACTS[role].neutral)), material.bounds)]),
      ),
    ).outputs,
  };
}

export interface MapOptions {
  domain: Domain;
  sources: Sources;
  values: Values;
  /** Images to write into, as made by `makeMaterialMaps`. */
  into: Partial<Record<MapRole, Image>>;
  /** Rows to evaluate, `[first, end)`; bands of several workers write into the same images. */
  rows?: readonly [number, number];
  onTile?: (done: number) => void;
}

/** Writes maps, tile by tile: memory beyond sources and result is that of a few planes of a tile. */
export class MapMaker {
  private readonly program: CpuProgram;

  constructor(private readonly graph: MapGraph) {
    this.program = new CpuProgram(graph.outputs);
  }

  run({ into, ...options }: MapOptions): void {
    this.program.run(options, (tile, planes) => {
      for (const role of this.graph.roles) writeTile(role, tile, planes(role), into[role] as Image);
    });
  }
}

/** Evaluates a material to maps, at once. @param far as of `mapGraph` */
export function evaluateMaterial(material: Material, { far = false, ...options }: Omit<MapOptions, 'values'> & { far?: boolean }): void {
  new MapMaker(mapGraph(material, Object.keys(options.into) as MapRole[], far)).run({ ...options, values: material.values });
}

const isColour = (role: MapRole): boolean => role === 'baseColor' || role === 'emissive';

/** A channel as its map stores it: scaled to the integers, ½ added so that cutting off rounds to nearest. Colour stays linear. */
function stored(b: Builder, role: MapRole, node: DagNode, { lo, hi }: Material['bounds']): DagNode {
  if (isColour(role)) return node;
  const [scale, offset] = role === 'height' ? [65535 / (hi - lo), (-lo * 65535) / (hi - lo)] : role === 'normal' ? [127.5, 127.5] : [255, 0];
  const full = role === 'height' ? 65535 : 255;
  const held = b.clamp(b.add(b.multiply(node, b.constant(scale)), b.constant(offset)), b.constant(0), b.constant(full));
  return b.add(held, b.constant(0.5));
}

function writeTile(role: MapRole, tile: Tile, planes: Float32Array[], image: Image): void {
  const { channels, width } = image;
  for (let c = 0; c < channels; c++)
    for (let y = 0; y < tile.height; y++) {
      const to = ((tile.y + y) * width + tile.x) * channels + c;
      const write = isColour(role) ? writeColour : image.depth === 16 ? writeWords : writeBytes;
      write(image.data as never, to, channels, planes[c], y * tile.width, tile.width);
    }
}

// One function a kind of array, so that each is compiled for one kind.
function writeColour(data: Uint8Array, to: number, step: number, plane: Float32Array, from: number, n: number): void {
  for (let i = 0; i < n; i++, to += step) data[to] = srgbByte(plane[from + i]);
}
function writeBytes(data: Uint8Array, to: number, step: number, plane: Float32Array, from: number, n: number): void {
  for (let i = 0; i < n; i++, to += step) data[to] = plane[from + i];
}
function writeWords(data: Uint16Array, to: number, step: number, plane: Float32Array, from: number, n: number): void {
  for (let i = 0; i < n; i++, to += step) data[to] = plane[from + i];
}
