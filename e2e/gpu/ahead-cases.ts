// Runs in the browser: pictures that are worked out ahead of their program, against those that the program draws.
import type { PackedSet, Stack } from '@pebble/core';
import { SKIES, computeLight, finerTimes, frameOrbit, makeFlat, makeSpecimen, blendMaterial, liveProgram } from '@pebble/core';
import type { FrameReport, StageChannel } from '@pebble/stage';
import { Stage, LIGHT_UNITS } from '@pebble/stage';
import { lookOf, pixels } from './stage-page.js';

export interface AheadCase {
  name: string;
  /** Means of absolute differences in 1/255 to the picture of the program at the same scale, and of what was shown before. */
  program: number;
  former: number;
  /** The same mean if it did not look for places under parallax; null without. */
  unshifted: number | null;
  /** Difference that 95 of 100 pixels stay within. */
  p95: number;
  scale: number;
}

const SIZE = { width: 320, height: 160 };
const MESH = makeSpecimen('patch', 2.4);
interface Change {
  channel: StageChannel;
  change: (stage: Stage) => void;
  parallax?: boolean;
}
/** What a stage may have looked at for its next picture ahead of a program, and what makes that worthless. */
const CHANGES: Readonly<Record<string, Change>> = {
  nothing: { channel: 'lit', change: () => undefined },
  camera: { channel: 'roughness', change: (stage) => (stage.look = lookOf({ ...stage.look, orbit: { ...frameOrbit(2.4), yaw: 2 } })) },
  relief: { channel: 'height', change: (stage) => stage.setRelief(MESH.position.map((v, i) => (i % 3 === 1 ? v + 0.2 : v))) },
  // So many triangles have to be looked through beforehand.
  triangles: { channel: 'baseColor', change: (stage) => stage.setSpecimen(finerTimes(MESH, 2), makeFlat(1, 8)) },
  colours: {
    channel: 'weights',
    change: (stage) => stage.setColours('specimen', [{ first: 0, colours: MESH.geomcolor.map((v, i) => (i % 4 === 3 ? 1 : 1 - v)) }]),
  },
  // Along a flat line of sight, places lie far from where they seem to.
  parallax: {
    channel: 'baseColor',
    parallax: true,
    change: (stage) => (stage.look = lookOf({ ...stage.look, orbit: { ...frameOrbit(2.4), pitch: 0.3 }, perMetre: 1 / 2.4 })),
  },
};

const full = ({ scale, pending }: FrameReport) => scale === 1 && !pending;
const prepared = async (stage: Stage) => {
  while (!stage['ahead'].able) await new Promise((resolve) => setTimeout(resolve, 50));
};
const nextFrame = (stage: Stage) => (wanted: (report: FrameReport) => boolean) =>
  new Promise<FrameReport>((resolve) => {
    stage.onFrame = (report) => wanted(report) && resolve(report);
  });

/** A stage that shows the specimen and the flat side by side. */
function stageOf(channel: StageChannel, { lo, hi }: Stack): Stage {
  const canvas = Object.assign(document.createElement('canvas'), SIZE);
  const stage = new Stage(canvas, computeLight(SKIES.overcast, 32, 16, 32));
  stage.panes = { specimen: { x: 0, y: 0, width: 0.5, height: 1 }, flat: { x: 0.5, y: 0, width: 0.5, height: 1 } };
  stage.look = lookOf({ channel, shadow: true, bounds: [lo, hi] });
  stage.setSpecimen(MESH, makeFlat(1, 8));
  return stage;
}
function show(stage: Stage, stack: Stack, slots: PackedSet, whole = true, parallax = false): void {
  const material = blendMaterial(stack);
  stage.setProgram({ program: liveProgram(material, parallax, LIGHT_UNITS), values: material.values, slots, parallax, whole });
}
const pictureOf = ({ gl }: Stage) => pixels(gl, SIZE.width, SIZE.height).slice();

function compared(ahead: Uint8Array, drawn: Uint8Array, before: Uint8Array): Pick<AheadCase, 'program' | 'former' | 'p95'> {
  const off = Array.from(ahead, (v, i) => Math.abs(v - drawn[i]));
  const mean = (values: readonly number[]) => values.reduce((a, b) => a + b, 0) / values.length;
  return {
    program: mean(off),
    former: mean(Array.from(before, (v, i) => Math.abs(v - drawn[i]))),
    p95: off.sort((a, b) => a - b)[Math.floor(off.length * 0.95)],
  };
}

