import type { Kit } from '../kit';
import type { Recipe } from '../recipe';

const SIZES = [
  { cell: 0.028, base: 0.001, rise: 0.006, keep: 1, key: 31 },
  { cell: 0.05, base: 0.002, rise: 0.011, keep: 0.8, key: 41 },
  { cell: 0.085, base: 0.003, rise: 0.018, keep: 0.62, key: 51 },
  { cell: 0.15, base: 0.003, rise: 0.026, keep: 0.42, key: 61 },
] as const;

const bed = (k: Kit) => k.warp(0.02, 0.1, 3);
const stones = (k: Kit) =>
  SIZES.map((s, i) => ({
    ...k.pieces(
      'pebble',
      s.cell,
      s.key,
      { keep: k.mul(s.keep, i > 2 ? k.clamp(k.amount('cobbles')) : 1), long: 0.66, slim: 0.76, stacking: 0.3 },
      bed(k),
    ),
    ...s,
  }));
const pits = (k: Kit) => k.sway(0.008, 71, 3);
/** Level of the sand about the bed: it fills the gaps, and in places buries the smaller stones. */
const sandM = (k: Kit) => k.add(-0.007, k.mul(k.amount('sand'), k.add(0.0042, k.mul(0.011, k.sway(0.3, 5, 3)), k.mul(0.0012, k.sway(0.004, 9, 2)))));

/** Metres of each size of stone above the bed, 0 where there is none. */
const raised = (k: Kit) =>
  stones(k).map((s) => ({ ...s, m: k.mul(s.on, k.add(s.base, k.mul(s.rise, s.top), k.mul(pits(k), 0.0026, k.amount('pits')))) }));

export const riverGravel: Recipe = {
  title: 'River gravel',
  sizeM: 1.2,
  reliefM: 0.04,
  mid: 0.35,
  even: 0.65,
  structures: {
    cobbles: { label: 'Cobbles', help: 'The largest stones, about 15 cm' },
    pits: { label: 'Pits', help: 'Pocks of a few millimetres in the stones' },
    veins: { label: 'Veins', help: 'Pale quartz bands through some stones' },
    sand: { label: 'Sand', help: 'Coarse sand between the stones' },
    damp: { label: 'Damp', help: 'Wet, dark undersides and hollows' },
    silt: { label: 'Silt', help: 'Dust dried on what lies flat' },
  },
  height: (k) => raised(k).reduce((h, s) => k.max(h, k.add(s.m, -0.004)), sandM(k)),
  look: (k) => {
    const grain = k.noise(0.006, 13, 3);
    let colour = k.mix(k.hex('#6e6354'), k.hex('#a08f76'), grain);
    let rough = k.node(0.95);
    let below = k.add(sandM(k), 0.004);
    for (const s of raised(k)) {
      const tone = k.random(s.id, 1);
      const warmth = k.random(s.id, 2);
      const body = k.ramp(tone, ['#4a4a4b', '#6f6b66', '#87827a', '#a59c8d', '#8b6a57', '#6a5f58', '#c2b8a6']);
      const mottled = k.mul(body, k.add(0.78, k.mul(0.44, k.noise(0.012, 17, 3))));
      const specked = k.mix(mottled, k.hex('#d8d0c0'), k.mul(0.5, k.rise(k.noise(0.0045, 23), 0.78, 0.9), k.step(warmth, 0.5)));
      // Bands run across a stone at an angle of its own.
      const band = k.abs(k.sub(k.fract(k.add(k.mul(s.across, k.add(0.6, warmth)), k.mul(s.along, 0.4), k.mul(0.5, k.sway(0.03, 29, 2)))), 0.5));
      const vein = k.mul(k.rise(band, 0.07, 0.02), k.step(tone, 0.74), k.amount('veins'));
      const stone = k.mix(specked, k.hex('#cfc8bb'), k.clamp(k.mul(vein, 0.75)));
      const wins = k.step(k.sub(s.m, below), 0);
      colour = k.mix(colour, stone, k.mul(s.on, wins));
      rough = k.mix(rough, k.add(0.42, k.mul(0.3, grain), k.mul(0.16, warmth)), k.mul(s.on, wins));
      below = k.max(below, k.mul(s.on, s.m));
    }
    const shut = k.not(k.ground.occlusion());
    const damp = k.clamp(k.mul(k.amount('damp'), k.rise(shut, 0.18, 0.55)));
    colour = k.mul(colour, k.sub(1, k.mul(0.62, damp)));
    rough = k.mix(rough, 0.32, k.mul(0.7, damp));
    const flat = k.rise(k.ground.slope(), 0.5, 0.1);
    const silt = k.clamp(k.mul(k.amount('silt'), flat, k.rise(k.noise(0.12, 37, 4), 0.5, 0.72), 0.8));
    colour = k.mix(colour, k.hex('#b5a78f'), k.mul(silt, k.not(damp)));
    return { baseColor: colour, roughness: k.mix(rough, 0.97, silt), metallic: k.node(0) };
  },
};
