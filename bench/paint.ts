import type { Brush, Mesh } from '@pebble/core';
import {
  Brushing,
  Bvh,
  DEFAULT_BRUSH,
  HILLSIDE,
  MeshMaskPainter,
  TerrainDetail,
  VertexPainter,
  blendMaterial,
  fieldMesh,
  finerTimes,
  hillside,
  makeBlend,
  makeCue,
  makeImage,
  makeLayer,
  makeStack,
  placeAt,
  ruledCoverages,
  storedCoverages,
  terrainTiles,
} from '@pebble/core';
import { LiveMask, packMask } from '@pebble/stage/textures';
import { ms, often, peakBeyond, table, timed } from './measure';

/** Dabs of a stroke that goes over the hill, a quarter of a radius apart. */
const DABS = 120;

/** Places of the hill along a line, in metres. */
function along(mesh: Pick<Mesh, 'position' | 'index'>, tree: Bvh, radiusM: number): (readonly [number, number, number])[] {
  return Array.from({ length: DABS }, (_, k) => {
    const hit = tree.first([-180 + (k * radiusM) / 4, 1000, 20], [0, -1, 0]);
    return hit ? placeAt(mesh, hit) : [0, 0, 0];
  });
}

export async function paint(): Promise<void> {
  await strokes();
  await terrain();
}

async function strokes(): Promise<void> {
  const field = hillside(1025);
  const mesh = fieldMesh(field, 4, HILLSIDE.footM);
  const uv = Float32Array.from(mesh.texcoord, (v) => v / HILLSIDE.acrossM + 0.5);
  const tree = new Bvh(mesh);
  const rows: [string, string][] = [];
  for (const [side, radiusM] of [
    [2048, 4],
    [4096, 4],
  ] as const) {
    let painter = null as MeshMaskPainter | null;
    const memory = await peakBeyond(() => {
      painter = new MeshMaskPainter({ ...mesh, uv }, side, side, new Uint8Array(side * side));
      painter.prepare();
    });
    const made = painter as unknown as MeshMaskPainter;
    const places = along(mesh, tree, radiusM);
    const brush: Brush = { ...DEFAULT_BRUSH, radiusM };
    const live = new LiveMask(packMask(makeImage({ width: side, height: side, channels: 1 }), 0, 1024), made.sheet);
    const stroke = (after: () => void) => {
      made.begin(brush, 'add');
      const going = new Brushing(made, mesh, tree, brush);
      for (const place of places) {
        going.toPlace(place, 1);
        after();
      }
      made.sheet.cancel();
      made.sheet.takeShown();
    };
    const whole = await timed(8, () => stroke(() => live.update(made.sheet.takeShown())));
    // Counted apart: what looks at every pixel would be timed with it.
    let [touched, passed] = [0, 0];
    let before = made.bytesNow();
    stroke(() => {
      const now = made.bytesNow();
      for (let i = 0; i < now.length; i++) if (now[i] !== before[i]) touched++;
      before = now;
      for (const region of live.update(made.sheet.takeShown())) passed += region.data.length;
    });
    const texture = touched * (1024 / side) ** 2;
    rows.push([
      `a dab of ${radiusM} m on a mask of ${side}² and its texture, in the worker (reach < 8 ms)`,
      `${ms(whole / DABS)}, ${memory.toFixed(0)} MiB`,
    ]);
    rows.push([`  bytes that go over for each touched texel of the stage, levels and all (reach < 3)`, (passed / texture).toFixed(2)]);
  }
  const fine = finerTimes(fieldMesh(hillside(257), 1, HILLSIDE.footM), often(2, 1));
  const vertices = new VertexPainter(fine);
  const above = new Bvh(fine);
  const places = along(fine, above, 4);
  const brush: Brush = { ...DEFAULT_BRUSH, radiusM: 4 };
  const stroke = await timed(8, () => {
    vertices.begin(brush, 'r', 'add');
    const going = new Brushing(vertices, fine, above, brush);
    for (const place of places) going.toPlace(place, 1);
    vertices.cancel();
    vertices.takeShown();
  });
  rows.push([`a dab of 4 m on ${vertices.vertices.toLocaleString('en')} vertices (reach < 8 ms)`, ms(stroke / DABS)]);
  table(`Strokes of ${DABS} dabs over the hillside (8 runs)`, rows);
}

async function terrain(): Promise<void> {
  const cues = [
    makeCue('slope', { centre: 30, width: 10 }),
    makeCue('altitude', { from: 'world', centre: 1800, width: 30 }),
    makeCue('noise', { sizeM: 20, over: 'world' }),
    makeCue('convexity', { centre: 0.02, width: 0.02 }),
    makeCue('slope', { centre: 45, width: 6 }),
    makeCue('noise', { sizeM: 8, over: 'world', seed: 4 }),
    makeCue('altitude', { from: 'world', centre: 1850, width: 20 }),
  ];
  const even = { kind: 'constant', baseColor: '#808080', roughness: 0.5, metallic: 0, heightM: 0 } as const;
  const layers = {
    a: makeLayer(even, 'Ground', 0),
    ...Object.fromEntries(cues.map((c, i) => [`l${i}`, makeLayer(even, `L${i}`, i + 1, { coverage: { c } })])),
  };
  const material = blendMaterial(makeStack(makeBlend('x', { extentM: 6, standsAtM: HILLSIDE.footM, layers }), {}));
  const none = () => {
    throw new Error('no map is read');
  };
  const side = often(1025, 129);
  const field = hillside(side);
  const coverages = ruledCoverages(field, material, none, HILLSIDE.footM);
  const laid = await timed(3, () => ruledCoverages(field, material, none, HILLSIDE.footM));
  const stored = await timed(3, () => storedCoverages(coverages));
  const large = often(4097, 257);
  const layersOf = Array.from({ length: 8 }, (_, l) => new Uint8Array(large * large).fill(l ? 0 : 255));
  for (let l = 1; l < 8; l++) for (let i = l * 977; i < large * large; i += 8191 * l) layersOf[l][i] = 3;
  const counted = await timed(3, () => terrainTiles({ width: large, height: large, layers: layersOf }, 64));
  const detail = new TerrainDetail(hillside(side), HILLSIDE.footM);
  const sight = { eye: [0, 160, 420], pixelsPerMetre: 400 / (2 * Math.tan(0.31)), tolerancePx: 0.75 } as const;
  let triangles = 0;
  const seen = await timed(5, () => (triangles = detail.mesh(sight).mesh.index.length / 3));
  table(`A ground of eight layers on a terrain (3 runs)`, [
    [`its sentences on ${side}² samples`, ms(laid)],
    [`  their weights as they are stored`, ms(stored)],
    [`tiles of ${large}² × 8 layers (reach < 500 ms)`, ms(counted)],
    [`a mesh as fine as it is seen on 400 lines, ${triangles.toLocaleString('en')} triangles`, ms(seen)],
  ]);
}
