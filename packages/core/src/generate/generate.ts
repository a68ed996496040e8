import type { DagNode, Values } from '../compile';
import { CpuProgram, flatDomain, optimise } from '../compile';
import type { Image } from '../image';
import { makeImage, srgbByte } from '../image';
import { hash3 } from '../noise';
import { Kit } from './kit';
import type { Recipe } from './recipe';
import type { Gains } from './even';
import { LIGHT_CELLS, applyGains, evenGains, sumLight } from './even';
import { EVEN_SPAN_M, storedHeight } from './recipe';
import { RECIPES } from './recipes';
import type { Rows } from '../surface';
import { surroundings, wear } from '../surface';
import type { BlendRole, SurfaceFacts } from '../surface';

/** Surfaces made by our own code. */
export const GENERATORS = RECIPES satisfies Record<string, Recipe>;
export type GeneratorName = keyof typeof GENERATORS;
export const isGeneratorName = (text: string): text is GeneratorName => Object.hasOwn(GENERATORS, text);
export const recipeOf = (name: GeneratorName): Recipe => GENERATORS[name];

/** Strengths of structures by name, 0–2; 1 where nothing is said. */
export type Amounts = Readonly<Record<string, number>>;

export interface GeneratedSurface {
  name: GeneratorName;
  seed: number;
  facts: SurfaceFacts;
  maps: Record<BlendRole, Image>;
}

/** What decides the pixels of a surface. */
export interface SurfaceOrder {
  name: GeneratorName;
  seed: number;
  /** Side of the square maps in pixels, 1 to 16384. */
  size: number;
  amounts?: Amounts;
}

interface Programs {
  height: CpuProgram;
  look: CpuProgram;
}
const compiled = new Map<GeneratorName, Programs>();

/** Both programs of a surface; compiled once, as seeds and amounts are values. */
function programsOf(name: GeneratorName): Programs {
  let found = compiled.get(name);
  if (!found) {
    const recipe = recipeOf(name);
    const kit = new Kit(recipe.sizeM, Object.keys(recipe.structures));
    const program = (outputs: Record<string, DagNode>) => new CpuProgram(optimise(outputs).outputs);
    const { baseColor, roughness, metallic } = recipe.look(kit);
    found = {
      height: program({ t: storedHeight(kit, recipe.height(kit), recipe) }),
      look: program({ baseColor, data: kit.b.combine(kit.clamp(roughness), kit.clamp(metallic)) }),
    };
    compiled.set(name, found);
  }
  return found;
}

/** @throws RangeError for a structure that the surface does not have, or a strength outside 0–2 */
function valuesOf({ name, seed, amounts = {} }: SurfaceOrder): Values {
  const { structures } = recipeOf(name);
  for (const [structure, amount] of Object.entries(amounts)) {
    if (!Object.hasOwn(structures, structure))
      throw new RangeError(`${name} has no structure called ${structure}; it has ${Object.keys(structures).join(', ')}`);
    if (!(amount >= 0 && amount <= 2)) throw new RangeError(`${structure} goes from 0 to 2, not ${amount}`);
  }
  const strengths = Object.keys(structures).map((s) => [`a_${s}`, [amounts[s] ?? 1]] as const);
  // 23 bits, so that the keys of a recipe can be added and a float still carries the sum.
  return { seed: [hash3(seed, 0, 0) >>> 9], ...Object.fromEntries(strengths) };
}

/** Six empty maps and what they are made from. `shared` lets several threads fill them. */
export interface Canvas {
  /** Heights in metres. */
  heightM: Float32Array;
  /** Light of every row of base colour, summed over cells side by side. */
  light: Float32Array;
  maps: Record<BlendRole, Image>;
}
export function makeCanvas(size: number, shared = false): Canvas {
  const memory = (bytes: number) => (shared ? (new SharedArrayBuffer(bytes) as unknown as ArrayBuffer) : new ArrayBuffer(bytes));
  const n = size * size;
  const map = (channels: number, srgb = false) =>
    makeImage({ width: size, height: size, channels, colourSpace: srgb ? 'srgb' : 'data', data: new Uint8Array(memory(n * channels)) });
  const height = makeImage({ width: size, height: size, channels: 1, depth: 16, data: new Uint16Array(memory(n * 2)) });
  return {
    heightM: new Float32Array(memory(n * 4)),
    light: new Float32Array(memory(size * LIGHT_CELLS * 4)),
    maps: { baseColor: map(3, true), normal: map(3), roughness: map(1), occlusion: map(1), metallic: map(1), height },
  };
}

/** First stage, row by row: heights as they are drawn. */
export function drawHeights(order: SurfaceOrder, { heightM }: Canvas, rows: Rows): void {
  const { size } = order;
  const { reliefM, mid } = recipeOf(order.name);
  programsOf(order.name).height.run({ domain: flatDomain(size, size), values: valuesOf(order), rows }, (tile, planes) => {
    const [t] = planes('t');
    for (let y = 0, k = 0; y < tile.height; y++)
      for (let x = 0, at = (tile.y + y) * size + tile.x; x < tile.width; x++, k++, at++) heightM[at] = (t[k] - mid) * reliefM;
  });
}

/** Second stage, row by row: heights are worn and stored. */
export function storeHeights({ name, size }: SurfaceOrder, { heightM, maps }: Canvas, rows: Rows): void {
  const { worn, reliefM, mid, sizeM } = recipeOf(name);
  const first = rows[0] * size;
  const metres = worn ? wear(heightM, size, sizeM / size, worn, rows) : heightM.subarray(first, rows[1] * size);
  for (let i = 0; i < metres.length; i++) maps.height.data[first + i] = Math.round(Math.min(1, Math.max(0, metres[i] / reliefM + mid)) * 65535);
}

