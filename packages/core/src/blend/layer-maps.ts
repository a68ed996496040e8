import type { Builder, DagNode, ImageChannel } from '../compile';
import { UNIT } from '../compile';
import type { BlendRole, Role } from '../surface';
import { EXTRA_ROLES, ROLE_FACTS } from '../surface';
import type { StackLayer } from './stack';
import { extraSlots, usesLevels, usesRoughness, usesTint } from './stack';
import type { CuePicture } from '../coverage';
import { laidLook } from './laying';
import type { Extras, Shading } from './shading';

/** Where a layer is on its own maps. */
export function laidAt(b: Builder, { laid }: StackLayer, p: string, uv: DagNode): DagNode {
  const moved = b.value(`${p}moved`, 'vec2');
  if (!laid.b) return b.node('place2d', [uv, b.value(`${p}repeats`, 'vec2'), moved]);
  const along = (name: string) => b.node('dotproduct', [uv, b.value(`${p}${name}`, 'vec2')]);
  return b.add(b.combine(along('turnU'), along('turnV')), moved);
}

/** A normal of turned maps, turned with them. */
function turned(b: Builder, normal: DagNode, p: string): DagNode {
  const [c, s] = [0, 1].map((i) => b.extract(b.value(`${p}facing`, 'vec2', { lo: -1, hi: 1 }), i));
  const [x, y, z] = [0, 1, 2].map((i) => b.extract(normal, i));
  return b.combine(b.subtract(b.multiply(c, x), b.multiply(s, y)), b.add(b.multiply(s, x), b.multiply(c, y)), z);
}

/** Which maps are looked up, and the numbers that make metres of their heights. */
export interface MapsOf {
  slot: number;
  roles: ReadonlySet<Role>;
  /** Slots of pictures of the roles that have no texture with the others. */
  pictures: ReadonlyMap<Role, number>;
  /** Metres between stored 0 and 1, and metres of stored 0. */
  relief: DagNode;
  lowest: DagNode;
}

/** Maps of a surface at a place. */
export class SurfaceMaps {
  private readonly levels = new Map<string, DagNode>();

  constructor(
    private readonly b: Builder,
    private readonly of: MapsOf,
    private readonly uv: DagNode,
    private readonly far: boolean,
  ) {}

  /** A channel, or the neutral of its role where the surface has no such map. */
  sample(channel: ImageChannel, role: BlendRole, detail?: DagNode): DagNode {
    const { b } = this;
    const neutral = ROLE_FACTS[role].neutral;
    if (!this.of.roles.has(role)) return channel === 'normal' ? b.constant(0, 0) : channel === 'spread' ? b.constant(0) : b.constant(...neutral);
    if (channel === 'spread' && !this.far) return b.constant(0);
    const source = { slot: this.of.slot, channel };
    const level = this.level(channel);
    return detail
      ? b.node('imagedetail', [this.uv, b.max(level, this.levelOf(channel, detail)), detail], source)
      : b.node('image', [this.uv, level], source);
  }

  private level(channel: ImageChannel, slot = this.of.slot): DagNode {
    const { b } = this;
    if (!this.far) return b.constant(0);
    const d = (axis: 'x' | 'y') => b.derivative(this.uv, axis);
    const map = channel === 'spread' ? 'height' : channel;
    const key = `${map} ${slot}`;
    if (!this.levels.has(key)) this.levels.set(key, b.node('imagelevel', [d('x'), d('y')], { slot, channel: map }));
    return this.levels.get(key) as DagNode;
  }

  /** The level whose texels are as large as a share of the map. */
  private levelOf(channel: ImageChannel, share: DagNode): DagNode {
    const { b } = this;
    const zero = b.constant(0);
    return b.node('imagelevel', [b.combine(share, zero), b.combine(zero, share)], { slot: this.of.slot, channel });
  }

  /** Height in metres: (t − mid) · relief. With `detail`, a share of the map, smaller relief is left out. */
  readonly height = (detail?: DagNode): DagNode =>
    this.b.add(this.b.multiply(this.sample('height', 'height', detail), this.of.relief), this.of.lowest);

  /** Roles beside the usual six, as far as the surface has them. */
  private extras(): Extras {
    const { b, of, uv } = this;
    const found: Extras = {};
    for (const role of EXTRA_ROLES) {
      const picture = of.pictures.get(role);
      if (role === 'emissive' && of.roles.has(role)) found[role] = b.node('image', [uv, this.level(role)], { slot: of.slot, channel: role });
      else if (picture !== undefined) found[role] = b.node('image', [uv, this.level('mask', picture)], { slot: picture, channel: 'mask' });
    }
    return found;
  }

