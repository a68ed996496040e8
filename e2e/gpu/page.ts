// Runs in the browser: cases of core on the GPU in exact mode and on the CPU, and pictures of the stage.
import type { BlendDocument, BlendSurface, DagNode, Domain, ImageChannel, Mesh, PackedSurface, Values } from '@pebble/core';
import {
  Builder,
  COMPONENTS,
  allOperations,
  computeLight,
  evaluate,
  emitGlsl,
  flatDomain,
  furnace,
  generateSurface,
  linearToSrgb,
  shadePoint,
  lowerBlend,
  makeCue,
  makeLayer,
  makeSpecimen,
  makeFlat,
  merged as mergeMeshes,
  makeStack,
  optimise,
  NO_KEY,
  SKIES,
  sourcesOfPacked,
  specimenColour,
  stackValues,
  makeRandom,
  frameValues,
} from '@pebble/core';
import type { StageLook } from '@pebble/stage';
import { BlendStage, KEY_SHARE, LIGHT_UNITS, evaluateExact, eyeOf, frameOrbit, packSurface, passed } from '@pebble/stage';

export interface Agreement {
  name: string;
  /** Largest |Δ| / max(1, |x|). */
  worst: number;
  /** Share of values past 1e-4. */
  beyond: number;
  finite: boolean;
}

const gl = () => {
  const canvas = document.createElement('canvas');
  return canvas.getContext('webgl2') as WebGL2RenderingContext;
};

function compare(name: string, cpu: Record<string, Float32Array[]>, gpu: Record<string, Float32Array[]>): Agreement {
  let worst = 0;
  let beyond = 0;
  let count = 0;
  let finite = true;
  for (const [key, planes] of Object.entries(cpu))
    planes.forEach((plane, c) =>
      plane.forEach((v, i) => {
        const w = gpu[key][c][i];
        finite &&= Number.isFinite(v) && Number.isFinite(w);
        const off = Math.abs(v - w) / Math.max(1, Math.abs(v));
        if (off > worst) worst = off;
        if (off > 1e-4) beyond++;
        count++;
      }),
    );
  return { name, worst, beyond: beyond / count, finite };
}

const N = 48;
/** Pixel inputs that reach over the ranges that operations meet, edges included. */
function wideDomain(): Domain {
  const next = makeRandom(5);
  const fill = (k: number, f: (i: number) => number) => Float32Array.from({ length: N * N * k }, (_, i) => f(i));
  return flatDomain(N, N, 2, {
    texcoord: fill(2, () => next() * 4 - 1.5),
    position: fill(3, () => next() * 4 - 2),
    normal: fill(3, (i) => [0, 1, 0][i % 3]),
    geomcolor: fill(4, (i) => (i % 17 === 0 ? (i / 17) % 2 : next())),
  });
}

