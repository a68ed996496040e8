import type { Kit } from '../kit';
import type { Recipe } from '../recipe';

const bent = (k: Kit) => k.warp(0.02, 0.3, 3, 3);
const blocks = (k: Kit) => k.courses(0.3, 0.6, 11, 0.26, bent(k));

/** Metres from the joint, eaten into where corners and edges broke off. */
const inside = (k: Kit) => {
  const { edgeM } = blocks(k);
  const chip = k.rise(k.noise(0.05, 21, 3), 0.56, 0.8);
  const gnaw = k.add(k.mul(0.006, k.sway(0.02, 23, 3)), k.mul(0.03, chip, k.amount('chips')));
  return k.sub(edgeM, k.add(0.006, gnaw));
};
const body = (k: Kit) => k.rise(inside(k), 0, 0.008);

/** Strokes of the pick, slanting one way on a block. */
const tooling = (k: Kit) => {
  const { x, y, id } = blocks(k);
  const slant = k.mul(k.sub(k.random(id, 2), 0.5), 1.6);
  const across = k.add(x, k.mul(y, slant), k.mul(0.006, k.sway(0.08, 31, 2)));
  const ridge = k.abs(k.sub(k.fract(k.mul(across, 1 / 0.019)), 0.5));
  const worn = k.rise(k.noise(0.14, 33, 3), 0.35, 0.62);
  return k.mul(k.rise(ridge, 0.16, 0.4), worn, k.step(k.random(id, 3), 0.28), k.amount('tooling'));
};
const pores = (k: Kit) => {
  const where = k.rise(k.noise(0.13, 43, 3), 0.42, 0.66);
  const p = k.pieces(
    'disc',
    0.019,
    41,
    { keep: k.mul(0.75, where, k.amount('pores')), long: 0.24, slim: 0.7, stacking: 0 },
    k.warp(0.02, 0.03, 45, 3),
  );
  return k.mul(p.on, p.top);
};
/** Rosettes that grow outward and die in the middle. */
const lichen = (k: Kit) => {
  const p = k.pieces('disc', 0.11, 51, { keep: k.mul(0.5, k.amount('lichen')), long: 0.5, slim: 0.92, stacking: 0.3 }, k.warp(0.035, 0.02, 53, 3));
  const r = k.length(p.along, p.across);
  const where = k.rise(k.noise(0.5, 55, 3), 0.42, 0.58);
  const lobes = k.rise(k.add(k.not(r), k.mul(0.5, k.sway(0.012, 57, 2))), 0.02, 0.16);
  return { on: k.mul(p.on, lobes, where, body(k)), r, id: p.id };
};

