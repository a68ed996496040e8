import type { GlslProgram, LightData, Orbit, PackedSurface } from '@pebble/core';
import {
  Builder,
  SKIES,
  clipMatrix,
  decodeTable,
  emitGlsl,
  eyeOf,
  frameBounds,
  frameOrbit,
  frameWithin,
  generateSurface,
  makeImage,
  sourcesOfPacked,
  srgbToLinear,
} from '@pebble/core';
import type { KeyedSet, StageLook } from './index';
import {
  LIGHT_UNITS,
  RemoteStage,
  flatAt,
  flatMatrix,
  flatTo,
  lightMatrix,
  nearBall,
  packSurface,
  packedBytes,
  stageFragment,
  stageVertex,
} from './index';

const project = (m: ArrayLike<number>, p: readonly number[]) => {
  const at = (r: number) => m[r] * p[0] + m[4 + r] * p[1] + m[8 + r] * p[2] + m[12 + r];
  return [at(0) / at(3), at(1) / at(3), at(2) / at(3)];
};

describe('the light of a shadow', () => {
  it('sees the whole ball from any direction, and what is nearer to it as nearer', () => {
    const ball = { centre: [0.3, 0.5, -0.2] as [number, number, number], radius: 0.8 };
    for (const { key } of Object.values(SKIES)) {
      const m = lightMatrix(key.direction, ball);
      const along = (t: number) =>
        project(
          m,
          ball.centre.map((v, c) => v + key.direction[c] * t * ball.radius),
        );
      expect(along(1)[2]).toBeLessThan(along(0)[2]);
      expect(along(0)[2]).toBeLessThan(along(-1)[2]);
      expect(Math.hypot(along(0.7)[0], along(0.7)[1])).toBeLessThan(1e-5);
      for (let i = 0; i < 40; i++) {
        const a = i * 2.4;
        const y = (i / 39) * 2 - 1;
        const r = Math.sqrt(1 - y * y);
        const place = [r * Math.cos(a), y, r * Math.sin(a)].map((v, c) => ball.centre[c] + v * ball.radius);
        expect(Math.max(...project(m, place).map(Math.abs))).toBeLessThanOrEqual(1.0001);
      }
    }
  });
});

describe('the shadow of what is looked at from near', () => {
  const ball = { centre: [0, 20, 0] as [number, number, number], radius: 380 };
  it('is finer around it alone, and reaches whatever throws shadows on it', () => {
    expect(nearBall(ball, { target: [0, 0, 0], distance: 600 })).toBeNull();
    const near = nearBall(ball, { target: [40, 12, -30], distance: 9 })!;
    expect(near.centre).toEqual([40, 12, -30]);
    expect(near.radius).toBeGreaterThanOrEqual(2 * 9);
    expect(near.radius).toBeLessThan(ball.radius / 8);
    for (const { key } of Object.values(SKIES)) {
      const m = lightMatrix(key.direction, near, ball.radius);
      // Its own rim is the rim of the map; what stands far off toward the light is still in its depth.
      const side = [key.direction[2], 0, -key.direction[0]].map((v) => v / Math.hypot(key.direction[0], key.direction[2]));
      const rim = project(
        m,
        near.centre.map((v, c) => v + side[c] * near.radius),
      );
      expect(Math.hypot(rim[0], rim[1])).toBeCloseTo(1, 4);
      const hill = project(
        m,
        near.centre.map((v, c) => v + key.direction[c] * 300),
      );
      expect(Math.max(...hill.map(Math.abs))).toBeLessThanOrEqual(1.0001);
      expect(hill[2]).toBeLessThan(project(m, near.centre)[2]);
    }
  });
});