/** Every operation of the registry alone, on wide inputs. */
async function operations(): Promise<Agreement[]> {
  const context = gl();
  const packed = [packSurface(generateSurface('terrace-stone', { seed: 3, size: 64 }).maps, 64)];
  const finder = packed.map(sourcesOfPacked);
  const out: Agreement[] = [];
  for (const op of allOperations()) {
    const b = new Builder();
    const inputs: DagNode[] = op.inputs.map((port, i) => {
      const wide = [b.node('geomcolor'), b.node('position')][i % 2];
      if (op.name === 'image') return i === 0 ? b.texcoord() : b.multiply(b.extract(b.node('geomcolor'), 0), b.constant(3));
      if (op.name === 'crossover' || op.name === 'ramp')
        return [
          b.extract(b.node('position'), 0),
          b.extract(b.node('position'), 1),
          b.constant(0.7),
          b.extract(b.node('geomcolor'), 1),
          b.extract(b.node('geomcolor'), 2),
          b.extract(b.node('geomcolor'), 3),
          b.constant(0.1),
        ][i];
      if (port.name === 'period') return b.constant(7);
      if (port.name === 'seed') return b.constant(1234567);
      if (port.name === 'octaves') return b.constant(4);
      if (port.type === 'any')
        return op.price.perComponent || op.name === 'dotproduct' || op.name === 'normalize'
          ? b.combine(b.extract(wide, 0), b.extract(wide, 1), b.extract(b.node('geomcolor'), i % 4))
          : b.node('position');
      const k = COMPONENTS[port.type];
      const parts = Array.from({ length: k }, (_, c) =>
        port.name === 'texcoord' ? b.extract(b.texcoord(), c % 2) : b.extract(b.node('geomcolor'), (c + i) % 4),
      );
      return k === 1 ? parts[0] : b.combine(...parts);
    });
    const variants: Record<string, object> = {
      constant: { value: [0.1, -2.5] },
      value: { name: 'x', type: 'vec2', lo: 'none', hi: 'none' },
      extract: { index: 1 },
      ramp: { shape: 'smooth' },
      imagelevel: { slot: 0, channel: 'height' },
    };
    const attrs =
      op.name === 'image'
        ? (['baseColor', 'opacity', 'normal', 'roughness', 'occlusion', 'metallic', 'height', 'spread'] as const).map((channel) => ({
            slot: 0,
            channel,
          }))
        : [variants[op.name] ?? {}];
    for (const attr of attrs) {
      const node = b.node(op.name, inputs, attr as never);
      const domain = wideDomain();
      const values: Values = { x: [0.25, -3] };
      const sources = (slot: number, channel: ImageChannel) => finder[slot](channel);
      const cpu = evaluate({ y: node }, { domain, values, sources });
      out.push(
        compare(
          `${op.name}${'channel' in attr ? ` ${String(attr.channel)}` : ''}`,
          cpu,
          await evaluateExact(context, { y: node }, domain, values, packed),
        ),
      );
    }
  }
  return out;
}

function threeLayers(size: number): { blend: BlendDocument; surfaces: Record<string, BlendSurface>; packed: Record<string, PackedSurface> } {
  const made = {
    stone: generateSurface('terrace-stone', { seed: 3, size }),
    clay: generateSurface('laterite-clay', { seed: 4, size }),
    moss: generateSurface('cushion-moss', { seed: 5, size }),
  };
  const surfaces = Object.fromEntries(
    Object.entries(made).map(([id, s]) => [id, { ...s.facts, roles: new Set(Object.keys(s.maps)) as BlendSurface['roles'] }]),
  );
  const seam = (over: object) => ({ ...makeLayer('', '', 0).seam, ...over });
  const blend: BlendDocument = {
    kind: 'blend',
    version: 1,
    name: 'x',
    extentM: 2.4,
    specimen: 'patch',
    cut: { ax: 0, ay: 0, bx: 1, by: 1 },
    layers: {
      a: makeLayer('stone', 'Stone', 1),
      b: makeLayer('clay', 'Clay', 2, {
        coverage: { n: makeCue('noise', { centre: 0.5, width: 0.3, seed: 7 }), k: makeCue('constant', { order: 2, join: 'atMost', value: 0.9 }) },
        seam: seam({ soft: 0.15, follow: 0.2 }),
      }),
      c: makeLayer('moss', 'Moss', 3, {
        coverage: {
          v: makeCue('vertexColour', { channel: 'g', width: 0.8 }),
          n: makeCue('noise', { order: 2, join: 'butNot', inverted: true, shape: 'straight', amount: 0.7 }),
        },
        seam: seam({ soft: 0.1, liftM: 0.004, bias: 0.4, broken: { byM: 0.006, atM: 0.3, octaves: 3, seed: 9 } }),
      }),
    },
  };
  return { blend, surfaces, packed: Object.fromEntries(Object.entries(made).map(([id, s]) => [id, packSurface(s.maps, size)])) };
}

/** A whole blend in exact mode, near (level 0) and far (mips and spread). */
async function blends(): Promise<Agreement[]> {
  const { blend, surfaces, packed } = threeLayers(64);
  const stack = makeStack(blend, surfaces);
  const slots = stack.slots.map((id) => packed[id]);
  const finder = slots.map(sourcesOfPacked);
  const out: Agreement[] = [];
  for (const [name, far, size] of [
    ['near', false, 64],
    ['far', true, 24],
    ['enlarged', true, 100],
  ] as const) {
    const geomcolor = new Float32Array(size * size * 4);
    for (let i = 0; i < size * size; i++) specimenColour(((i % size) + 0.5) / size, (Math.floor(i / size) + 0.5) / size, geomcolor, i * 4);
    const domain = flatDomain(size, size, 2.4, { geomcolor });
    const lowered = lowerBlend(stack, { far });
    const { outputs, hoisted } = optimise({ ...lowered.channels, identity: lowered.identity }, { hoist: true });
    const values = frameValues(hoisted, { ...stackValues(stack), footprint_x: domain.footprint.x, footprint_y: domain.footprint.y });
    const cpu = evaluate(outputs, { domain, values, sources: (slot, channel) => finder[slot](channel) });
    out.push(compare(name, cpu, await evaluateExact(gl(), outputs, domain, values, slots)));
  }
  return out;
}

