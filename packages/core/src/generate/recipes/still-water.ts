import type { Kit } from '../kit';
import type { Recipe } from '../recipe';

const LEVEL_M = 0;
/** The bed in metres about the water's level: mud swells that stand out as islands, ripples, stones, sunken leaves. */
const bed = (k: Kit) => {
  const swell = k.add(-0.01, k.mul(0.055, k.sway(0.6, 11, 3)));
  const ripple = k.mul(0.003, k.amount('ripples'), k.sub(k.noise([0.6, 0.06], 13, 2, k.warp(0.14, 0.4, 15)), 0.5));
  const s = k.pieces('pebble', 0.09, 21, { keep: k.mul(0.5, k.amount('stones')), long: 0.44, slim: 0.75, stacking: 0.5 }, k.warp(0.02, 0.06, 23));
  const l = k.pieces('leaf', 0.13, 31, { keep: k.mul(0.42, k.amount('leaves')), long: 0.52, slim: 0.66, stacking: 0.3 }, k.warp(0.015, 0.08, 33));
  const mud = k.add(swell, ripple, k.mul(0.003, k.sway(0.03, 35, 4)));
  const m = k.add(mud, k.max(k.mul(s.on, k.add(0.001, k.mul(0.014, s.top))), k.mul(l.on, 0.0022)));
  return { mud, m, stones: s, leaves: l };
};
/** Scum: rafts of algae and dust on the water, torn at their rims. */
const film = (k: Kit) => {
  const field = k.add(k.noise(0.34, 41, 4, k.warp(0.2, 0.3, 43)), k.mul(0.24, k.sway(0.04, 45, 4)));
  return k.clamp(k.mul(k.amount('film'), k.rise(field, 0.62, 0.7)));
};
const bubbles = (k: Kit) => {
  const p = k.pieces('disc', 0.02, 51, {
    keep: k.mul(0.7, k.amount('bubbles'), k.rise(k.add(film(k), k.noise(0.2, 53, 2)), 0.7, 1.1)),
    long: 0.3,
    slim: 1,
    stacking: 0.2,
  });
  return { ...p, ring: k.rise(k.length(p.along, p.across), 0.6, 0.9) };
};
const pollen = (k: Kit) => {
  const p = k.pieces('disc', 0.008, 61, {
    keep: k.mul(0.55, k.amount('pollen'), k.rise(k.noise([0.3, 0.07], 63, 3, k.warp(0.2, 0.25, 65)), 0.5, 0.7)),
    long: 0.26,
    slim: 0.8,
    stacking: 0.2,
  });
  return p.on;
};
/** 1 under water. */
const under = (k: Kit) => k.rise(k.sub(LEVEL_M, bed(k).m), -0.0004, 0.0006);

export const stillWater: Recipe = {
  title: 'Still water',
  sizeM: 2,
  reliefM: 0.04,
  mid: 0.42,
  even: 0.75,
  structures: {
    ripples: { label: 'Silt ripples', help: 'Ridges of silt 6 cm apart' },
    stones: { label: 'Stones', help: 'Rounded stones of 4 to 8 cm in the bed' },
    leaves: { label: 'Sunken leaves', help: 'Dark leaves of 10 cm on the bed' },
    film: { label: 'Film', help: 'Rafts of algae and dust, a hand to half a metre wide' },
    bubbles: { label: 'Bubbles', help: 'Marsh gas, 5 to 12 mm, along the film' },
    pollen: { label: 'Pollen', help: 'Yellow specks of 2 mm in drifting bands' },
    murk: { label: 'Murk', help: 'How soon the bed is lost to depth, a few centimetres' },
  },
  height: (k) => {
    const { m } = bed(k);
    const tremble = k.mul(0.00035, k.sway(0.12, 71, 3));
    const b = bubbles(k);
    const water = k.add(LEVEL_M, tremble, k.mul(0.0007, film(k), k.add(0.4, k.noise(0.01, 73, 3))), k.mul(0.002, b.on, b.top));
    return k.mix(m, water, under(k));
  },
  look: (k) => {
    const { m, stones, leaves } = bed(k);
    const wet = under(k);
    const grain = k.noise(0.009, 81, 3);
    let ground = k.ramp(k.clamp(k.add(k.mul(0.5, k.noise(0.14, 83, 4)), k.mul(0.4, grain))), ['#3a2c1e', '#5c4a33', '#7a6547', '#93805f']);
    ground = k.mix(ground, k.mul(k.ramp(stones.id, ['#4b4a48', '#6f6a62', '#8b7f6d', '#5d4c40']), k.add(0.75, k.mul(0.5, grain))), stones.on);
    const leaf = k.mul(k.ramp(leaves.id, ['#2c1b10', '#55321a', '#7a5226']), k.add(0.8, k.mul(0.5, k.rise(k.abs(leaves.across), 0.1, 0.02))));
    ground = k.mix(ground, leaf, leaves.on);
    // Shores are dark with damp for a few millimetres above the water.
    const damp = k.rise(m, 0.009, 0.001);
    const shore = k.mul(ground, k.sub(1, k.mul(0.5, damp)));
    // Light that reaches the bed and comes back: less of red first. Source: Beer–Lambert law.
    const depth = k.mul(k.max(0, k.sub(LEVEL_M, m)), k.amount('murk'));
    const through = [34, 22, 30].map((a) => k.div(1, k.square(k.add(1, k.mul(depth, a)))));
    const clear = k.b.combine(...through);
    let colour = k.mix(k.hex('#1f2a1c'), k.mul(ground, 0.72), clear);
    const f = film(k);
    const scum = k.mul(k.ramp(k.noise(0.05, 85, 4), ['#3f4a20', '#5d6a2e', '#7c7f45', '#4c5a2a']), k.add(0.72, k.mul(0.5, grain)));
    colour = k.mix(colour, scum, k.mul(0.92, f));
    const b = bubbles(k);
    colour = k.mix(colour, k.hex('#c9cdb8'), k.mul(b.on, b.ring, 0.6));
    const p = pollen(k);
    colour = k.mix(colour, k.hex('#c9b544'), p);
    const water = k.mix(k.node(0.05), k.add(0.5, k.mul(0.3, grain)), k.max(f, p));
    const dry = k.sub(0.95, k.mul(0.55, damp));
    return { baseColor: k.mix(shore, colour, wet), roughness: k.mix(dry, water, wet), metallic: k.node(0) };
  },
};