/** Third stage, row by row: heights are taken back from what is stored, so that every map belongs to it. */
export function returnHeights({ name, size }: SurfaceOrder, { heightM, maps }: Canvas, rows: Rows): void {
  const { reliefM, mid } = recipeOf(name);
  for (let i = rows[0] * size; i < rows[1] * size; i++) heightM[i] = (maps.height.data[i] / 65535 - mid) * reliefM;
}

const byte = (v: number) => Math.floor(v * 255 + 0.5);

/** Fourth stage, row by row: everything that looks at the heights around. */
export function drawLook(order: SurfaceOrder, { heightM, light, maps }: Canvas, rows: Rows): void {
  const { name, size } = order;
  const { reliefM, mid, sizeM } = recipeOf(name);
  const { normals, relief } = surroundings(heightM, size, size, sizeM / size, rows, (m) => m / reliefM + mid);
  const first = rows[0] * size;
  const n = (rows[1] - rows[0]) * size;
  for (let i = 0; i < n * 3; i++) maps.normal.data[first * 3 + i] = byte(normals[i] * 0.5 + 0.5);
  for (let i = 0; i < n; i++) maps.occlusion.data[first + i] = byte(relief[i * 4 + 3]);
  const flat = flatDomain(size, size);
  const domain: typeof flat = {
    ...flat,
    fill(input, tile, memory, out, count) {
      if (input !== 'relief') return flat.fill(input, tile, memory, out, count);
      for (let y = 0; y < tile.height; y++)
        for (let x = 0; x < tile.width; x++) {
          const from = ((tile.y + y - rows[0]) * size + tile.x + x) * 4;
          for (let c = 0; c < 4; c++) memory[out[c] + y * tile.width + x] = relief[from + c];
        }
    },
  };
  programsOf(name).look.run({ domain, values: valuesOf(order), rows }, (tile, planes) => {
    const [red, green, blue] = planes('baseColor');
    const [rough, metal] = planes('data');
    for (let y = 0, k = 0; y < tile.height; y++)
      for (let x = 0, at = (tile.y + y) * size + tile.x; x < tile.width; x++, k++, at++) {
        maps.baseColor.data[at * 3] = srgbByte(red[k]);
        maps.baseColor.data[at * 3 + 1] = srgbByte(green[k]);
        maps.baseColor.data[at * 3 + 2] = srgbByte(blue[k]);
        maps.roughness.data[at] = byte(rough[k]);
        maps.metallic.data[at] = byte(metal[k]);
      }
  });
  sumLight(maps.baseColor, light, rows);
}

/** Between stages, at once: how the light and dark of wide spans is to be evened out. */
export function weighLook({ name, size }: SurfaceOrder, { light }: Canvas): Gains {
  const { even, sizeM } = recipeOf(name);
  return evenGains(light, size, EVEN_SPAN_M / sizeM, even);
}

/** Last stage, row by row: it is evened out. */
export const evenLook = ({ maps }: Canvas, gains: Gains, rows: Rows): void => applyGains(maps.baseColor, gains, rows);

/** Rows that one thread takes at a time when the whole is drawn here: memory for surroundings stays that of a band. */
const BAND = 512;

export function bandsOf(size: number, count = Math.ceil(size / BAND)): Rows[] {
  return Array.from({ length: count }, (_, i) => [Math.floor((i * size) / count), Math.floor(((i + 1) * size) / count)] as const);
}

export const surfaceOf = ({ name, seed }: SurfaceOrder, { maps }: Canvas): GeneratedSurface => {
  const { sizeM, reliefM, mid } = recipeOf(name);
  return { name, seed, facts: { sizeM, reliefM, mid }, maps };
};

/** Everything up to evening out, each stage over all rows before the next; the share of the work that it is. */
export const DRAWING_STAGES = [
  { name: 'heights', stage: drawHeights, share: 0.4 },
  { name: 'wear', stage: storeHeights, share: 0.04 },
  { name: 'relief', stage: returnHeights, share: 0.01 },
  { name: 'look', stage: drawLook, share: 0.5 },
] as const;
export type DrawingStage = (typeof DRAWING_STAGES)[number]['name'];

/**
 * The stages of a surface in this thread, one step a band; after each the share that is done. Whoever runs them may let
 * others in between steps, or stop.
 */
export function* drawingSteps(order: SurfaceOrder, canvas: Canvas, bands: readonly Rows[] = bandsOf(order.size)): Generator<number, void> {
  let done = 0;
  for (const { stage, share } of DRAWING_STAGES) {
    for (const rows of bands) {
      stage(order, canvas, rows);
      yield (done += share / bands.length);
    }
  }
  const gains = weighLook(order, canvas);
  for (const rows of bands) {
    evenLook(canvas, gains, rows);
    yield done;
  }
}

/**
 * Draws a surface in this thread: base colour, normal, roughness, occlusion and metallic with 8 bits, height with 16.
 * Tileable; the same order gives the same samples anywhere.
 * @throws RangeError for an amount that does not fit
 */
export function generateSurface(
  name: GeneratorName,
  options: Omit<SurfaceOrder, 'name'> & { onProgress?: (done: number) => void },
): GeneratedSurface {
  const { onProgress, ...rest } = options;
  const order: SurfaceOrder = { name, ...rest };
  const canvas = makeCanvas(order.size);
  for (const done of drawingSteps(order, canvas)) onProgress?.(done);
  onProgress?.(1);
  return surfaceOf(order, canvas);
}