describe('cameras', () => {
  it('put what is looked at into the middle and keep the specimen in the picture', () => {
    for (const aspect of [760 / 372, 1, 1140 / 650]) {
      const orbit = frameOrbit(2.4);
      const [x, y] = project(clipMatrix(orbit, aspect), orbit.target);
      expect(Math.hypot(x, y)).toBeLessThan(1e-5);
      for (const corner of [
        [-1.2, 0, -1.2],
        [1.2, 0, 1.2],
        [-1.2, 0, 1.2],
        [1.2, 0, -1.2],
      ]) {
        const [cx, cy, cz] = project(clipMatrix(orbit, Math.max(aspect, 1.6)), corner);
        expect(Math.max(Math.abs(cx), Math.abs(cy))).toBeLessThan(1.05);
        expect(Math.abs(cz)).toBeLessThan(1);
      }
    }
  });
  it('frame whatever fills a box: all of it in the picture, low things from above, tall ones from the side', () => {
    const boxes = [
      { lo: [-1.2, -0.1, -1.2], hi: [1.2, 0.1, 1.2] },
      { lo: [-0.17, 0, -0.13], hi: [0.17, 0.92, 0.13] },
      { lo: [-1.5, 0, -0.15], hi: [1.5, 2.6, 0.15] },
      { lo: [-0.4, 0, -0.3], hi: [0.9, 1.7, 0.5] },
    ];
    for (const { lo, hi } of boxes) {
      const matrix = clipMatrix(frameBounds({ lo, hi }), 2);
      for (let k = 0; k < 8; k++) {
        const [x, y, z] = project(
          matrix,
          [0, 1, 2].map((c) => ((k >> c) & 1 ? hi[c] : lo[c])),
        );
        expect(Math.max(Math.abs(x), Math.abs(y), Math.abs(z))).toBeLessThan(1.05);
      }
    }
    // Where bars lie over a picture a box is framed beside them: it touches the window in one direction and leaves it in none.
    for (const { lo, hi } of boxes)
      for (const window of [
        { left: -0.96, right: 0.9, bottom: -0.7, top: 0.66, aspect: 2 },
        { left: -0.2, right: 0.98, bottom: -0.9, top: 0.9, aspect: 0.8 },
      ]) {
        const matrix = clipMatrix(frameWithin({ lo, hi }, window, 0.5), window.aspect);
        const seen = [0, 1, 2, 3, 4, 5, 6, 7].map((k) =>
          project(
            matrix,
            [0, 1, 2].map((c) => ((k >> c) & 1 ? hi[c] : lo[c])),
          ),
        );
        const [xs, ys] = [seen.map((p) => p[0]), seen.map((p) => p[1])];
        const gaps = [Math.min(...xs) - window.left, window.right - Math.max(...xs), Math.min(...ys) - window.bottom, window.top - Math.max(...ys)];
        expect(Math.min(...gaps)).toBeGreaterThan(-0.02);
        expect(Math.min(gaps[0] + gaps[1], gaps[2] + gaps[3])).toBeLessThan(0.04);
        expect(Math.abs(gaps[0] - gaps[1]) + Math.abs(gaps[2] - gaps[3])).toBeLessThan(0.08);
      }
    expect(frameBounds(boxes[0]).pitch).toBeGreaterThan(frameBounds(boxes[1]).pitch + 0.2);
  });
  it('stand at their distance', () => {
    const orbit: Orbit = { ...frameOrbit(1), yaw: 1, pitch: 0.3, distance: 5 };
    const eye = eyeOf(orbit);
    expect(Math.hypot(eye[0] - orbit.target[0], eye[1] - orbit.target[1], eye[2] - orbit.target[2])).toBeCloseTo(5, 5);
  });
  it('show on the flat what flatAt says, and flatTo is its inverse', () => {
    const view = { u: 0.3, v: 0.6, span: 0.8 };
    const aspect = 1.4;
    for (const [x, y] of [
      [0, 0],
      [1, 1],
      [0.25, 0.7],
    ]) {
      const [u, v] = flatAt(view, aspect, x, y);
      const [cx, cy] = project(flatMatrix(view, aspect), [u, 0, v]);
      expect((cx + 1) / 2).toBeCloseTo(x, 5);
      expect((1 - cy) / 2).toBeCloseTo(y, 5);
      const back = flatTo(view, aspect, u, v);
      expect(back[0]).toBeCloseTo(x, 9);
      expect(back[1]).toBeCloseTo(y, 9);
    }
  });
});

