import type { MasterDocument, Source } from '../document';
import { linkTo, makeMaster, makeOperation } from '../document';
import type { ExtraOutput } from '../document';
import { EXTRA_OUTPUTS } from '../document';
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
export function wornSurface(id: string, { name, sizeM, maps }: WornSurface, specimen = 'patch'): MasterDocument {
  const extras = EXTRA_OUTPUTS.filter((role) => maps[role]);
  const image = (role: ExtraOutput, i: number) => makeOperation('image', i + 2, { settings: { surface: id, role } });
  const outputs: Partial<Record<'surface' | ExtraOutput, Source>> = { surface: linkTo('maps') };
  for (const role of extras) outputs[role] = linkTo(role);
  return makeMaster(name, {
    extentM: sizeM,
    specimen,
    operations: {
      maps: makeOperation('surface', 1, { settings: { surface: id } }),
      ...Object.fromEntries(extras.map((role, i) => [role, image(role, i)])),
    },
    outputs,
    drawn: maps.opacity ? 'cut-out' : 'solid',
  });
}
