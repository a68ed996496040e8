import type { Kit } from '../kit';
import type { Recipe } from '../recipe';

const place = (k: Kit) => k.warp(0.03, 0.09, 3, 3);

/** Cushions of three sizes as rounded heaps, the larger ones older. */
const cushions = (k: Kit) => {
  const of = (size: number, key: number, keep: number) => k.pieces('disc', size, key, { keep, long: 0.78, slim: 0.9, stacking: 0.15 }, place(k));
  return [
    { ...of(0.24, 11, 0.8), m: 0.026 },
    { ...of(0.12, 21, 0.75), m: 0.017 },
    { ...of(0.06, 31, 0.65), m: 0.01 },
  ];
};
const heaps = (k: Kit) =>
  cushions(k)
    .map((c) => k.mul(c.m, c.top, k.amount('cushions')))
    .reduce((p, q) => k.over(p, q, 0.004), k.node(0));
/** Leafy shoots seen from above: little stars of a few millimetres. */
const shoots = (k: Kit) => {
  const c = k.cells(0.0085, 41, 0.9, k.warp(0.004, 0.02, 43));
  // Leaves ray out from a shoot: its edge is ragged, its size its own.
  const ragged = k.add(c.near, k.mul(0.55, k.sway(0.0035, 45)), k.mul(0.3, k.sub(c.id, 0.5)));
  return { ...c, tip: k.rise(ragged, 0.6, 0) };
};
const dead = (k: Kit) => k.clamp(k.mul(k.amount('dead'), k.rise(k.add(k.noise(0.2, 51, 4), k.mul(0.25, k.sway(0.02, 53, 2))), 0.6, 0.74)));
/** 1 in the gaps where soil shows. */
const gap = (k: Kit) => k.clamp(k.mul(k.amount('gaps'), k.rise(k.add(heaps(k), k.mul(0.006, k.sway(0.05, 55, 3))), 0.006, 0.001)));
const stalks = (k: Kit) =>
  k.pieces('disc', 0.02, 61, { keep: k.mul(0.6, k.amount('stalks'), k.rise(k.noise(0.3, 63, 2), 0.45, 0.6)), long: 0.17, slim: 0.9, stacking: 0.2 });

export const cushionMoss: Recipe = {
  title: 'Cushion moss',
  sizeM: 1.2,
  reliefM: 0.05,
  mid: 0.36,
  even: 0.75,
  structures: {
    cushions: { label: 'Cushions', help: 'Rounded heaps of 6, 12 and 24 cm' },
    shoots: { label: 'Shoots', help: 'Leafy tips of about 8 mm' },
    gaps: { label: 'Gaps', help: 'Dark soil between the cushions' },
    dead: { label: 'Dead patches', help: 'Straw-coloured, sunken, a hand wide' },
    stalks: { label: 'Spore stalks', help: 'Rust-red capsules of 2 mm in groves' },
    young: { label: 'Young growth', help: 'Yellow-green tips on some cushions' },
  },
  height: (k) => {
    const { tip, id } = shoots(k);
    const fuzz = k.mul(0.0018, k.sway(0.004, 71, 2));
    const pile = k.mul(k.add(0.0022, k.mul(0.0026, id)), tip, k.amount('shoots'));
    const s = stalks(k);
    const grown = k.add(
      heaps(k),
      k.mul(0.008, k.sway(0.35, 73, 3)),
      k.mul(k.not(k.mul(0.6, dead(k))), pile),
      fuzz,
      k.mul(-0.005, dead(k)),
      k.mul(0.006, s.on, s.top),
    );
    const soil = k.add(-0.009, k.mul(0.005, k.sway(0.02, 75, 4)));
    return k.mix(grown, soil, k.mul(0.85, gap(k)));
  },
  look: (k) => {
    const { tip, id } = shoots(k);
    const [large, middle] = cushions(k);
    const age = k.clamp(k.add(k.mul(0.42, k.random(large.id, 1)), k.mul(0.3, k.random(middle.id, 2)), k.mul(0.5, k.sub(k.noise(0.3, 81, 3), 0.35))));
    const young = k.clamp(k.mul(k.amount('young'), k.rise(age, 0.32, 0.75)));
    const deep = k.mix(k.hex('#16200c'), k.hex('#2a3a12'), young);
    const bright = k.mix(k.ramp(age, ['#33481a', '#46601f', '#5b7527']), k.ramp(id, ['#7f9430', '#a2ad3f', '#b8b84e']), k.mul(0.85, young));
    const raised = k.clamp(
      k.add(
        k.mul(0.75, tip, k.min(1, k.amount('shoots'))),
        k.mul(0.25, k.noise(0.004, 83, 2)),
        k.mul(0.3, k.rise(k.ground.convexity(), -0.05, 0.2)),
        -0.12,
      ),
    );
    let colour = k.mix(deep, bright, raised);
    colour = k.mul(colour, k.add(0.7, k.mul(0.6, k.noise(0.05, 85, 3))));
    const straw = k.mix(k.hex('#4a3a1e'), k.ramp(id, ['#97814a', '#b7a062', '#8a7040']), raised);
    colour = k.mix(colour, straw, k.mul(0.9, dead(k)));
    const s = stalks(k);
    colour = k.mix(colour, k.ramp(s.id, ['#7c3419', '#a4532a', '#b9772f']), s.on);
    const soil = k.ramp(k.noise(0.012, 87, 4), ['#191209', '#32251a', '#4c3a29']);
    colour = k.mix(colour, soil, gap(k));
    const shut = k.rise(k.not(k.ground.occlusion()), 0.1, 0.6);
    colour = k.mul(colour, k.sub(1, k.mul(0.45, shut)));
    const dew = k.mul(k.rise(k.noise(0.16, 89, 3), 0.52, 0.7), tip, k.not(dead(k)));
    return { baseColor: colour, roughness: k.mix(k.sub(0.94, k.mul(0.3, dew)), 0.97, gap(k)), metallic: k.node(0) };
  },
};
