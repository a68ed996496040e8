import type { Builder, DagNode } from '../compile';
import { UNIT } from '../compile';
import type { Extras, Shading } from './shading';
import { mixedExtras, withSpecular } from './shading';

/** Depth over which water begins to cover what it lies on, in metres. */
const SHORE_M = 0.004;
/** Coverage from which ground counts as wholly damp, and how damp it is away from the rim. */
const DAMP_FROM = 0.25;
const DAMP = 0.6;
/** By how much wet ground loses roughness for what it loses in lightness. */
const WET_GLOSS = 1.3;
/** glTF specular of water: F0 is 0.02 at an index of refraction of 1.33. */
const SPECULAR = 0.25;

/** What water is, each a number of a place: heights in metres, what it swallows in 1/m, cells of its ripples over a repetition. */
export interface WaterNodes {
  strength: DagNode;
  /** Height from which weak coverage raises it, and where it stands at full coverage. */
  floor: DagNode;
  level: DagNode;
  /** Metres above it that are wet, and how much that darkens. */
  rim: DagNode;
  wet: DagNode;
  absorb: DagNode;
  scatter: DagNode;
  rough: DagNode;
  ripple: DagNode;
  rippleCells: DagNode;
}
export interface Flood {
  look: Shading;
  /** Height of the water's surface, and how much it covers. */
  level: DagNode;
  cover: DagNode;
  /** Height over a bed of a height. */
  filled: (bed: DagNode) => DagNode;
}

const pick = (extras: Extras, role: keyof Extras): Extras => (extras[role] ? { [role]: extras[role] } : {});

/**
 * Standing water over what lies below. The coverage raises the level from the lowest place below to the stated one, so
 * more coverage is never less water; weak coverage only wets. Below the surface light is swallowed by depth (Beer–Lambert)
 * and the scatter colour comes back; the ground is wet up to the rim.
 */
export function flooded(b: Builder, water: WaterNodes, below: Shading, coverage: DagNode, uv: DagNode): Flood {
  const { channels } = below;
  const [zero, one] = [b.constant(0), b.constant(1)];
  const { strength } = water;
  const level = b.mix(water.floor, water.level, coverage);
  const above = b.subtract(channels.height, level);
  const deep = (bed: DagNode) => b.max(zero, b.subtract(level, bed));
  const filled = (bed: DagNode) => b.add(bed, b.multiply(deep(bed), strength));
  const depth = deep(channels.height);
  const cover = b.multiply(b.node('smoothstep', [depth, zero, b.constant(SHORE_M)]), strength);

  const rim = b.invert(b.node('smoothstep', [above, zero, water.rim]));
  const painted = b.multiply(b.min(one, b.multiply(coverage, b.constant(1 / DAMP_FROM))), strength);
  const damp = b.multiply(b.multiply(painted, b.max(rim, b.constant(DAMP))), water.wet);
  const wetColour = b.multiply(channels.baseColor, b.invert(damp));
  const wetRoughness = b.multiply(channels.roughness, b.max(zero, b.invert(b.multiply(damp, b.constant(WET_GLOSS)))));

  const passes = [0, 1, 2].map((i) => b.node('exp', [b.subtract(zero, b.multiply(b.extract(water.absorb, i), depth))]));
  const seen = b.mix(water.scatter, wetColour, b.combine(...passes));

  const cells = water.rippleCells;
  const slope = (seed: number) => {
    const noise = b.node('gradient2d', [b.multiply(uv, cells), cells, b.constant(seed)]);
    return b.multiply(b.subtract(b.multiply(noise, b.constant(2)), one), water.ripple);
  };
  const film = b.node('leannormal', [b.constant(0, 0, 1), b.combine(slope(51), slope(52))]);
  return {
    level,
    cover,
    filled,
    look: {
      channels: {
        baseColor: b.mix(wetColour, seen, cover),
        normal: b.node('mixnormal', [channels.normal, film, cover]),
        roughness: b.mix(wetRoughness, water.rough, cover),
        occlusion: b.mix(channels.occlusion, one, cover),
        metallic: b.mix(channels.metallic, zero, cover),
        height: filled(channels.height),
      },
      // What lies below glows through, and is cut out as it was; what its face alone is ends under a film.
      ...withSpecular(
        { ...mixedExtras(b, below.extras, {}, cover), ...pick(below.extras, 'emissive'), ...pick(below.extras, 'opacity') },
        b.mix(below.specular, b.constant(SPECULAR), cover),
      ),
      spread: b.mix(below.spread, zero, cover),
    },
  };
}

/** The numbers of a layer of water, which a stack gives. */
export const waterValues = (b: Builder, p: string): WaterNodes => ({
  strength: b.value(`${p}strength`, 'float', UNIT),
  floor: b.value(`${p}floor`),
  level: b.value(`${p}level`),
  rim: b.value(`${p}rim`),
  wet: b.value(`${p}wet`, 'float', UNIT),
  absorb: b.value(`${p}absorb`, 'vec3', { lo: 0, hi: Infinity }),
  scatter: b.value(`${p}scatter`, 'vec3', UNIT),
  rough: b.value(`${p}rough`, 'float', UNIT),
  ripple: b.value(`${p}ripple`),
  rippleCells: b.value(`${p}rippleCells`),
});
