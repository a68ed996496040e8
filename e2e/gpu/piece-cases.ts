// Runs in the browser: several materials on one object, and vertex colours that change.
import type { Mesh } from '@pebble/core';
import { Builder, NO_SLOTS, computeLight, emitGlsl, makeFlat, SKIES } from '@pebble/core';
import { Stage, LIGHT_UNITS } from '@pebble/stage';
import { PANE, bare, lookOf, pixels } from './stage-page';

const SIDE = 32;

/** A level square from two halves, left and right, seen from straight above. */
export function halves(): Mesh {
  const corners = [-1, 0, 1].flatMap((x) => [-1, 1].map((z) => [x, 0, z]));
  const count = corners.length;
  const all = (value: readonly number[]) => Float32Array.from({ length: count * value.length }, (_, i) => value[i % value.length]);
  return {
    position: Float32Array.from(corners.flat()),
    normal: all([0, 1, 0]),
    tangent: all([1, 0, 0, 1]),
    texcoord: Float32Array.from(corners.flatMap(([x, , z]) => [x, z])),
    geomcolor: all([0, 0, 0, 1]),
    index: Uint32Array.of(0, 1, 2, 2, 1, 3, 2, 3, 4, 4, 3, 5),
  };
}

export function plain(colour: readonly [number, number, number]) {
  const b = new Builder();
  const one = b.constant(1);
  const outputs = {
    baseColor: b.constant(...colour),
    normal: b.constant(0, 0, 1),
    roughness: one,
    occlusion: one,
    metallic: b.constant(0),
    height: b.constant(0),
    specular: b.constant(0.5),
    identity: b.constant(1, 1, 1),
  };
  return emitGlsl(outputs, 'live', LIGHT_UNITS);
}

/** Bytes in the middle of the left and of the right half: both own; right another's; another's changed; the own one alone again; then colours of vertices before and after a run; last the number of frames that showed what was about to be replaced. */
export async function pieces(): Promise<number[][]> {
  const canvas = Object.assign(document.createElement('canvas'), { width: SIDE, height: SIDE });
  const stage = new Stage(canvas, computeLight(SKIES.overcast, 16, 8, 16));
  stage.panes = PANE;
  const orbit = { yaw: 0, pitch: Math.PI / 2 - 1e-3, distance: 4, target: [0, 0, 0] as [number, number, number], field: 0.45 };
  stage.look = lookOf({ channel: 'baseColor', orbit });
  stage.setSpecimen(halves(), makeFlat(1, 2));
  const shown: number[][] = [];
  /** Frames that showed what was about to be replaced. */
  let wasted = 0;
  const look = async (change: () => void) => {
    // A program that is still being built comes with a frame of its own.
    await new Promise<void>((resolve) => {
      stage.onFrame = ({ scale, pending }) => {
        if (pending) wasted++;
        if (scale === 1 && !pending) resolve();
      };
      change();
      stage.draw();
    });
    const all = pixels(stage.gl, SIDE, SIDE);
    const at = (x: number) => [...all.subarray((16 * SIDE + x) * 4, (16 * SIDE + x) * 4 + 3)];
    shown.push([...at(8), ...at(24)]);
  };
  const other = (colour: readonly [number, number, number]) => ({
    key: 'other',
    program: bare(plain(colour)),
    values: {},
    slots: NO_SLOTS,
    spans: [[6, 6]] as const,
    perMetre: 1,
    parallax: false,
    colours: null as Float32Array | null,
  });
  await look(() => stage.setProgram({ program: bare(plain([1, 0, 0])), values: {}, slots: NO_SLOTS }));
  await look(() => stage.setOthers([[0, 6]], [other([0, 1, 0])]));
  await look(() => stage.setOthers([[0, 6]], [other([0, 0, 1])]));
  await look(() => stage.setOthers(null, []));
  await look(() => {
    stage.look = lookOf({ channel: 'vertices', orbit });
    stage.draw();
  });
  // The two vertices at the right become white; a run that is too long is for another mesh.
  await look(() => {
    stage.setColours('specimen', [
      { first: 4, colours: new Float32Array(8).fill(1) },
      { first: 5, colours: new Float32Array(8).fill(0.5) },
    ]);
  });
  // What was painted for the other blend lies on its part alone; colours of another mesh are left out.
  const blue = Float32Array.from({ length: 24 }, (_, i) => [0, 0, 1, 1][i % 4]);
  await look(() => stage.setOthers([[0, 6]], [{ ...other([0, 1, 0]), colours: blue }]));
  await look(() => stage.setOthers([[0, 6]], [{ ...other([0, 1, 0]), colours: blue.slice(4) }]));
  stage.dispose();
  return [...shown, [wasted]];
}
