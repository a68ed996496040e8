// Specimens of a place: the things of Orrin Ridge, at their true size, in parts with slots.
import { fractalNoise } from '../noise';
import type { Colouring, Mesh, Vector } from './mesh';
import { grid, merged, smooth } from './mesh';
import type { Model, Part } from './model';
import type { Bend } from './shapes';
import { box, lathe, tube } from './shapes';

/** Noise 0–1 in space, in waves of a size: three planes laid over each other. */
const cloud = ([x, y, z]: Vector, sizeM: number, seed: number, octaves = 3): number => {
  const of = (a: number, b: number, k: number) => fractalNoise(a / sizeM + 500, b / sizeM + 500, 1024, seed + k, octaves);
  return (of(x, y + 0.37 * z, 0) + of(y, z + 0.31 * x, 1) + of(z, x + 0.29 * y, 2)) / 3;
};

/**
 * Vertex colours by place: red what lies open to the sky, in patches; green what is near the ground or on the shaded side;
 * blue in small islands; alpha 1.
 */
export function weathered(heightM: number): Colouring {
  return (p, n, _, out, at) => {
    out[at] = smooth(0.1, 0.8, n[1]) * smooth(0.38, 0.55, cloud(p, 0.35 * heightM, 71));
    const low = smooth(0.55, 0.02, p[1] / heightM + 0.5 * (cloud(p, 0.2 * heightM, 83) - 0.5));
    const shaded = 0.7 * smooth(0.2, 0.9, -n[2]) * smooth(0.4, 0.6, cloud(p, 0.25 * heightM, 89));
    out[at + 1] = Math.max(low, shaded);
    out[at + 2] = smooth(0.52, 0.62, cloud(p, 0.14 * heightM, 97));
    out[at + 3] = 1;
  };
}

/** A hewn post with a pyramid on top; its detailed form has been struck with a chisel, its reduced one has the same outline. */
function markerStone(): Model {
  const [w, h, d] = [0.34, 0.92, 0.26];
  const shape =
    (rough: boolean): Bend =>
    ([x, y, z]) => {
      const t = y / h;
      const taper = 1 - 0.16 * t - 0.9 * smooth(0.86, 1.02, t) * 0.62;
      const lean = 0.012 * Math.sin(t * 2.1);
      if (!rough) return [x * taper + lean, y, z * taper];
      const p: Vector = [x, y, z];
      const chips = 0.022 * (cloud(p, 0.16, 11, 3) - 0.5) + 0.008 * (cloud(p, 0.035, 13, 2) - 0.5) - 0.02 * smooth(0.56, 0.64, cloud(p, 0.1, 17, 2));
      const l = Math.hypot(x / w, z / d) || 1;
      return [x * taper + lean + (chips * x) / w / l, y + chips * 0.4 * smooth(0.7, 1, t), z * taper + (chips * z) / d / l];
    };
  const of = (segments: number, rough: boolean, edge: number): Part[] => [
    { name: 'stone', slot: 'stone', mesh: box({ size: [w, h, d], centre: [0, h / 2, 0], edge, segments, bend: shape(rough) }, weathered(h)) },
  ];
  return { title: 'Marker stone', lods: [of(72, true, 0.018), of(6, false, 0.014)] };
}