function pixels(context: WebGL2RenderingContext, width: number, height: number): Uint8Array {
  const out = new Uint8Array(width * height * 4);
  context.bindFramebuffer(context.FRAMEBUFFER, null);
  context.readPixels(0, 0, width, height, context.RGBA, context.UNSIGNED_BYTE, out);
  return out;
}

const settled = (stage: BlendStage) =>
  new Promise<void>((resolve) => {
    stage.onFrame = ({ scale }) => {
      if (scale === 1) resolve();
    };
  });

/** How a stage of these cases looks at things, but for what is said. */
const lookOf = (over: Partial<StageLook>): StageLook => ({
  orbit: frameOrbit(2.4),
  flat: { u: 0.5, v: 0.5, span: 1 },
  channel: 'lit',
  turn: 0,
  exposure: 1,
  mapped: true,
  shadow: false,
  perMetre: 0,
  bounds: [0, 1],
  ...over,
});
const PANE = { specimen: { x: 0, y: 0, width: 1, height: 1 }, flat: { x: 0, y: 0, width: 0, height: 0 } };

/** Puts one plain material on the stage and waits for its picture. */
async function showMaterial(stage: BlendStage, albedo: readonly number[], rough: number, metal: number): Promise<void> {
  const b = new Builder();
  const outputs = {
    baseColor: b.constant(...albedo),
    normal: b.constant(0, 0, 1),
    roughness: b.value('rough'),
    occlusion: b.constant(1),
    metallic: b.value('metal'),
    height: b.constant(0),
    identity: b.constant(1, 1, 1),
  };
  const done = settled(stage);
  stage.setProgram(emitGlsl(outputs, 'live', LIGHT_UNITS), [], { rough: [rough], metal: [metal] }, []);
  await done;
}

/** The stage in live mode on the flat against the CPU: differences of base colour in 1/255, sorted shares. */
async function live(): Promise<{ p99: number; most: number }> {
  const size = 128;
  const { blend, surfaces, packed } = threeLayers(size);
  const stack = makeStack(blend, surfaces);
  const slots = stack.slots.map((id) => packed[id]);
  const canvas = Object.assign(document.createElement('canvas'), { width: size, height: size });
  const stage = new BlendStage(canvas, computeLight(SKIES.overcast, 16, 8, 16));
  stage.panes = { specimen: { x: 0, y: 0, width: 0, height: 0 }, flat: { x: 0, y: 0, width: 1, height: 1 } };
  const lowered = lowerBlend(stack, { far: true });
  const { outputs, hoisted } = optimise({ ...lowered.channels, identity: lowered.identity }, { hoist: true });
  stage.look = lookOf({ channel: 'roughness', bounds: [stack.lo, stack.hi] });
  stage.setSpecimen(makeSpecimen('patch', 2.4), makeFlat(1, size));
  const done = settled(stage);
  stage.setProgram(emitGlsl(outputs, 'live', LIGHT_UNITS), hoisted, stackValues(stack), slots);
  await done;
  const shown = pixels(stage.gl, size, size);
  const geomcolor = new Float32Array(size * size * 4);
  for (let i = 0; i < size * size; i++) specimenColour(((i % size) + 0.5) / size, (Math.floor(i / size) + 0.5) / size, geomcolor, i * 4);
  const finder = slots.map(sourcesOfPacked);
  const domain = flatDomain(size, size, 2.4, { geomcolor });
  const plain = lowerBlend(stack, { far: true });
  const cpu = evaluate({ r: plain.channels.roughness }, { domain, values: stackValues(stack), sources: (slot, channel) => finder[slot](channel) })[
    'r'
  ][0];
  const off = Array.from({ length: size * size }, (_, i) =>
    Math.abs(shown[((size - 1 - Math.floor(i / size)) * size + (i % size)) * 4] - cpu[i] * 255),
  ).sort((a, b) => a - b);
  stage.dispose();
  return { p99: off[Math.floor(off.length * 0.99)], most: off[off.length - 1] };
}

