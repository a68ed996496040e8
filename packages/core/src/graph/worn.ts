import type { MasterDocument } from '../document';
import { linkTo, makeMaster, makeOperation } from '../document';
import type { Role, SurfaceFacts } from '../surface';

/** What wearing a surface needs to know of it. */
export interface WornSurface extends Pick<SurfaceFacts, 'sizeM'> {
  name: string;
  maps: Partial<Record<Role, unknown>>;
}

/**
 * A finished surface as a master: its maps once over the coordinate, each fed to what it holds and nothing between. Where it
 * has a map of opacity, it is cut out by it.
 * @param id of the surface
 */
export const wornSurface = (id: string, { name, sizeM, maps }: WornSurface): MasterDocument =>
  makeMaster(name, {
    extentM: sizeM,
    specimen: 'patch',
    operations: { maps: makeOperation('surface', 1, { settings: { surface: id } }) },
    outputs: { surface: linkTo('maps') },
    drawn: maps.opacity ? 'cut-out' : 'solid',
  });