/** A copper still: pot, lid with its neck, a pipe to the worm, and an iron stand. */
function copperStill(): Model {
  const colour = weathered(1.5);
  const dent =
    (deep: number): Bend =>
    (p) => {
      const l = Math.hypot(p[0], p[2]) || 1;
      const k = deep * (cloud(p, 0.09, 31, 2) - 0.5);
      return [p[0] + (k * p[0]) / l, p[1], p[2] + (k * p[2]) / l];
    };
  const of = (fine: number, dents: number): Part[] => {
    const n = (v: number) => Math.max(6, Math.round(v * fine));
    const body = lathe(
      {
        outline: [
          [0.3, 0.98],
          [0.31, 0.965],
          [0.34, 0.93],
          [0.41, 0.82],
          [0.44, 0.68],
          [0.42, 0.52],
          [0.34, 0.4],
          [0.2, 0.345],
          [0.002, 0.335],
        ],
        around: n(72),
        down: n(48),
        bend: dent(dents),
      },
      colour,
    );
    const rim = lathe(
      {
        outline: [
          [0.302, 0.992],
          [0.33, 0.985],
          [0.335, 0.97],
          [0.325, 0.955],
        ],
        around: n(72),
        down: n(6),
      },
      colour,
    );
    const lid = lathe(
      {
        outline: [
          [0.06, 1.46],
          [0.062, 1.43],
          [0.07, 1.36],
          [0.09, 1.28],
          [0.15, 1.2],
          [0.24, 1.12],
          [0.3, 1.02],
          [0.315, 0.985],
        ],
        around: n(64),
        down: n(36),
        bend: dent(dents * 0.7),
      },
      colour,
    );
    const neck: Vector[] = [
      [0, 1.44, 0],
      [0.01, 1.58, 0],
      [0.12, 1.68, 0],
      [0.34, 1.66, 0],
      [0.56, 1.52, 0],
      [0.72, 1.2, 0.02],
      [0.78, 0.86, 0.04],
      [0.8, 0.6, 0.05],
    ];
    const pipe = tube(neck, (t) => 0.058 - 0.026 * smooth(0, 0.8, t), n(20), n(64), colour);
    const collar = lathe(
      {
        outline: [
          [0.064, 1.475],
          [0.078, 1.468],
          [0.08, 1.44],
          [0.066, 1.425],
        ],
        around: n(32),
        down: n(6),
      },
      colour,
    );
    const legs = [0, 1, 2].map((k) => {
      const a = (k / 3) * 2 * Math.PI + 0.4;
      const [x, z] = [Math.sin(a), Math.cos(a)];
      return tube(
        [
          [x * 0.36, 0.42, z * 0.36],
          [x * 0.4, 0.26, z * 0.4],
          [x * 0.43, 0.1, z * 0.43],
          [x * 0.48, 0.004, z * 0.48],
        ],
        () => 0.018,
        n(10),
        n(18),
        colour,
      );
    });
    const ring = lathe(
      {
        outline: [
          [0.355, 0.45],
          [0.385, 0.445],
          [0.385, 0.405],
          [0.355, 0.4],
          [0.345, 0.425],
          [0.355, 0.45],
        ],
        around: n(64),
        down: n(10),
      },
      colour,
    );
    return [
      { name: 'body', slot: 'copper', mesh: merged([body, rim]) },
      { name: 'lid', slot: 'copper', mesh: lid },
      { name: 'pipe', slot: 'pipe', mesh: merged([pipe, collar]) },
      { name: 'stand', slot: 'iron', mesh: merged([...legs, ring]) },
    ];
  };
  return { title: 'Copper still', lods: [of(1, 0.008), of(0.34, 0)] };
}

/** A ridge tile: half a tapered pipe with a thick wall and a collar that the next one slides under. */
function ridgeTile(): Model {
  const [length, wall] = [0.46, 0.016];
  const profile = (t: number) => 0.115 + 0.02 * t + 0.012 * smooth(0.86, 0.9, t);
  const colour = weathered(0.16);
  const shell = (inside: boolean) =>
    lathe(
      {
        outline: Array.from({ length: 25 }, (_, i) => {
          const t = inside ? i / 24 : 1 - i / 24;
          return [profile(t) - (inside ? wall : 0), t * length] as const;
        }),
        around: 48,
        down: 40,
        from: -0.25,
        to: 0.25,
        // The pipe lies down: what stood along +y lies along +z, and half of it is open below.
        bend: ([x, y, z]) => [x, z + 0.003 * (cloud([x, y, z], 0.07, 41) - 0.5), length / 2 - y],
      },
      colour,
    );
  const end = (t: number, ahead: boolean) => strip(t, ahead, profile, wall, length, colour);
  const sides = [-1, 1].map((side) => edgeStrip(side, profile, wall, length, colour));
  return {
    title: 'Roof ridge tile',
    lods: [[{ name: 'tile', slot: 'tile', mesh: merged([shell(false), shell(true), end(0, true), end(1, false), ...sides]) }]],
  };
}

/** The open ends of a half pipe: a half ring. */
function strip(t: number, ahead: boolean, profile: (t: number) => number, wall: number, length: number, colour: Colouring): Mesh {
  return grid(
    48,
    3,
    (s, v) => {
      const turn = (s - 0.5) * Math.PI * (ahead ? 1 : -1);
      const r = profile(t) - wall * v;
      return { p: [r * Math.sin(turn), r * Math.cos(turn), length / 2 - t * length], uv: [turn * 0.12, v * wall] };
    },
    colour,
  );
}
/** The two long edges on which a half pipe stands. */
function edgeStrip(side: number, profile: (t: number) => number, wall: number, length: number, colour: Colouring): Mesh {
  return grid(
    3,
    40,
    (s, t) => {
      const across = side > 0 ? s : 1 - s;
      return { p: [side * (profile(t) - wall * across), 0, length / 2 - t * length], uv: [across * wall, t * length] };
    },
    colour,
  );
}