/** A white surface under light 1 everywhere, no key: what the stage shows must be 1, whatever roughness and metal. */
async function furnaceTest(): Promise<{ name: string; lo: number; hi: number }[]> {
  const side = 96;
  const canvas = Object.assign(document.createElement('canvas'), { width: side, height: side });
  const stage = new BlendStage(canvas, computeLight({ sky: furnace, key: NO_KEY }, 16, 8, 16));
  stage.panes = PANE;
  // Exposure 0.5 keeps the picture below the knee of the tone curve.
  stage.look = lookOf({ orbit: { ...frameOrbit(2), distance: 1.6 }, turn: 0.4, exposure: 0.5 });
  stage.setSpecimen(makeSpecimen('sphere', 2), makeFlat(1, 2));
  const out = [];
  for (const rough of [0.1, 0.5, 1])
    for (const metal of [0, 1]) {
      await showMaterial(stage, [1, 1, 1], rough, metal);
      const shown = pixels(stage.gl, side, side);
      let lo = 255;
      let hi = 0;
      for (let y = 20; y < side - 20; y++)
        for (let x = 20; x < side - 20; x++) {
          const v = shown[(y * side + x) * 4 + 1];
          lo = Math.min(lo, v);
          hi = Math.max(hi, v);
        }
      const decode = (v: number) => ((v / 255 + 0.055) / 1.055) ** 2.4 / 0.5;
      out.push({ name: `roughness ${rough}, metallic ${metal}`, lo: decode(lo), hi: decode(hi) });
    }
  stage.dispose();
  return out;
}

/** A ball of one material under each sky with its key light: what the stage shows against what the core works out, in 255ths. */
async function balls(): Promise<{ name: string; worst: number; mean: number }[]> {
  const side = 64;
  const out = [];
  for (const [name, sky] of Object.entries(SKIES)) {
    const light = computeLight(sky, 32, 16, 64);
    const canvas = Object.assign(document.createElement('canvas'), { width: side, height: side });
    const stage = new BlendStage(canvas, light);
    stage.panes = PANE;
    const orbit = { ...frameOrbit(2), target: [0, 0, 0] as [number, number, number], distance: 3 };
    const [turn, exposure] = [0.7, 0.25];
    stage.look = lookOf({ orbit, turn, exposure, mapped: false });
    stage.setSpecimen(makeSpecimen('sphere', 2), makeFlat(1, 2));
    const eye = [...eyeOf(orbit)];
    const forward = eye.map((v) => -v / orbit.distance);
    const right = [-forward[2], 0, forward[0]].map((v) => v / Math.hypot(forward[0], forward[2]));
    const up = [
      right[1] * forward[2] - right[2] * forward[1],
      right[2] * forward[0] - right[0] * forward[2],
      right[0] * forward[1] - right[1] * forward[0],
    ];
    for (const [rough, metal] of [
      [0.3, 0],
      [0.5, 1],
      [0.9, 1],
    ]) {
      await showMaterial(stage, [0.5, 0.4, 0.3], rough, metal);
      const shown = pixels(stage.gl, side, side);
      const reach = Math.tan(orbit.field / 2);
      const off: number[] = [];
      for (let y = 0; y < side; y++)
        for (let x = 0; x < side; x++) {
          const [a, c] = [(((x + 0.5) / side) * 2 - 1) * reach, (((y + 0.5) / side) * 2 - 1) * reach];
          const d = [0, 1, 2].map((k) => forward[k] + right[k] * a + up[k] * c);
          const l = Math.hypot(...d);
          const ray = d.map((v) => v / l);
          const along = -(eye[0] * ray[0] + eye[1] * ray[1] + eye[2] * ray[2]);
          const miss = orbit.distance ** 2 - along ** 2;
          if (miss > 0.6 ** 2 * 0.8) continue;
          const t = along - Math.sqrt(0.6 ** 2 - miss);
          const n = eye.map((v, k) => (v + ray[k] * t) / 0.6);
          // The core's light does not turn: the ball is turned under it instead.
          const turned = (v: number[]): [number, number, number] => [
            Math.cos(turn) * v[0] + Math.sin(turn) * v[2],
            v[1],
            Math.cos(turn) * v[2] - Math.sin(turn) * v[0],
          ];
          const rgb: [number, number, number] = [0, 0, 0];
          const point = { albedo: [0.5, 0.4, 0.3], roughness: rough, metallic: metal, open: 1 };
          shadePoint(light, turned(n), turned(ray.map((v) => -v)), point, light.key, KEY_SHARE, rgb);
          for (let k = 0; k < 3; k++)
            off.push(Math.abs(shown[(y * side + x) * 4 + k] - 255 * linearToSrgb(Math.min(1, Math.max(0, rgb[k] * exposure)))));
        }
      out.push({
        name: `${name}, roughness ${rough}, metallic ${metal}`,
        worst: Math.max(...off),
        mean: off.reduce((p, q) => p + q, 0) / off.length,
      });
    }
    stage.dispose();
  }
  return out;
}

