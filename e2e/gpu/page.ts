// Runs in the browser: cases of core on the GPU in exact mode and on the CPU, and pictures of the stage.
import type { BlendDocument, BlendSurface, DagNode, Domain, Orbit, PackedSet, PackedSurface, Stack, Values } from '@pebble/core';
import {
  Builder,
  Bvh,
  COMPONENTS,
  TerrainDetail,
  allOperations,
  computeLight,
  evaluate,
  eyeOf,
  emitGlsl,
  flatDomain,
  footprintValues,
  generateSurface,
  lowerBlend,
  makeBlend,
  makeCue,
  makeLayer,
  makeSpecimen,
  makeFlat,
  makeStack,
  optimise,
  SKIES,
  sourcesOfPacked,
  specimenColour,
  stackShape,
  stackValues,
  makeRandom,
  frameValues,
  HILLSIDE,
  fieldGround,
  frameOrbit,
  hillside,
  rayThrough,
} from '@pebble/core';
import fc from 'fast-check';
import { anyBlend } from '../../packages/core/src/testing/any-blend';
import { Stage, LIGHT_UNITS, evaluateExact, packIds, packMask, packSurface, passed } from '@pebble/stage';
import type { Agreement } from './agreement.js';
import { compare, gl } from './agreement.js';
import { bc7, extras } from './role-cases.js';
import { effects as effectsOf } from './effect-cases.js';
import { aheadOf, announcedAhead, failingAhead } from './ahead-cases.js';
import { drawnCases } from './drawn-cases.js';
import { bent as bentOf } from './bent-cases.js';
import { randomGraphs } from './graph-cases.js';
import { paintedMask } from './mask-cases.js';
import { replayedOnHill } from './replay-case.js';
import { pieces } from './piece-cases.js';
import { lost } from './lost-cases.js';
import { smoothed } from './smooth-cases.js';
import { balls, furnaceBeside, furnaceTest, parallax, shadows } from './light-cases.js';
import { PANE, bare, lookOf, pixels, settled, stageOutputs } from './stage-page.js';

const N = 48;
/** Pixel inputs that reach over the ranges that operations meet, edges included. */
function wideDomain(): Domain {
  const next = makeRandom(5);
  const fill = (k: number, f: (i: number) => number) => Float32Array.from({ length: N * N * k }, (_, i) => f(i));
  return flatDomain(N, N, 2, {
    texcoord: fill(2, () => next() * 4 - 1.5),
    position: fill(3, () => next() * 4 - 2),
    normal: fill(3, (i) => [0, 1, 0][i % 3]),
    curvature: fill(1, () => next() * 80 - 40),
    occlusion: fill(1, next),
    part: fill(1, () => Math.floor(next() * 3)),
    uv1: fill(2, () => next() * 4 - 1.5),
    uv2: fill(2, () => next() * 4 - 1.5),
    geomcolor: fill(4, (i) => (i % 17 === 0 ? (i / 17) % 2 : next())),
  });
}