/** Pictures ahead of a program for `next`, after one for `first` was shown and something changed, in several channels. */
export async function aheadOf(first: Stack, next: Stack, slotsOf: (stack: Stack) => PackedSet): Promise<AheadCase[]> {
  const out: AheadCase[] = [];
  for (const [name, { channel, change, parallax }] of Object.entries(CHANGES)) {
    const stage = stageOf(channel, first);
    // What parallax does is seen in a picture that is not too small.
    if (parallax) stage['ahead'].scaleFor = () => 0.4;
    const frame = nextFrame(stage);
    const take = (stack: Stack) => show(stage, stack, slotsOf(stack), true, parallax);
    let shown = frame(full);
    take(first);
    await shown;
    await prepared(stage);
    change(stage);
    while (!stage['canAhead']) await new Promise((resolve) => setTimeout(resolve, 50));
    const early = frame(({ ahead }) => ahead);
    take(next);
    const { scale } = await early;
    const ahead = pictureOf(stage);
    shown = frame(full);
    await shown;
    stage['painter'].render(scale);
    const drawn = pictureOf(stage);
    stage.parallax = false;
    stage['painter'].render(scale, true);
    const unshifted = parallax ? compared(pictureOf(stage), drawn, drawn).program : null;
    take(first);
    await frame(full);
    stage['painter'].render(scale);
    const before = pictureOf(stage);
    stage.dispose();
    out.push({ name, scale, unshifted, ...compared(ahead, drawn, before) });
  }
  return out;
}

/** The same while surfaces are on their way, from coarse ones: what was linked by then, and pictures ahead after all was there. */
export async function announcedAhead(
  first: Stack,
  next: Stack,
  slotsOf: (stack: Stack) => PackedSet,
  coarseOf: (stack: Stack) => PackedSet,
): Promise<Omit<AheadCase, 'name' | 'scale' | 'unshifted'> & { compiles: number[]; again: number }> {
  const stage = stageOf('lit', first);
  // How much is missing in coarse pixels is seen the better the larger the picture, and a quick machine makes it larger.
  stage['ahead'].scaleFor = () => 0.25;
  const frame = nextFrame(stage);
  const compiles: number[] = [];
  const note = () => compiles.push(stage.compiles);
  let shown = frame(full);
  show(stage, first, slotsOf(first));
  await shown;
  await prepared(stage);
  const before = pictureOf(stage);
  note();
  const early = frame(({ ahead }) => ahead);
  show(stage, next, coarseOf(next), false);
  const { scale } = await early;
  const ahead = pictureOf(stage);
  // A program that is there by now waits for its surfaces.
  await new Promise((resolve) => setTimeout(resolve, 1500));
  note();
  let again = 0;
  shown = frame((report) => ((again += Number(report.ahead)), full(report)));
  show(stage, next, slotsOf(next));
  await shown;
  note();
  stage['painter'].render(scale);
  const drawn = pictureOf(stage);
  stage.dispose();
  return { ...compared(ahead, drawn, before), compiles, again };
}

/** What a stage shows when a picture cannot be worked out ahead: which frames came, and whether it went on. */
export async function failingAhead(first: Stack, next: Stack, slotsOf: (stack: Stack) => PackedSet): Promise<{ ahead: number; full: number }> {
  const canvas = Object.assign(document.createElement('canvas'), { width: 64, height: 32 });
  const stage = new Stage(canvas, computeLight(SKIES.overcast, 32, 16, 32));
  stage.look = lookOf({ channel: 'roughness' });
  stage.setSpecimen(makeSpecimen('patch', 2.4), makeFlat(1, 8));
  const out = { ahead: 0, full: 0 };
  const take = async (stack: Stack) => {
    const shown = new Promise<void>((resolve) => {
      stage.onFrame = ({ ahead, scale, pending }) => {
        if (ahead) out.ahead++;
        if (scale === 1 && !pending) resolve();
      };
    });
    show(stage, stack, slotsOf(stack));
    await shown;
    out.full++;
  };
  await take(first);
  await prepared(stage);
  stage['ahead'].workOut = () => {
    throw new RangeError('Not this one');
  };
  await take(next);
  // And again: it draws what it is told from then on.
  await take(first);
  stage.dispose();
  return out;
}