describe('packed textures', () => {
  const surface = generateSurface('river-gravel', { seed: 4, size: 16 });
  const packed = packSurface(surface.maps, 16);
  it('carry every map where the compiler looks for it, to the texel', () => {
    const sources = sourcesOfPacked({ surfaces: [packed], masks: [], ids: [] });
    const read = (channel: 'roughness' | 'occlusion' | 'normal' | 'baseColor', i: number, c = 0) => {
      const { levels, table } = sources(0, channel);
      return table![levels[0].data[i * levels[0].stride + levels[0].offset + c]];
    };
    for (let i = 0; i < 256; i += 7) {
      expect(read('roughness', i)).toBe(decodeTable(8, false)[surface.maps.roughness.data[i]]);
      expect(read('occlusion', i)).toBe(decodeTable(8, false)[surface.maps.occlusion.data[i]]);
      expect(read('normal', i, 1)).toBeCloseTo((surface.maps.normal.data[i * 3 + 1] / 255) * 2 - 1, 6);
      expect(read('baseColor', i, 2)).toBeCloseTo(srgbToLinear(surface.maps.baseColor.data[i * 3 + 2] / 255), 6);
    }
  });
  it('keep 16 bits of height exactly and its spread from the first mip on', () => {
    expect(packed.height[0].data[0]).toBeCloseTo(surface.maps.height.data[0] / 65535, 7);
    expect(packed.height[0].data[1]).toBe(0);
    expect(packed.height[1].data[1]).toBeGreaterThan(0);
    expect(packed.height.map((l) => l.width)).toEqual([16, 8, 4, 2, 1]);
  });
  it('fill what a surface lacks with the neutral of its role', () => {
    const bare: PackedSurface = packSurface({ roughness: makeImage({ width: 4, height: 4, channels: 1 }) }, 4);
    expect([...bare.shape[0].data.subarray(0, 4)]).toEqual([128, 128, 0, 255]);
    expect(bare.height[0].data[0]).toBeCloseTo(0.5, 4);
    expect([...bare.rare[0].data.subarray(0, 2)]).toEqual([0, 0]);
  });
  it('weigh what the formula says', () => expect(packedBytes(1024)).toBe(Math.round((1024 * 1024 * 17 * 4) / 3)));
});

describe('shaders', () => {
  const b = new Builder();
  const uv = b.node('place2d', [b.texcoord(), b.value('repeats', 'vec2'), b.constant(0, 0)]);
  const outputs = {
    baseColor: b.constant(1, 1, 1),
    normal: b.constant(0, 0, 1),
    roughness: b.node('image', [uv, b.constant(0)], { slot: 0, channel: 'roughness' }),
    occlusion: b.constant(1),
    metallic: b.constant(0),
    height: b.constant(0),
    specular: b.constant(0.5),
    identity: b.constant(1, 1, 1),
  };
  it('declare each varying of the vertex stage at both ends', () => {
    const program = emitGlsl(outputs, 'live', LIGHT_UNITS);
    for (const { name, type } of program.vertex.outputs) {
      expect(stageVertex(program)).toContain(`out ${type} ${name};`);
      expect(stageFragment(program)).toContain(`in ${type} ${name};`);
    }
    expect(program.vertex.outputs.length).toBe(1);
  });
  it('say nothing about blending themselves: that is the registry’s alone', () => {
    const plain = { ...outputs, roughness: b.constant(1) };
    const own = stageFragment(emitGlsl(plain, 'live', LIGHT_UNITS));
    expect(own).not.toMatch(/crossover|pb_(mix|bend|ramp)/);
  });
});

