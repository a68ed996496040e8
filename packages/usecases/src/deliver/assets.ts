// Assets as they leave: a mesh whose slots wear pictures, and nothing that only this program could work out.
import type { AnyDocument, AssetDocument, AssetSlot, Drawn, Frame, MapSet, Material, MaterialRole, Model, Role, SurfaceDocument } from '@pebble/core';
import {
  BlendMaterials,
  MasterMaterials,
  SOLID,
  SPECIMEN_MODELS,
  allowedPairs,
  asVariant,
  coveredCells,
  cellsAgree,
  givenRoles,
  inOrder,
  isMaterialRole,
  isSpecimenName,
  placed,
  resize,
  tallOf,
  wornSurface,
} from '@pebble/core';
import { readGltf } from '@pebble/formats/mesh';
import { blendSurfaces, gather, libraryOf, readerOf, stackOf } from '../blends';
import { UseCaseError } from '../errors';
import { layOut } from '../layout';
import { loadMaps } from '../maps';
import { blendMesh, evaluateOnMesh, findOverlap, paintedOn } from '../on-mesh';
import type { LaidOn } from '../on-mesh';
import type { Ports, Report } from '../ports';

export type Documents = Readonly<Record<string, AnyDocument>>;

/** What sits on a slot of an asset that is delivered. */
export interface DeliveredSlot {
  slot: string;
  /** What sits there, by name. */
  called: string;
  laid: AssetSlot;
  /** A finished surface that is laid by the mesh's own coordinates: its maps are taken as they are. */
  finished: SurfaceDocument | null;
  /** What is made into the texture of the mesh; null for what is finished. */
  material: Material | null;
  roles: readonly MaterialRole[];
  drawn: Drawn;
  /** Shape of its texture, height by width. */
  tall: number;
}

/** Parts of levels that lie elsewhere on the texture than the finest one would wear what is not theirs. */
const SAME_PAGE = 0.8;

export const contextOf = (all: Documents) => {
  const { surfaces, blends = {} } = libraryOf(all);
  const masters = Object.fromEntries(Object.entries(all).flatMap(([id, d]) => (d.kind === 'master' ? [[id, d]] : [])));
  return { surfaces: blendSurfaces(surfaces), blends, masters };
};

/** Sees what sits on the slots of an asset. Graphs are lowered once for all that ask. */
export class Slots {
  private readonly blends = new BlendMaterials();
  private readonly masters = new MasterMaterials();

  constructor(private readonly all: Documents) {}

  /** Slots that something sits on. @throws UseCaseError for a blend that cannot be shown as it is meant */
  of(asset: AssetDocument): DeliveredSlot[] {
    return inOrder(asset.slots).flatMap((laid) => {
      const seen = this.seen(asset, laid);
      return seen ? [seen] : [];
    });
  }

  private seen(asset: AssetDocument, laid: AssetSlot): DeliveredSlot | null {
    const source = Object.hasOwn(this.all, laid.blend) ? this.all[laid.blend] : undefined;
    const base = { slot: laid.slot, laid, tall: 1 };
    if (source?.kind === 'surface') {
      const roles = (Object.keys(source.maps) as Role[]).filter(isMaterialRole);
      const drawn: Drawn = { as: source.maps.opacity ? 'cut-out' : 'solid', cut: SOLID.cut };
      if (!isSpecimenName(asset.specimen))
        return { ...base, called: source.name, finished: source, material: null, roles, drawn, tall: tallOf(source.maps) };
      return {
        ...base,
        called: source.name,
        finished: null,
        material: this.masters.of(wornSurface(laid.blend, source), contextOf(this.all)),
        roles,
        drawn,
      };
    }
    if (source?.kind !== 'blend' && source?.kind !== 'master') return null;
    const material = this.materialOf(laid);
    if (!material) return null;
    const variant = source.kind === 'master' && laid.variant ? source.variants[laid.variant]?.name : undefined;
    return {
      ...base,
      called: variant ? `${source.name}: ${variant}` : source.name,
      finished: null,
      material,
      roles: givenRoles(material.near),
      drawn: material.drawn ?? SOLID,
    };
  }

  /** @param standing of a blend: where the mesh that it lies on stands */
  materialOf({ blend: id, variant }: AssetSlot, standing?: Parameters<BlendMaterials['of']>[1]): Material | null {
    const source = this.all[id];
    if (source?.kind === 'blend') return this.blends.of(stackOf(source, libraryOf(this.all)), standing);
    if (source?.kind === 'master') return this.masters.of(asVariant(source, variant), contextOf(this.all));
    return source?.kind === 'surface' ? this.masters.of(wornSurface(id, source), contextOf(this.all)) : null;
  }
}

/** The mesh of an asset with coordinates in which every place has a texel of its own. */
export interface OpenAsset {
  model: Model;
  frame: Frame;
  /** Whether coordinates of set 0 are metres, as in specimens of our own, which are then laid out in `page`. */
  metres: boolean;
  page: number | null;
  stacked: ReadonlySet<string>;
  notes: string[];
}

