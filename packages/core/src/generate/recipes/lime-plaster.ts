import type { Kit } from '../kit';
import type { Recipe } from '../recipe';

/** Sweeps of the trowel: arcs that cross, each with a ridge where the tool lifted. */
const sweeps = (k: Kit) => {
  // One sway carries all strokes of a direction: what a wrist does to one, it does to its neighbours.
  const along = k.warp(0.3, 0.45, 13, 1);
  const strokes = [0, 1, 2].map((i) => k.noise([0.5 - 0.14 * i, 0.035 + 0.012 * i], 11 + i * 10, 2, along));
  const across = k.noise([0.04, 0.42], 43, 2, k.warp(0.26, 0.4, 45, 1));
  return k.mul(k.add(...strokes.map((s) => k.sub(s, 0.5)), k.mul(0.7, k.sub(across, 0.5))), k.amount('trowel'));
};
/** 1 where the finish has come off down to the rough coat, with its crumbling rim. */
const lost = (k: Kit) => {
  const field = k.add(k.noise(0.3, 51, 3), k.mul(0.4, k.sway(0.11, 53, 3)), k.mul(0.05, k.sway(0.012, 55, 2)));
  const gone = k.mul(k.clamp(k.amount('fallen')), k.rise(field, 0.69, 0.705));
  const rim = k.mul(k.clamp(k.amount('fallen')), k.rise(field, 0.6, 0.69));
  return { gone, rim };
};
const cracks = (k: Kit) => {
  const c = k.cells(0.42, 61, 0.95, k.warp(0.2, 0.16, 63, 2));
  const some = k.rise(k.noise(0.5, 65, 2), 0.42, 0.6);
  const fine = k.cells(0.07, 67, 0.95, k.warp(0.06, 0.05, 69, 1));
  return k.mul(
    k.amount('cracks'),
    k.max(k.mul(k.rise(c.edge, 0.022, 0.004), some), k.mul(0.5, k.rise(fine.edge, 0.05, 0.01), k.rise(k.noise(0.35, 71, 2), 0.58, 0.7))),
  );
};
const coarse = (k: Kit) => k.pieces('pebble', 0.012, 81, { keep: 0.85, long: 0.55, slim: 0.8, stacking: 0.4 });

export const limePlaster: Recipe = {
  title: 'Lime plaster',
  sizeM: 2,
  reliefM: 0.022,
  mid: 0.66,
  even: 0.9,
  structures: {
    trowel: { label: 'Trowel sweeps', help: 'Crossing strokes of 30 to 50 cm' },
    sand: { label: 'Sand', help: 'Grain of 1 to 2 mm in the finish' },
    cracks: { label: 'Cracks', help: 'Fine cracks, wandering, 40 and 7 cm apart' },
    fallen: { label: 'Fallen patches', help: 'Finish come off down to the rough coat, 8 mm deep' },
    stains: { label: 'Run-off stains', help: 'Grey and rusty streaks running down' },
    bloom: { label: 'Lime bloom', help: 'White salts of a hand width' },
    limewash: { label: 'Limewash', help: 'A thin tinted wash, worn where it stands proud' },
  },
  height: (k) => {
    const { gone, rim } = lost(k);
    const finish = k.add(
      k.mul(0.0034, sweeps(k)),
      k.mul(0.004, k.sway(0.7, 91, 2)),
      k.mul(0.0017, k.amount('sand'), k.sway(0.005, 93, 2)),
      k.mul(-0.0022, cracks(k)),
      k.mul(0.0018, rim, k.sway(0.04, 95, 2)),
    );
    const c = coarse(k);
    const rough = k.add(-0.0098, k.mul(0.003, k.sway(0.05, 97, 3)), k.mul(0.0032, c.top), k.mul(0.0012, k.sway(0.006, 99, 2)));
    return k.mix(finish, rough, gone);
  },
  look: (k) => {
    const { gone, rim } = lost(k);
    const mottle = k.noise(0.22, 101, 3);
    let colour = k.ramp(mottle, ['#a89d89', '#b8ad98', '#c6bca8', '#cfc7b6']);
    const wash = k.clamp(
      k.mul(
        k.amount('limewash'),
        k.rise(k.add(k.noise(0.9, 103, 2), k.mul(0.5, sweeps(k)), k.mul(-1.2, k.ground.convexity()), k.mul(0.25, k.sway(0.05, 105, 2))), 0.42, 0.6),
      ),
    );
    colour = k.mix(colour, k.ramp(mottle, ['#a87d58', '#b58b64', '#c09a75']), k.mul(0.72, wash));
    colour = k.mul(colour, k.add(0.88, k.mul(0.24, k.noise(0.007, 107, 2))));
    // What runs down drifts together.
    const drift = k.warp(0.05, 0.25, 111, 1);
    const run = k.noise([0.05, 1], 109, 3, drift);
    const grey = k.clamp(k.mul(k.amount('stains'), k.rise(run, 0.54, 0.8), k.rise(k.noise(0.6, 113, 2), 0.3, 0.6)));
    colour = k.mix(colour, k.mul(colour, k.hex('#8f8a80')), k.mul(0.85, grey));
    colour = k.mix(colour, k.hex('#8a5a34'), k.clamp(k.mul(0.5, k.amount('stains'), k.rise(k.noise([0.03, 0.8], 115, 2, drift), 0.68, 0.82))));
    const bloom = k.clamp(k.mul(k.amount('bloom'), k.rise(k.add(k.noise(0.18, 119, 3), k.mul(0.25, rim)), 0.66, 0.82)));
    colour = k.mix(colour, k.hex('#dedacf'), k.mul(0.7, bloom));
    colour = k.mix(colour, k.hex('#5f5546'), k.clamp(k.mul(0.85, cracks(k))));
    const c = coarse(k);
    const coat = k.mul(
      k.mix(
        k.ramp(k.noise(0.06, 121, 2), ['#7c654c', '#967d60', '#a8906f']),
        k.ramp(c.id, ['#6a5a4a', '#8b7d6a', '#b5a68c', '#7b5b45']),
        k.mul(0.7, c.on),
      ),
      k.add(0.75, k.mul(0.5, k.noise(0.006, 123, 2))),
    );
    colour = k.mix(colour, coat, gone);
    colour = k.mul(colour, k.sub(1, k.mul(0.4, k.rise(k.not(k.ground.occlusion()), 0.1, 0.5))));
    const burnish = k.rise(sweeps(k), 0.1, 0.6);
    const rough = k.add(0.82, k.mul(-0.22, burnish, k.not(wash)), k.mul(0.1, k.sub(mottle, 0.5)), k.mul(0.1, bloom), k.mul(-0.1, grey));
    return { baseColor: colour, roughness: k.mix(rough, 0.97, gone), metallic: k.node(0) };
  },
};