/** Mean of the picture's green, in 255ths, over a box given as shares from the bottom-left. */
function meanOf(stage: BlendStage, side: number, [x0, y0, x1, y1]: readonly [number, number, number, number]): number {
  const shown = pixels(stage.gl, side, side);
  let [sum, count] = [0, 0];
  for (let y = Math.round(y0 * side); y < y1 * side; y++)
    for (let x = Math.round(x0 * side); x < x1 * side; x++, count++) sum += shown[(y * side + x) * 4 + 1];
  return sum / count;
}

/** A plate that hangs over a floor, under a key light from straight above: how bright the floor is below it and beside it. */
async function shadows(): Promise<{ below: [number, number]; beside: [number, number]; pulled: number }> {
  const side = 96;
  const canvas = Object.assign(document.createElement('canvas'), { width: side, height: side });
  const key = { direction: [0, 1, 0], radiance: [1, 1, 1], spread: 0.01 };
  const stage = new BlendStage(canvas, computeLight({ sky: furnace, key }, 16, 8, 16));
  stage.panes = PANE;
  // Seen from below the plate's height at a slant, the floor under the plate is in the middle of the picture.
  const orbit = { ...frameOrbit(2), pitch: 0.35, yaw: 0, target: [0, 0, 0] as [number, number, number], distance: 3 };
  const look = (shadow: boolean) => lookOf({ orbit, exposure: 0.3, mapped: false, shadow });
  const quad = (half: number, height: number): Mesh => ({
    position: Float32Array.of(-half, height, -half, half, height, -half, -half, height, half, half, height, half),
    normal: Float32Array.of(0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1, 0),
    tangent: Float32Array.of(1, 0, 0, 1, 1, 0, 0, 1, 1, 0, 0, 1, 1, 0, 0, 1),
    texcoord: Float32Array.of(0, 0, 1, 0, 0, 1, 1, 1),
    geomcolor: new Float32Array(16).fill(1),
    index: Uint32Array.of(0, 2, 1, 1, 2, 3),
  });
  const [floor, plate] = [quad(1, 0), quad(0.45, 0.9)];
  const mesh = mergeMeshes([floor, plate]);
  stage.setSpecimen(mesh, makeFlat(1, 2));
  const middle = [0.46, 0.47, 0.54, 0.53] as const;
  // To the left of the plate's shadow, still on the floor.
  const left = [0.1, 0.47, 0.16, 0.53] as const;
  const read = async (shadow: boolean): Promise<[number, number]> => {
    stage.look = look(shadow);
    await showMaterial(stage, [0.5, 0.5, 0.5], 1, 0);
    return [meanOf(stage, side, middle), meanOf(stage, side, left)];
  };
  const off = await read(false);
  const on = await read(true);
  // The plate drawn up out of the way: moved vertices throw their shadow from where they are.
  const away = mesh.position.slice();
  for (let i = 4; i < 8; i++) away[i * 3] += 5;
  const done = settled(stage);
  stage.setRelief(away);
  await done;
  const pulled = meanOf(stage, side, middle);
  stage.dispose();
  return { below: [off[0], on[0]], beside: [off[1], on[1]], pulled };
}

