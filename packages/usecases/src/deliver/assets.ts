// Assets as they leave: a mesh whose slots wear pictures, and nothing that only this program could work out.
import type { AssetDocument, AssetSlot, Frame, MapSet, Model, PreflightFacts } from '@pebble/core';
import { SPECIMEN_MODELS, allowedPairs, bareRims, cellsAgree, coveredCells, inOrder, isSpecimenName, placed, resize } from '@pebble/core';
import { readGltf } from '@pebble/formats/mesh';
import { gather, libraryOf, readerOf } from '../blends';
import { UseCaseError } from '../errors';
import { layOut } from '../layout';
import { loadMap, loadMaps } from '../maps';
import type { LaidOn } from '../on-mesh';
import { blendMesh, evaluateOnMesh, findOverlap, paintedOn } from '../on-mesh';
import type { Ports, Report } from '../ports';
import { wornSlots } from './facts';
import type { DeliveryPlan } from './plan';
import type { DeliveredSlot, Documents, Slots } from './slots';

/** Parts of levels that lie elsewhere on the texture than the finest one would wear what is not theirs. */
const SAME_PAGE = 0.8;

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

/** Metres that a specimen of our own is made for: those of what sits on its first slot. Null of meshes that were brought in. */
export function ownExtent({ specimen, slots }: AssetDocument, all: Documents): number | null {
  if (!isSpecimenName(specimen)) return null;
  for (const { blend } of inOrder(slots)) {
    const source = all[blend];
    if (source?.kind === 'blend' || source?.kind === 'master') return source.extentM;
  }
  return 1;
}

/** Reads the mesh of an asset; a specimen of our own is laid out in one tile. @throws UseCaseError */
export async function openAsset(ports: Pick<Ports, 'blobs'>, asset: AssetDocument, all: Documents, report: Report): Promise<OpenAsset> {
  const { specimen } = asset;
  const frame: Frame = { unitM: 1, up: 'y' };
  if (isSpecimenName(specimen)) {
    const made = SPECIMEN_MODELS[specimen](ownExtent(asset, all) ?? 1);
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

/** How a slot lies on the mesh of its asset. */
const laidOn = ({ stacked, metres, page }: OpenAsset, { uvSet: set, slot }: AssetSlot): LaidOn => ({ set, slot, stacked, metres, page: page ?? set });

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
  const how: LaidOn = { ...laidOn(open, laid), times: laid.size, paint };
  const called = `${asset.name}, ${laid.slot}`;
  const on = { ...blendMesh(open.model, extentM, open.frame, how), called };
  const material = slots.materialOf(laid, { standing: on.standing });
  if (!material) throw new UseCaseError('missing-blend', `What sat on ${laid.slot} of ${asset.name} was deleted`, laid.slot);
  const from = await gather(material, readerOf(ports, libraryOf(all)), seen.roles, (done) => report(0.2 * done, seen.called));
  return evaluateOnMesh(material, from, on, width, seen.roles, (done, note) => report(0.2 + 0.8 * done, note));
}

/** Where slots of an asset lie on each other on its texture, which is said before anything is made. */
export function overlapOf(asset: AssetDocument, open: OpenAsset, { laid }: DeliveredSlot): string | null {
  return findOverlap({ ...blendMesh(open.model, 1, open.frame, laidOn(open, laid)), called: `${asset.name}, ${laid.slot}` })?.message ?? null;
}

/** Share of bare rims from which smaller levels show them. */
const BARE = 0.25;

/** Whether the islands of a finished surface end where its colours do; null where they go on beyond. */
async function bareOf(
  ports: Pick<Ports, 'blobs' | 'codec'>,
  asset: AssetDocument,
  open: OpenAsset,
  { finished, laid, slot }: DeliveredSlot,
): Promise<string | null> {
  const entry = finished?.maps.baseColor;
  if (!finished || !entry) return null;
  const image = await loadMap(ports, entry, 'baseColor');
  const own = open.model.lods[0].filter((p) => p.slot === slot).map((p) => placed(p, undefined, laid.uvSet));
  const share = bareRims(image, own);
  return share > BARE
    ? `${asset.name}, ${slot}: beyond ${Math.round(100 * share)} % of the rims of its islands ${finished.name} has its ground at once, which smaller levels carry inwards. Pad its islands where it was baked`
    : null;
}

/** What only meshes and pixels tell: islands that lie on each other. */
export async function lookAtMeshes(
  ports: Pick<Ports, 'blobs' | 'codec'>,
  plan: DeliveryPlan,
  all: Documents,
  report: Report,
): Promise<PreflightFacts['seen']> {
  const worn = wornSlots(plan);
  const assets = [...new Map(worn.map((w) => [w.assetId, w.asset])).entries()];
  const seen: PreflightFacts['seen'] = [];
  for (const [i, [assetId, asset]] of assets.entries()) {
    report(i / assets.length, `looking at ${asset.name}`);
    try {
      const open = await openAsset(ports, asset, all, () => undefined);
      for (const message of open.notes) seen.push({ assetId, code: 'levels', message });
      for (const { of } of worn.filter((w) => w.assetId === assetId)) {
        const overlap = of.finished ? null : overlapOf(asset, open, of);
        if (overlap) seen.push({ assetId, code: 'overlap', message: overlap });
        const bare = await bareOf(ports, asset, open, of);
        if (bare) seen.push({ assetId, code: 'unpadded', message: bare });
      }
    } catch (error) {
      if (!(error instanceof UseCaseError)) throw error;
      seen.push({ assetId, code: 'overlap', message: error.message });
    }
  }
  return seen;
}
