// The proof: what a bundle holds against what was authored, in texture space and under light.
import type { BundleFile, Image, LightData, MapSet, Proof, SurfaceFacts } from '@pebble/core';
import { compareImages, renderFlat } from '@pebble/core';
import type { OpenBundle } from '@pebble/formats/bundle';
import { mapsOfTexture } from '@pebble/formats/bundle';
import { UseCaseError } from '../errors';
import type { Ports, Report } from '../ports';
import type { Documents } from './slots';
import { Slots } from './slots';
import { isLossless } from './deliver';
import { qualityOf } from './finish';
import { Maker } from './make';
import { inMakingOrder, planDelivery } from './plan';

/** Side of the lit pictures that are compared, and the metres that they show. */
const LIT = 256;
const FACTS: SurfaceFacts = { sizeM: 1, reliefM: 0, mid: 0.5 };

/** Maps of a slot under the light, seen from straight above: the same view for what was authored and what was decoded. */
function lit(maps: MapSet, light: LightData): Image {
  return renderFlat(maps, FACTS, light, { size: LIT, widthM: 1 });
}

/**
 * Compares a bundle with the project that it was delivered from. What the project gives is worked out anew.
 * @throws UseCaseError for a bundle that holds what the project does not have (any more)
 */
export async function prove(ports: Ports, all: Documents, bundle: OpenBundle, report: Report): Promise<Proof> {
  const { manifest } = bundle;
  const slots = new Slots(all);
  const plan = planDelivery(all, { targets: Object.keys(manifest.targets) }, slots);
  const maker = new Maker(ports, all, slots, plan.project.exportNormal);
  const planned = new Map(plan.outputs.map((o) => [o.path, o]));
  const files = manifest.files.filter((f) => f.texture ?? (f.kind === 'height' || f.kind === 'weights'));
  const order = inMakingOrder(
    files.map((file) => {
      const output = planned.get(file.path);
      if (!output)
        throw new UseCaseError('bad-plan', `${file.path} is in the bundle, and the project gives no such file any more. Deliver again`, file.path);
      return { file, output, making: output.making };
    }),
  );
  const proof: Proof = { rows: [], lit: [] };
  const seen = new Map<string, { file: BundleFile; authored: MapSet; decoded: MapSet }>();
  for (const [i, { file, output }] of order.entries()) {
    report(i / order.length, file.path);
    const step: Report = (done, note) => report((i + done) / order.length, note);
    const authored = await maker.authored(output, step);
    if (!authored) continue;
    const bytes = await bundle.file(file);
    const lossless = file.texture ? isLossless(file.texture) : true;
    proof.rows.push({ path: file.path, lossless, quality: await qualityOf(ports, bytes, authored) });
    const { worn, texture } = file;
    if (!worn || !texture) continue;
    const key = `${file.target} ${worn.asset} ${worn.slot}`;
    const pair = seen.get(key) ?? { file, authored: {}, decoded: {} };
    Object.assign(pair.authored, mapsOfTexture(authored.levels[0], texture.channels, texture.green));
    Object.assign(
      pair.decoded,
      mapsOfTexture(await ports.codec.decode(bytes, texture.colourSpace === 'srgb' ? 'srgb' : 'data'), texture.channels, texture.green),
    );
    seen.set(key, pair);
  }
  const light = ports.light();
  for (const { file, authored, decoded } of seen.values()) {
    const [meant, came] = [lit(authored, light), lit(decoded, light)];
    const { channels, deltaE } = compareImages(meant, came, 'colour');
    proof.lit.push({
      asset: file.worn?.asset ?? '',
      slot: file.worn?.slot ?? '',
      target: file.target ?? '',
      max: 255 * Math.max(...channels.map((c) => c.max)),
      mean: (255 * channels.reduce((sum, c) => sum + c.mean, 0)) / channels.length,
      deltaE: { mean: deltaE?.mean ?? 0, p99: deltaE?.p99 ?? 0 },
    });
  }
  report(1, 'done');
  return proof;
}