export const terraceStone: Recipe = {
  title: 'Terrace stone',
  sizeM: 2.4,
  reliefM: 0.05,
  mid: 0.62,
  even: 0.65,
  structures: {
    joints: { label: 'Joints', help: 'Earth-filled joints of about 12 mm between courses of 30 cm' },
    chips: { label: 'Chipped edges', help: 'Corners and edges broken off, 1 to 4 cm' },
    tooling: { label: 'Tool marks', help: 'Slanting pick strokes 2 cm apart' },
    pores: { label: 'Pores', help: 'Pits of 3 to 6 mm' },
    lichen: { label: 'Lichen', help: 'Grey-green and ochre rosettes of 4 to 10 cm' },
    bedding: { label: 'Bedding', help: 'Sediment layers in each block, centimetres apart' },
    stains: { label: 'Stains', help: 'Dark water marks and soot by slope and hollow' },
  },
  height: (k) => {
    const { x, y, id } = blocks(k);
    const lean = k.add(k.mul(x, k.sub(k.random(id, 4), 0.5), 0.035), k.mul(y, k.sub(k.random(id, 5), 0.5), 0.05));
    const face = k.add(
      k.mul(0.012, k.sub(id, 0.5)),
      lean,
      k.mul(0.01, k.sway(0.22, 61, 4)),
      k.mul(0.004, k.sway(0.03, 63, 4)),
      k.mul(0.0012, k.sway(0.006, 65, 2)),
      k.mul(0.0035, k.sub(tooling(k), 0.4)),
      k.mul(-0.004, pores(k)),
      k.mul(0.0012, lichen(k).on),
      // Shoulders are rounder than a saw would leave them.
      k.mul(-0.012, k.square(k.rise(inside(k), 0.05, 0))),
    );
    const deep = k.mul(k.amount('joints'), 0.02);
    const earth = k.add(k.mul(-1, deep), k.mul(0.005, k.sway(0.03, 71, 3)), k.mul(0.004, k.sway(0.2, 73)), -0.002);
    return k.mix(earth, face, body(k));
  },
  look: (k) => {
    const { id } = blocks(k);
    const grain = k.noise(0.009, 81, 3);
    const broad = k.noise(0.16, 83, 4);
    const stone = k.ramp(k.clamp(k.add(k.mul(0.6, id), k.mul(0.5, k.sub(broad, 0.2)))), [
      '#6d6a63',
      '#86806f',
      '#9a9384',
      '#8b8c88',
      '#aba18c',
      '#a08d74',
    ]);
    let colour = k.mul(stone, k.add(0.76, k.mul(0.48, grain)));
    const bed = k.noise([0.4, 0.014], 85, 3, k.add(bent(k), k.b.combine(k.mul(id, 0.37), k.mul(id, 0.71))));
    colour = k.mix(colour, k.hex('#a8977c'), k.clamp(k.mul(k.amount('bedding'), 0.4, k.rise(bed, 0.52, 0.72), k.step(k.random(id, 6), 0.35))));
    colour = k.mix(colour, k.hex('#5d5a56'), k.clamp(k.mul(k.amount('bedding'), 0.45, k.rise(bed, 0.42, 0.28))));
    // Freshly broken faces are paler.
    const broken = k.mul(k.rise(k.noise(0.05, 21, 3), 0.6, 0.8), k.rise(inside(k), 0.035, 0.004), k.amount('chips'));
    colour = k.mix(colour, k.hex('#b9b2a2'), k.clamp(k.mul(0.55, broken)));
    colour = k.mul(colour, k.sub(1, k.mul(0.55, pores(k))));
    colour = k.mix(colour, k.mul(colour, 1.2), k.clamp(k.mul(0.5, tooling(k))));
    const hollow = k.rise(k.not(k.ground.occlusion()), 0.05, 0.45);
    const run = k.noise([0.07, 0.9], 87, 4, k.warp(0.05, 0.2, 89));
    const stain = k.clamp(k.mul(k.amount('stains'), k.add(k.mul(0.75, hollow), k.mul(0.55, k.rise(run, 0.55, 0.75)))));
    colour = k.mix(colour, k.mul(colour, k.hex('#8a7a66')), stain);
    const l = lichen(k);
    const thallus = k.mix(k.ramp(k.random(l.id, 1), ['#9aa184', '#b3b49a', '#b98d3c', '#8d9a83']), k.hex('#d3d3bf'), k.rise(l.r, 0.55, 0.9));
    const dead = k.rise(l.r, 0.42, 0.2);
    colour = k.mix(colour, k.mix(thallus, colour, k.mul(0.8, dead)), k.mul(0.92, l.on));
    const earth = k.ramp(k.noise(0.02, 91, 4), ['#2b221a', '#4a3b2b', '#66523c']);
    const sunk = k.not(body(k));
    colour = k.mix(colour, earth, sunk);
    const rough = k.add(0.68, k.mul(0.2, grain), k.mul(-0.16, k.rise(k.ground.convexity(), 0.02, 0.14)), k.mul(0.1, stain));
    return { baseColor: colour, roughness: k.mix(k.mix(rough, 0.93, l.on), 0.97, sunk), metallic: k.node(0) };
  },
};