  /** All of it. @param strength of the normal */
  look(strength: DagNode): Shading {
    const { b } = this;
    const channels: Shading['channels'] = {
      baseColor: this.sample('baseColor', 'baseColor'),
      normal: b.node('normalmap', [this.sample('normal', 'normal'), strength]),
      roughness: this.sample('roughness', 'roughness'),
      occlusion: this.sample('occlusion', 'occlusion'),
      metallic: this.sample('metallic', 'metallic'),
      height: this.height(),
    };
    const extras = this.extras();
    const specular = extras.specular ?? b.constant(ROLE_FACTS.specular.neutral[0]);
    return { channels, extras, specular, spread: b.multiply(this.sample('spread', 'height'), this.of.relief) };
  }
}

/** A layer's own maps at a point. */
export class LayerMaps {
  private readonly maps: SurfaceMaps;
  private readonly of: MapsOf;
  private readonly at: DagNode;

  constructor(
    private readonly b: Builder,
    private readonly layer: StackLayer,
    private readonly prefix: string,
    private readonly uv: DagNode,
    private readonly far: boolean,
    masks: readonly CuePicture[],
  ) {
    this.of = {
      slot: layer.slot,
      pictures: layer.surfaceId === null ? new Map<Role, number>() : extraSlots(masks, layer.surfaceId, layer.surface?.roles ?? new Set<Role>()),
      roles: layer.surface?.roles ?? new Set<Role>(),
      relief: b.value(`${prefix}relief`),
      lowest: b.value(`${prefix}lowest`),
    };
    this.at = laidAt(b, layer, prefix, uv);
    this.maps = new SurfaceMaps(b, this.of, this.at, far);
  }

  readonly height = (detail?: DagNode): DagNode => this.maps.height(detail);

  look(): Shading {
    const { b, prefix: p, layer } = this;
    const strength = b.value(`${p}normal`);
    const lookAt = (at: DagNode): Shading => {
      const maps = at === this.at ? this.maps : new SurfaceMaps(b, this.of, at, this.far);
      const look = maps.look(strength);
      return layer.laid.b ? { ...look, channels: { ...look.channels, normal: turned(b, look.channels.normal, p) } } : look;
    };
    const { laying } = layer.layer;
    const { channels, ...rest } = laying
      ? laidLook(b, laying, p, this.uv, (uv) => (uv === this.uv ? this.at : laidAt(b, layer, p, uv)), lookAt)
      : lookAt(this.at);
    return { ...rest, channels: adjusted(b, layer, p, channels) };
  }
}

/** Tint, levels and roughness of a layer's look. */
export function adjusted(b: Builder, { layer }: StackLayer, p: string, channels: Shading['channels']): Shading['channels'] {
  let { baseColor, roughness } = channels;
  const [zero, one] = [b.constant(0), b.constant(1)];
  if (usesLevels(layer.look)) {
    const [low, high, mid] = [0, 1, 2].map((i) => b.extract(b.value(`${p}levels`, 'vec3'), i));
    const component = (i: number) => {
      const t = b.clamp(b.divide(b.subtract(b.extract(baseColor, i), low), b.subtract(high, low)), zero, one);
      return b.node('bend', [t, mid]);
    };
    baseColor = b.combine(component(0), component(1), component(2));
  }
  if (usesTint(layer.look)) baseColor = b.multiply(baseColor, b.value(`${p}tint`, 'vec3', UNIT));
  if (usesRoughness(layer.look)) roughness = b.clamp(b.add(roughness, b.value(`${p}rougher`)), zero, one);
  return { ...channels, baseColor, roughness };
}

/** A layer of constant values. */
export function constantLook(b: Builder, entry: StackLayer, p: string): Shading {
  const channels: Shading['channels'] = {
    baseColor: b.value(`${p}base`, 'vec3', UNIT),
    normal: b.constant(0, 0, 1),
    roughness: b.value(`${p}rough`, 'float', UNIT),
    occlusion: b.constant(1),
    metallic: b.value(`${p}metal`, 'float', UNIT),
    height: b.value(`${p}level`),
  };
  return { channels: adjusted(b, entry, p, channels), extras: {}, specular: b.constant(ROLE_FACTS.specular.neutral[0]), spread: b.constant(0) };
}

/** What a blend that serves as a layer looks like, turned as it lies. */
export function innerLook(b: Builder, entry: StackLayer, p: string, look: Shading): Shading {
  const { channels } = look;
  const normal = b.node('mixnormal', [b.constant(0, 0, 1), channels.normal, b.value(`${p}normal`)]);
  return { ...look, channels: adjusted(b, entry, p, { ...channels, normal: entry.laid.b ? turned(b, normal, p) : normal }) };
}
