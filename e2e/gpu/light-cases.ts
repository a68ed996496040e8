// Runs in the browser: light, shadow and relief on the stage against what the core works out or geometry shows.
import type { Mesh } from '@pebble/core';
import {
  eyeOf,
  frameOrbit,
  Builder,
  NO_SLOTS,
  computeLight,
  emitGlsl,
  furnace,
  linearToSrgb,
  makeFlat,
  makeSpecimen,
  merged as mergeMeshes,
  NO_KEY,
  shadePoint,
  SKIES,
} from '@pebble/core';
import { Stage, KEY_SHARE, LIGHT_UNITS } from '@pebble/stage';
import { PANE, bare, lookOf, pixels, settled, showMaterial } from './stage-page.js';

/** A white surface under light 1 everywhere, no key: what the stage shows must be 1, whatever roughness and metal. */
export async function furnaceTest(): Promise<{ name: string; lo: number; hi: number }[]> {
  const side = 96;
  const canvas = Object.assign(document.createElement('canvas'), { width: side, height: side });
  const stage = new Stage(canvas, computeLight({ sky: furnace, key: NO_KEY }, 16, 8, 16));
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

/** The same through a thin wall and under a coat: what one takes of the light the other gives back. */
export async function furnaceBeside(): Promise<{ name: string; lo: number; hi: number }[]> {
  const side = 64;
  const canvas = Object.assign(document.createElement('canvas'), { width: side, height: side });
  const stage = new Stage(canvas, computeLight({ sky: furnace, key: NO_KEY }, 16, 8, 16));
  stage.panes = PANE;
  stage.look = lookOf({ orbit: { ...frameOrbit(2), distance: 1.6 }, turn: 0.4, exposure: 0.5 });
  stage.setSpecimen(makeSpecimen('sphere', 2), makeFlat(1, 2));
  const out = [];
  for (const [name, extras] of [
    ['nothing', {}],
    ['half through', { transmission: 0.5 }],
    ['all through', { transmission: 1 }],
    ['coated', { clearcoat: 1 }],
    ['coated and through', { clearcoat: 0.7, transmission: 0.6 }],
    ['in a crevice', { cavity: 0 }],
    ['light of its own', { emissive: 0.25 }],
  ] as [string, Record<string, number>][]) {
    await showMaterial(stage, [1, 1, 1], 0.3, 0, extras);
    const shown = pixels(stage.gl, side, side);
    const greens: number[] = [];
    for (let y = 14; y < side - 14; y++) for (let x = 14; x < side - 14; x++) greens.push(shown[(y * side + x) * 4 + 1]);
    const decode = (v: number) => ((v / 255 + 0.055) / 1.055) ** 2.4 / 0.5;
    out.push({ name, lo: decode(Math.min(...greens)), hi: decode(Math.max(...greens)) });
  }
  stage.dispose();
  return out;
}

/** A ball of one material under each sky with its key light: what the stage shows against what the core works out, in 255ths. */
export async function balls(): Promise<{ name: string; worst: number; mean: number }[]> {
  const side = 64;
  const out = [];
  for (const [name, sky] of Object.entries(SKIES)) {
    const light = computeLight(sky, 32, 16, 64);
    const canvas = Object.assign(document.createElement('canvas'), { width: side, height: side });
    const stage = new Stage(canvas, light);
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
function meanOf(stage: Stage, side: number, [x0, y0, x1, y1]: readonly [number, number, number, number]): number {
  const shown = pixels(stage.gl, side, side);
  let [sum, count] = [0, 0];
  for (let y = Math.round(y0 * side); y < y1 * side; y++)
    for (let x = Math.round(x0 * side); x < x1 * side; x++, count++) sum += shown[(y * side + x) * 4 + 1];
  return sum / count;
}

/** A plate that hangs over a floor, under a key light from straight above: how bright the floor is below it and beside it. */
export async function shadows(): Promise<{ below: [number, number]; beside: [number, number]; pulled: number }> {
  const side = 96;
  const canvas = Object.assign(document.createElement('canvas'), { width: side, height: side });
  const key = { direction: [0, 1, 0], radiance: [1, 1, 1], spread: 0.01 };
  const stage = new Stage(canvas, computeLight({ sky: furnace, key }, 16, 8, 16));
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
export async function parallax(): Promise<{ plain: number; parallax: number }> {
  const side = 128;
  const heightM = 0.1;
  const canvas = Object.assign(document.createElement('canvas'), { width: side, height: side });
  const stage = new Stage(canvas, computeLight({ sky: furnace, key: NO_KEY }, 16, 8, 16));
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
    specular: b.constant(0.5),
    identity: b.constant(1, 1, 1),
  });
  stage.setSpecimen(plane(0), makeFlat(1, 2));
  const picture = async (mesh: Mesh, height: number, moved: boolean) => {
    // One after the other: the frame that shows the one must not be taken for that of the other.
    let done = settled(stage);
    stage.setProgram({ program: bare(emitGlsl(outputs(height), 'live', LIGHT_UNITS, moved)), values: {}, slots: NO_SLOTS, parallax: moved });
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