/** A bay of a drying shed: stone plinth, timber frame, plastered panels. */
function shedWall(): Model {
  const [w, h] = [3, 2.6];
  const colour = weathered(h);
  const stone: Bend = (p) => [p[0], p[1], p[2] + 0.03 * (cloud(p, 0.3, 51) - 0.5)];
  const plaster: Bend = (p) => [p[0], p[1], p[2] + 0.012 * (cloud(p, 0.6, 53, 2) - 0.5)];
  const wood: Bend = (p) => [p[0] + 0.006 * (cloud(p, 0.5, 57, 2) - 0.5), p[1], p[2] + 0.006 * (cloud(p, 0.4, 59, 2) - 0.5)];
  const posts = [-1, 0, 1].map((k) =>
    box({ size: [0.14, h - 0.5, 0.16], centre: [k * (w / 2 - 0.07), (h + 0.5) / 2, 0.01], edge: 0.012, segments: 20, bend: wood }, colour),
  );
  const rails = [0.57, h - 0.07].map((y) => box({ size: [w, 0.14, 0.17], centre: [0, y, 0.012], edge: 0.012, segments: 24, bend: wood }, colour));
  const panels = [-1, 1].map((k) =>
    box({ size: [w / 2 - 0.12, h - 0.72, 0.1], centre: [k * (w / 4 - 0.02), (h + 0.5) / 2, 0], edge: 0.01, segments: 40, bend: plaster }, colour),
  );
  const plinth = box({ size: [w, 0.5, 0.3], centre: [0, 0.25, 0], edge: 0.03, segments: 48, bend: stone }, colour);
  return {
    title: 'Shed wall',
    lods: [
      [
        { name: 'plinth', slot: 'stone', mesh: plinth },
        { name: 'frame', slot: 'timber', mesh: merged([...posts, ...rails]) },
        { name: 'panels', slot: 'plaster', mesh: merged(panels) },
      ],
    ],
  };
}

/** A worn slab of a path, its top hollowed by feet. */
function pathSlab(): Model {
  const [w, h, d] = [0.78, 0.09, 0.52];
  const bend: Bend = (p) => {
    const [x, y, z] = p;
    const worn = -0.012 * smooth(0, h, y) * Math.exp(-((x / 0.26) ** 2) - (z / 0.2) ** 2);
    const chips = 0.02 * (cloud([x, 0, z], 0.2, 61) - 0.5);
    return [x * (1 + chips), y + worn + 0.006 * (cloud(p, 0.12, 63, 2) - 0.5), z * (1 - chips)];
  };
  return {
    title: 'Path slab',
    lods: [[{ name: 'slab', slot: 'stone', mesh: box({ size: [w, h, d], centre: [0, h / 2, 0], edge: 0.022, segments: 64, bend }, weathered(0.3)) }]],
  };
}

/** An upright square a metre wide, its coordinates from the top-left: what flat effects are drawn on. @param foot where it stands */
const card = (segments: number, foot: readonly [number, number, number] = [0, 0, 0]): Mesh =>
  grid(segments, segments, (s, t) => ({ p: [foot[0] + s - 0.5, foot[1] + 1 - t, foot[2]], uv: [s, t] }), weathered(1));
const uprightCard = (): Model => ({ title: 'Upright card', lods: [[{ name: 'card', slot: 'card', mesh: card(16) }]] });

/** The still with a card over its collar on which steam is drawn. */
function steamingStill(): Model {
  const still = copperStill();
  const top = Math.max(...still.lods[0].map(({ mesh }) => mesh.position.reduce((most, v, i) => (i % 3 === 1 ? Math.max(most, v) : most), 0)));
  const steam = { name: 'steam', slot: 'steam', mesh: card(8, [0, top - 0.35, 0]) };
  return { title: 'Steaming still', lods: still.lods.map((parts) => [...parts, steam]) };
}

/** Things of the place, by name. */
export const MODELS = {
  'marker-stone': markerStone,
  'copper-still': copperStill,
  'ridge-tile': ridgeTile,
  'shed-wall': shedWall,
  'path-slab': pathSlab,
  'upright-card': uprightCard,
  'steaming-still': steamingStill,
} satisfies Record<string, () => Model>;