/** A pattern on a plane that is really 10 cm higher: where parallax puts it, against where geometry puts it. */
async function parallax(): Promise<{ plain: number; parallax: number }> {
  const side = 128;
  const heightM = 0.1;
  const canvas = Object.assign(document.createElement('canvas'), { width: side, height: side });
  const stage = new BlendStage(canvas, computeLight({ sky: furnace, key: NO_KEY }, 16, 8, 16));
  stage.panes = PANE;
  stage.look = lookOf({ orbit: { ...frameOrbit(2), pitch: 0.9, yaw: 0.5, distance: 3.4, target: [0, 0, 0] }, channel: 'baseColor', perMetre: 0.5 });
  const plane = (height: number): Mesh => {
    const flat = makeFlat(0, 24);
    // The flat's positions are (u, 0, v): two metres wide about the middle.
    const position = flat.position.map((v, i) => (i % 3 === 1 ? height : (v - 0.5) * 2));
    return { ...flat, position };
  };
  const b = new Builder();
  const waves = b.node('noise2d', [b.multiply(b.texcoord(), b.constant(9)), b.constant(9), b.constant(3)]);
  const outputs = (height: number) => ({
    baseColor: b.combine(waves, waves, waves),
    normal: b.constant(0, 0, 1),
    roughness: b.constant(1),
    occlusion: b.constant(1),
    metallic: b.constant(0),
    height: b.constant(height),
    identity: b.constant(1, 1, 1),
  });
  stage.setSpecimen(plane(0), makeFlat(1, 2));
  const picture = async (mesh: Mesh, height: number, moved: boolean) => {
    // One after the other: the frame that shows the one must not be taken for that of the other.
    let done = settled(stage);
    stage.setProgram(emitGlsl(outputs(height), 'live', LIGHT_UNITS, !moved), [], {}, [], moved);
    await done;
    done = settled(stage);
    stage.setSpecimen(mesh, makeFlat(1, 2));
    await done;
    return pixels(stage.gl, side, side).slice();
  };
  const real = await picture(plane(heightM), 0, false);
  const plain = await picture(plane(0), heightM, false);
  const seen = await picture(plane(0), heightM, true);
  stage.dispose();
  const difference = (of: Uint8Array) => {
    let sum = 0;
    let count = 0;
    // The middle, where both planes are.
    for (let y = side * 0.36; y < side * 0.64; y++)
      for (let x = side * 0.36; x < side * 0.64; x++, count++)
        sum += Math.abs(of[(Math.round(y) * side + Math.round(x)) * 4] - real[(Math.round(y) * side + Math.round(x)) * 4]);
    return sum / count;
  };
  return { plain: difference(plain), parallax: difference(seen) };
}

/** Frame time of the blend on the specimen, in this machine's milliseconds, and texture units in use. */
async function frameTime(width: number, height: number): Promise<{ ms: number[]; units: number; compiles: number }> {
  const { blend, surfaces, packed } = threeLayers(256);
  const stack = makeStack(blend, surfaces);
  const canvas = Object.assign(document.createElement('canvas'), { width, height });
  const stage = new BlendStage(canvas, computeLight(SKIES.overcast, 32, 16, 32));
  stage.panes = PANE;
  const lowered = lowerBlend(stack, { far: true });
  const { outputs, hoisted } = optimise({ ...lowered.channels, identity: lowered.identity }, { hoist: true });
  const glsl = emitGlsl(outputs, 'live', LIGHT_UNITS);
  stage.look = lookOf({ shadow: true, bounds: [stack.lo, stack.hi] });
  stage.setSpecimen(makeSpecimen('patch', 2.4), makeFlat(1, 2));
  let done = settled(stage);
  stage.setProgram(
    glsl,
    hoisted,
    stackValues(stack),
    stack.slots.map((id) => packed[id]),
  );
  await done;
  const ms: number[] = [];
  for (let i = 0; i < 7; i++) {
    done = settled(stage);
    await passed(stage.gl);
    const began = performance.now();
    stage.draw();
    await done;
    ms.push(performance.now() - began);
  }
  stage.dispose();
  return { ms, units: glsl.units.length + LIGHT_UNITS, compiles: stage.compiles };
}

Object.assign(window, { pebble: { operations, blends, live, furnaceTest, balls, shadows, parallax, frameTime, threeLayers } });