/** Every operation of the registry alone, on wide inputs. */
async function operations(): Promise<Agreement[]> {
  const context = gl();
  const { maps } = generateSurface('terrace-stone', { seed: 3, size: 64 });
  const packed: PackedSet = { surfaces: [packSurface(maps, 64)], masks: [packMask(maps.roughness, 0, 64)], ids: [packIds(maps.baseColor, 32)] };
  const sources = sourcesOfPacked(packed);
  const out: Agreement[] = [];
  for (const op of allOperations()) {
    const b = new Builder();
    const inputs: DagNode[] = op.inputs.map((port, i) => {
      const wide = [b.node('geomcolor'), b.node('position')][i % 2];
      if (op.name === 'imagedetail' && i === 2) return b.constant(0.1);
      if (op.name.startsWith('image') && op.name !== 'imagelevel')
        return i === 0 ? b.texcoord() : b.multiply(b.extract(b.node('geomcolor'), 0), b.constant(3));
      if (op.name === 'exp' || op.name === 'acos') return b.multiply(b.extract(b.node('position'), 0), b.constant(op.name === 'exp' ? 4 : 0.6));
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
      transformnormal: { fromspace: 'tangent', tospace: 'world' },
      ramp: { shape: 'smooth' },
      trianglecell2d: { index: 1 },
      polar2d: { folded: 0 },
      imagelevel: { slot: 0, channel: 'height' },
      imagedetail: { slot: 0, channel: 'height' },
    };
    const attrs =
      op.name === 'image'
        ? (['baseColor', 'opacity', 'normal', 'roughness', 'occlusion', 'metallic', 'height', 'spread', 'mask', 'id'] as const).map((channel) => ({
            slot: 0,
            channel,
          }))
        : [variants[op.name] ?? {}];
    for (const attr of attrs) {
      const node = b.node(op.name, inputs, attr as never);
      const domain = wideDomain();
      const values: Values = { x: [0.25, -3] };
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
    // One of them is half as high as it is wide.
    Object.entries(made).map(([id, s]) => [
      id,
      { ...s.facts, tall: id === 'moss' ? 0.5 : 1, roles: new Set(Object.keys(s.maps)) as BlendSurface['roles'] },
    ]),
  );
  const seam = (over: object) => ({ ...makeLayer('', '', 0).seam, ...over });
  const blend = makeBlend('x', {
    extentM: 2.4,
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
  });
  return { blend, surfaces, packed: Object.fromEntries(Object.entries(made).map(([id, s]) => [id, packSurface(s.maps, size)])) };
}

/** What the program of a stack looks up: of masks and IDs, a map of the stone each, so that none stands for another. */
function setOf(stack: Stack, packed: Record<string, PackedSurface>): PackedSet {
  const { maps } = generateSurface('terrace-stone', { seed: 3, size: 32 });
  return {
    surfaces: stack.slots.map((id) => packed[id]),
    masks: stack.masks.map((_, i) => packMask([maps.roughness, maps.height, maps.occlusion][i % 3], 0, 32)),
    ids: stack.ids.map((_, i) => packIds([maps.baseColor, maps.normal][i % 2], 32)),
  };
}

/** Random blends in exact mode: every kind of cue, layer, mode and seam, on random ground. */
async function random(from: number, count: number): Promise<Agreement[]> {
  const { surfaces, packed } = threeLayers(32);
  const roles = new Set([...surfaces['stone'].roles, 'mask', 'id'] as const);
  const known = Object.fromEntries(Object.entries(surfaces).map(([id, s]) => [id, { ...s, roles }]));
  const context = gl();
  const next = makeRandom(from + 1);
  const size = 16;
  const out: Agreement[] = [];
  for (const blend of fc.sample(anyBlend(['stone', 'clay', 'moss']), { numRuns: from + count, seed: 5 }).slice(from)) {
    const stack = makeStack(blend, known);
    const slots = setOf(stack, packed);
    const fill = (k: number, f: (i: number) => number) => Float32Array.from({ length: size * size * k }, (_, i) => f(i));
    const lean = fill(1, () => next() * 2);
    const turn = fill(1, () => next() * 6.28);
    const normal = (i: number) =>
      [
        Math.sin(lean[Math.floor(i / 3)]) * Math.cos(turn[Math.floor(i / 3)]),
        Math.cos(lean[Math.floor(i / 3)]),
        Math.sin(lean[Math.floor(i / 3)]) * Math.sin(turn[Math.floor(i / 3)]),
      ][i % 3];
    const domain = flatDomain(size, size, 2.4, {
      position: fill(3, () => next() * 4 - 2),
      normal: fill(3, normal),
      geomcolor: fill(4, () => next()),
      curvature: fill(1, () => next() * 80 - 40),
      occlusion: fill(1, next),
      part: fill(1, () => Math.floor(next() * 3)),
      uv1: fill(2, () => next() * 3 - 1),
      uv2: fill(2, () => next() * 3 - 1),
    });
    const { outputs, hoisted } = optimise(stageOutputs(lowerBlend(stack, { far: true })), { hoist: true });
    const standing = { groundM: -0.5, parts: ['body', 'lid', 'outer wall'] };
    const values = frameValues(hoisted, { ...stackValues(stack, { standing }), ...footprintValues(domain) });
    const cpu = evaluate(outputs, { domain, values, sources: sourcesOfPacked(slots) });
    out.push(compare(stackShape(stack), cpu, await evaluateExact(context, outputs, domain, values, slots)));
  }
  return out;
}

/** A whole blend in exact mode, near (level 0) and far (mips and spread). */
async function blends(): Promise<Agreement[]> {
  const { blend, surfaces, packed } = threeLayers(64);
  const stack = makeStack(blend, surfaces);
  const slots = setOf(stack, packed);
  const sources = sourcesOfPacked(slots);
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
    const { outputs, hoisted } = optimise(stageOutputs(lowered), { hoist: true });
    const values = frameValues(hoisted, { ...stackValues(stack), ...footprintValues(domain) });
    const cpu = evaluate(outputs, { domain, values, sources });
    out.push(compare(name, cpu, await evaluateExact(gl(), outputs, domain, values, slots)));
  }
  return out;
}

/** A ground by altitude, slope, paint and noise over the world on a terrain, in exact mode: places in true metres. */
async function terrain(): Promise<Agreement[]> {
  const { blend, surfaces, packed } = threeLayers(32);
  const field = hillside(65);
  const layers = structuredClone(blend.layers);
  const straight = { shape: 'straight', centre: 0.5, width: 1, set: 1 } as const;
  layers['a'].laying = { far: { times: 5, fromM: 10, toM: 40 }, turns: { atM: 9, seed: 4, over: 'world' } };
  layers['b'].coverage = {
    s: makeCue('slope', { centre: 26, width: 12, inverted: false }),
    n: makeCue('noise', { order: 2, sizeM: 30, over: 'world', centre: 0.4, width: 0.3 }),
    p: makeCue('painted', { ...straight, order: 3, join: 'corrected', picture: 'one' }),
  };
  layers['b'].laying = { sides: true };
  layers['c'].coverage = {
    a: makeCue('altitude', { from: 'world', centre: HILLSIDE.footM + 60, width: 30 }),
    e: makeCue('convexity', { order: 2, join: 'or', centre: 0.02, width: 0.02 }),
    p: makeCue('painted', { ...straight, order: 3, join: 'atMost', picture: 'two' }),
  };
  const stack = makeStack({ ...blend, layers, extentM: 6, standsAtM: HILLSIDE.footM }, surfaces);
  const slots = setOf(stack, packed);
  const ground = fieldGround(field, 6, [0, 65], HILLSIDE.footM);
  const out: Agreement[] = [];
  for (const [name, far, away] of [
    ['hillside near', false, 1],
    ['hillside far', true, 25],
  ] as const) {
    const viewdistance = new Float32Array(65 * 65).fill(away);
    const domain = flatDomain(65, 65, 6, { ...ground, viewdistance });
    const { outputs, hoisted } = optimise(stageOutputs(lowerBlend(stack, { far })), { hoist: true });
    const values = frameValues(hoisted, { ...stackValues(stack), ...footprintValues(domain) });
    const cpu = evaluate(outputs, { domain, values, sources: sourcesOfPacked(slots) });
    out.push(compare(name, cpu, await evaluateExact(gl(), outputs, domain, values, slots)));
  }
  return out;
}

/** The stage in live mode on the flat against the CPU: differences of base colour in 1/255, sorted shares. */
async function live(): Promise<{ p99: number; most: number }> {
  const size = 128;
  const { blend, surfaces, packed } = threeLayers(size);
  const stack = makeStack(blend, surfaces);
  const slots = setOf(stack, packed);
  const canvas = Object.assign(document.createElement('canvas'), { width: size, height: size });
  const stage = new Stage(canvas, computeLight(SKIES.overcast, 16, 8, 16));
  stage.panes = { specimen: { x: 0, y: 0, width: 0, height: 0 }, flat: { x: 0, y: 0, width: 1, height: 1 } };
  const lowered = lowerBlend(stack, { far: true });
  const { outputs, hoisted } = optimise(stageOutputs(lowered), { hoist: true });
  stage.look = lookOf({ channel: 'roughness', bounds: [stack.lo, stack.hi] });
  stage.setSpecimen(makeSpecimen('patch', 2.4), makeFlat(1, size));
  const done = settled(stage);
  stage.setProgram({ program: bare(emitGlsl(outputs, 'live', LIGHT_UNITS), hoisted), values: stackValues(stack), slots });
  await done;
  const shown = pixels(stage.gl, size, size);
  const geomcolor = new Float32Array(size * size * 4);
  for (let i = 0; i < size * size; i++) specimenColour(((i % size) + 0.5) / size, (Math.floor(i / size) + 0.5) / size, geomcolor, i * 4);
  const domain = flatDomain(size, size, 2.4, { geomcolor });
  const plain = lowerBlend(stack, { far: true });
  const cpu = evaluate({ r: plain.channels.roughness }, { domain, values: stackValues(stack), sources: sourcesOfPacked(slots) })['r'][0];
  const off = Array.from({ length: size * size }, (_, i) =>
    Math.abs(shown[((size - 1 - Math.floor(i / size)) * size + (i % size)) * 4] - cpu[i] * 255),
  ).sort((a, b) => a - b);
  stage.dispose();
  return { p99: off[Math.floor(off.length * 0.99)], most: off[off.length - 1] };
}

/** As many layers, the upper two of three again and again with other seeds. */
function manyLayers(blend: BlendDocument, count: number): BlendDocument {
  const { a, b, c } = blend.layers;
  const upper = Array.from({ length: count - 1 }, (_, i) => {
    const of = i % 2 ? c : b;
    const n = makeCue('noise', { sizeM: 0.5, centre: 0.55, width: 0.2, seed: i + 3 });
    return [`l${i}`, { ...of, order: i + 2, coverage: { n } }] as const;
  });
  return { ...blend, layers: { a, ...Object.fromEntries(upper) } };
}

/** Frame time of the blend on the specimen, in this machine's milliseconds, and texture units in use. */
/** The patch; or the hillside, as fine as it is seen from so many metres off. */
function timedOn(metres: number | null, height: number) {
  const usual = frameOrbit(2.4);
  if (metres === null) return { orbit: usual, mesh: makeSpecimen('patch', 2.4) };
  const detail = new TerrainDetail(hillside(1025), HILLSIDE.footM);
  const target: Orbit['target'] = [0, detail.heightAt(0, 0) ?? 0, 0];
  const orbit = { ...usual, pitch: 0.4, distance: metres, target, reach: 2 * HILLSIDE.acrossM };
  const [x, y, z] = eyeOf(orbit);
  const sight = { eye: [x, y, z] as const, pixelsPerMetre: height / (2 * Math.tan(orbit.field / 2)), tolerancePx: 0.75 };
  return { orbit, mesh: detail.mesh(sight).mesh };
}
async function frameTime(
  width: number,
  height: number,
  layers = 3,
  metres: number | null = null,
): Promise<{ ms: number[]; units: number; compiles: number; triangles: number; filled: number }> {
  const { blend: three, surfaces, packed } = threeLayers(256);
  const blend = layers === 3 ? three : manyLayers(three, layers);
  const stack = makeStack(blend, surfaces);
  const canvas = Object.assign(document.createElement('canvas'), { width, height });
  const stage = new Stage(canvas, computeLight(SKIES.overcast, 32, 16, 32));
  stage.panes = PANE;
  const lowered = lowerBlend(stack, { far: true });
  const { outputs, hoisted } = optimise(stageOutputs(lowered), { hoist: true });
  const glsl = emitGlsl(outputs, 'live', LIGHT_UNITS);
  const { orbit, mesh } = timedOn(metres, height);
  stage.look = lookOf({ shadow: true, bounds: [stack.lo, stack.hi], orbit });
  stage.setSpecimen(mesh, makeFlat(1, 2));
  let done = settled(stage);
  stage.setProgram({ program: bare(glsl, hoisted), values: stackValues(stack), slots: setOf(stack, packed) });
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
  const [tree, aspect, [x, y, z]] = [new Bvh(mesh), width / height, eyeOf(orbit)];
  const rays = Array.from({ length: 32 * 10 }, (_, i) => rayThrough(orbit, aspect, ((i % 32) + 0.5) / 32, (Math.floor(i / 32) + 0.5) / 10));
  const filled = rays.filter((ray) => tree.first([x, y, z], ray)).length / rays.length;
  stage.dispose();
  return { ms, units: glsl.units.length + LIGHT_UNITS, compiles: stage.compiles, triangles: mesh.index.length / 3, filled };
}

/** A layer goes. */
function layerGone() {
  const { blend, surfaces, packed } = threeLayers(128);
  const { a, c } = blend.layers;
  const without = { ...blend, layers: { a, c } };
  return [makeStack(blend, surfaces), makeStack(without, surfaces), (stack: Stack) => setOf(stack, packed)] as const;
}
const ahead = () => aheadOf(...layerGone());
const aheadFails = () => failingAhead(...layerGone());
/** A layer of a surface that is on its way: another one, or another surface in its place, which is the same program. */
async function announced() {
  const { blend, surfaces, packed } = threeLayers(256);
  const coarse = threeLayers(64).packed;
  const { a, b, c } = blend.layers;
  const stack = (layers: BlendDocument['layers']) => makeStack({ ...blend, layers }, surfaces);
  const cases = [
    [stack({ a, c }), stack({ a, b, c })],
    [stack({ a, b }), stack({ a, b: { ...b, shows: c.shows } })],
  ] as const;
  const slots = (of: Stack) => setOf(of, packed);
  const out = [];
  for (const [first, next] of cases)
    out.push(await announcedAhead(first, next, slots, (of) => setOf(of, { ...packed, [next.slots[1]]: coarse[next.slots[1]] })));
  return out;
}
const mask = () => paintedMask(threeLayers(128));
const replayed = (depth: 8 | 16) => replayedOnHill(depth);
const bent = (random?: number) => bentOf(threeLayers(64), random);

Object.assign(window, {
  pebble: {
    ahead,
    aheadFails,
    announced,
    bent,
    operations,
    extras,
    bc7,
    blends,
    terrain,
    replayed,
    random,
    graphs: (seed: number, count: number) => randomGraphs(gl(), seed, count, compare),
    effects: () => effectsOf(gl(), compare),
    live,
    drawnCases,
    furnaceTest,
    furnaceBeside,
    balls,
    shadows,
    parallax,
    frameTime,
    threeLayers,
    pieces,
    lost,
    smoothed,
    mask,
  },
});