/** Reads the mesh of an asset; a specimen of our own is laid out in one tile. @throws UseCaseError */
export async function openAsset(ports: Pick<Ports, 'blobs'>, asset: AssetDocument, all: Documents, report: Report): Promise<OpenAsset> {
  const { specimen } = asset;
  const frame: Frame = { unitM: 1, up: 'y' };
  if (isSpecimenName(specimen)) {
    const [first] = inOrder(asset.slots).flatMap(({ blend }) => {
      const source = all[blend];
      return source?.kind === 'blend' || source?.kind === 'master' ? [source.extentM] : [];
    });
    const made = SPECIMEN_MODELS[specimen](first ?? 1);
    const { model, set } = await layOut({ ...made, lods: [made.lods[0]] }, 'repack', 0, 0, frame, report);
    const notes = made.lods.length > 1 ? [`${asset.name}: its reduced levels are left out, for each would be laid out in a texture of its own.`] : [];
    return { model, frame, metres: true, page: set, stacked: new Set(), notes };
  }
  const body = all[specimen];
  if (body?.kind !== 'specimen')
    throw new UseCaseError('missing-specimen', `${asset.name} stands on a specimen that was deleted. Choose another`, asset.name);
  const { model } = await readGltf(await ports.blobs.get(body.model));
  const pairs = allowedPairs(
    inOrder(body.parts).filter(({ level }) => level === 0),
    body.stacking,
  );
  const stacked = new Set(pairs.map((pair) => pair.join()));
  const own = { unitM: body.unitM, up: body.up };
  const set = Math.max(0, ...inOrder(asset.slots).map((s) => s.uvSet));
  const kept = model.lods.filter((parts, lod) => lod === 0 || samePage(model.lods[0], parts, set));
  const gone = model.lods.length - kept.length;
  const notes = gone
    ? [
        `${asset.name}: ${gone === 1 ? 'a reduced level is' : `${gone} reduced levels are`} left out, for they lie elsewhere on the texture than the finest.`,
      ]
    : [];
  return { model: { ...model, lods: kept }, frame: own, metres: false, page: null, stacked, notes };
}

/** Whether the slots of two levels lie on the same places of the texture. */
function samePage(fine: Model['lods'][number], coarse: Model['lods'][number], set: number): boolean {
  const cells = (parts: Model['lods'][number], slot: string) =>
    coveredCells(parts.filter((p) => p.slot === slot).map((p) => placed(p, undefined, set)));
  return [...new Set(coarse.map((p) => p.slot))].every((slot) => cellsAgree(cells(fine, slot), cells(coarse, slot)) >= SAME_PAGE);
}

/** The maps that a slot wears at a size. @throws UseCaseError, for islands that lie on each other too */
export async function slotMaps(
  ports: Ports,
  slots: Slots,
  {
    asset,
    all,
    open,
    of: seen,
    width,
    height,
  }: { asset: AssetDocument; all: Documents; open: OpenAsset; of: DeliveredSlot; width: number; height: number },
  report: Report,
): Promise<MapSet> {
  if (seen.finished) {
    const maps = await loadMaps(ports, seen.finished, [...seen.roles]);
    return Object.fromEntries(Object.entries(maps).map(([role, image]) => [role, resize(image, width, height)]));
  }
  const { laid } = seen;
  const source = all[laid.blend];
  const paint = source?.kind === 'blend' ? await paintedOn(ports.blobs, source, asset.specimen) : null;
  const extentM = seen.material?.extentM ?? 1;
  const how: LaidOn = {
    set: laid.uvSet,
    slot: laid.slot,
    times: laid.size,
    paint,
    stacked: open.stacked,
    metres: open.metres,
    ...(open.page === null ? {} : { page: open.page }),
  };
  const on = { ...blendMesh(open.model, extentM, open.frame, how), called: `${asset.name}, ${laid.slot}` };
  const material = slots.materialOf(laid, { standing: on.standing });
  if (!material) throw new UseCaseError('missing-blend', `${asset.name}: what sat on ${laid.slot} was deleted`, laid.slot);
  const from = await gather(material, readerOf(ports, libraryOf(all)), seen.roles, (done) => report(0.2 * done, seen.called));
  return evaluateOnMesh(material, from, on, width, seen.roles, (done, note) => report(0.2 + 0.8 * done, note));
}

/** Where slots of an asset lie on each other on its texture, which is said before anything is made. */
export function overlapOf(asset: AssetDocument, open: OpenAsset, { laid }: DeliveredSlot): string | null {
  const how: LaidOn = {
    set: laid.uvSet,
    slot: laid.slot,
    stacked: open.stacked,
    metres: open.metres,
    ...(open.page === null ? {} : { page: open.page }),
  };
  return findOverlap({ ...blendMesh(open.model, 1, open.frame, how), called: `${asset.name}, ${laid.slot}` })?.message ?? null;
}
