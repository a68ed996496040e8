// What sits on the slots of an asset that is delivered, before any mesh is read.
import type { AnyDocument, AssetDocument, AssetSlot, Drawn, MasterDocument, Material, MaterialRole, Role, SurfaceDocument } from '@pebble/core';
import { BlendMaterials, MasterMaterials, SOLID, asVariant, givenRoles, inOrder, isMaterialRole, isSpecimenName, wornSurface } from '@pebble/core';
import { blendSurfaces, libraryOf, stackOf } from '../blends';

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
}

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
    const base = { slot: laid.slot, laid };
    if (source?.kind === 'surface') {
      const roles = (Object.keys(source.maps) as Role[]).filter(isMaterialRole);
      const drawn: Drawn = { as: source.maps.opacity ? 'cut-out' : 'solid', cut: SOLID.cut };
      if (!isSpecimenName(asset.specimen)) return { ...base, called: source.name, finished: source, material: null, roles, drawn };
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

  /** A slot as it is in each variant of the master that it wears. */
  variantsOf(asset: AssetDocument, { laid }: DeliveredSlot): { name: string; of: DeliveredSlot }[] {
    const source = Object.hasOwn(this.all, laid.blend) ? this.all[laid.blend] : undefined;
    if (source?.kind !== 'master') return [];
    return inOrder(source.variants).flatMap(({ id, name }) => {
      const of = this.seen(asset, { ...laid, variant: id });
      return of ? [{ name, of }] : [];
    });
  }

  /** A master as all of its variants inherit it; null where its graph has a mistake, which its own files say. */
  master(master: MasterDocument): Material | null {
    const context = contextOf(this.all);
    return this.masters.lowering(master, context).error ? null : this.masters.of(master, context);
  }

  /** @param standing of a blend: where the mesh that it lies on stands */
  materialOf({ blend: id, variant }: AssetSlot, standing?: Parameters<BlendMaterials['of']>[1]): Material | null {
    const source = this.all[id];
    if (source?.kind === 'blend') return this.blends.of(stackOf(source, libraryOf(this.all)), standing);
    if (source?.kind === 'master') return this.masters.of(asVariant(source, variant), contextOf(this.all));
    return source?.kind === 'surface' ? this.masters.of(wornSurface(id, source), contextOf(this.all)) : null;
  }
}