describe('a stage in its worker', () => {
  const image = (value: number) => makeImage({ width: 1, height: 1, channels: 1, data: Uint8Array.of(value) });
  const mask = (key: string) => ({ key, packed: { size: 1, levels: [image(key.length)] } });
  const surface = { key: 's', packed: { size: 1, colour: [image(1)], shape: [image(1)], height: [], rare: [image(1)] } };
  const asked = { program: { glsl: {} as GlslProgram, hoisted: [], graph: null }, values: {} };
  const setOf = (...masks: string[]): KeyedSet => ({ surfaces: [surface], masks: masks.map(mask), ids: [] });
  const make = () => {
    const told: { type: string; key?: string; keys?: unknown }[] = [];
    /** How many buffers of each key were moved, each time. */
    const moved: Record<string, number[]> = {};
    const canvas = { transferControlToOffscreen: () => ({}) } as unknown as HTMLCanvasElement;
    const pane = { x: 0, y: 0, width: 1, height: 1 };
    const postMessage = (message: (typeof told)[number], transfer: unknown[] = []) => {
      told.push(message);
      if (message.key) (moved[message.key] ??= []).push(transfer.length);
    };
    const port = { postMessage, addEventListener: () => undefined };
    const stage = new RemoteStage(port as never, canvas, {} as LightData, { specimen: pane, flat: pane });
    const since = () =>
      told.splice(0).flatMap(({ type, key, keys }) => (type === 'surface' ? [`+${key}`] : type === 'forget' ? [`-${String(keys)}`] : []));
    return { since, told, moved, show: (...masks: string[]) => stage.setProgram({ ...asked, slots: setOf(...masks) }), stage };
  };

  it('is told each picture once, lets go of those that are not shown any more, and gets them again when they are', () => {
    const { since, show } = make();
    show('a');
    expect(since()).toEqual(['+s', '+a']);
    show('a', 'bb');
    expect(since()).toEqual(['+bb']);
    // As a brush does: each move is another picture. Surfaces stay: what was moved cannot be sent again.
    show('bb', 'ccc');
    expect(since()).toEqual(['+ccc', '-a']);
    show('bb', 'dddd');
    expect(since()).toEqual(['+dddd', '-ccc']);
    show('a');
    expect(since()).toEqual(['+a', '-bb,dddd']);
  });
  it('is told of another look, and of the same one only while it moves', () => {
    const { stage, told } = make();
    const looks = () => told.splice(0).filter(({ type }) => type === 'look').length;
    const look = { orbit: { yaw: 0 }, channel: 'lit' } as unknown as StageLook;
    stage.setLook(look, false);
    stage.setLook({ ...look }, false);
    expect(looks()).toBe(1);
    stage.setLook({ ...look }, true);
    expect(looks()).toBe(1);
    stage.setLook({ ...look, channel: 'height' }, false);
    expect(looks()).toBe(1);
  });
  it('is given what stands in for a surface to copy, and lets go of it when that is there', () => {
    const { told, moved, since, stage } = make();
    const standIn = { ...surface, key: 'coarse', transient: true };
    const program = (slots: KeyedSet, whole: boolean) => stage.setProgram({ ...asked, slots, whole });
    program({ ...setOf(), surfaces: [standIn] }, false);
    expect(told.filter(({ type }) => type === 'program')).toEqual([
      jasmine.objectContaining({ request: jasmine.objectContaining({ whole: false }) }),
    ]);
    expect(since()).toEqual(['+coarse']);
    program(setOf(), true);
    expect(told.filter(({ type }) => type === 'program')).toEqual([jasmine.objectContaining({ request: jasmine.objectContaining({ whole: true }) })]);
    expect(since()).toEqual(['+s', '-coarse']);
    // What is undone and done again is shown once more: it was copied, so it is still there.
    program({ ...setOf(), surfaces: [standIn] }, false);
    expect(moved).toEqual({ coarse: [0, 0], s: [3] });
    expect(since()).toEqual(['+coarse']);
  });
  it('keeps what a neighbour shows, whatever the open blend does', () => {
    const { since, show, stage } = make();
    const neighbour = (...masks: string[]) => stage.setOthers(null, [{ slots: setOf(...masks) } as never]);
    show('a');
    neighbour('a', 'n');
    expect(since()).toEqual(['+s', '+a', '+n']);
    show('bb');
    expect(since()).toEqual(['+bb']);
    neighbour('n');
    expect(since()).toEqual(['-a']);
    stage.setOthers(null, []);
    expect(since()).toEqual(['-n']);
  });
});
