import type { Sources } from '../compile';
import { lineDomain } from '../compile';
import type { MeshPlanes } from '../geometry';
import { inputSlice } from '../geometry';
import type { Material } from './material';
import type { MaterialPrograms } from './programs';

/** What relief is worked out of. */
export interface ReliefOf {
  material: Material;
  sources: Sources;
  mesh: MeshPlanes;
  /** Mean distance of a vertex from its neighbours, in metres. */
  spacingM: number;
}

/**
 * Heights of a material at the vertices `[first, end)` of a mesh in metres, each the mean over what lies around it up to its
 * neighbours. Writes into `out`, so that a caller can go on with others in between.
 */
export function sampleRelief(
  programs: MaterialPrograms,
  { material, sources, mesh, spacingM }: ReliefOf,
  [first, end]: readonly [number, number],
  out: Float32Array,
): void {
  const program = programs.of(material, 'height', () => ({ height: material.far.outputs.height }));
  const { texcoord, ...geometry } = inputSlice<MeshPlanes>(mesh, first, end);
  program.run({ domain: lineDomain(texcoord, spacingM / material.extentM, geometry), sources, values: material.values }, (tile, planes) => {
    out.set(planes('height')[0].subarray(0, tile.width), first + tile.x);
  });
}
