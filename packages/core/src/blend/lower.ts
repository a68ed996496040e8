import { Builder, UNIT } from '../compile';
import type { DagNode, ImageChannel } from '../compile';
import { lowerCoverage } from '../coverage';
import { srgbToLinear } from '../image';
import type { BlendRole } from '../surface';
import { ROLE_FACTS } from '../surface';
import type { Stack, StackLayer } from './stack';
import { LAYER_HUES, prefixOf } from './stack';

export interface LoweredBlend {
  builder: Builder;
  /** The blended surface. Height is in metres; colour is linear light. */
  channels: Record<BlendRole, DagNode>;
  /** Each layer's hue, mixed by weight: who wins where. */
  identity: DagNode;
  /** From the bottom: the height with which each layer contends, and its weight over what lies below. */
  profiles: { height: DagNode; weight: DagNode }[];
}

export interface LowerOptions {
  /** Read mip levels and the spread of heights under them: for pictures seen from afar. Off, level 0 is read. */
  far?: boolean;
}

/** A layer's own maps at a point. */
class LayerMaps {
  private readonly uv: DagNode;
  private readonly levels = new Map<string, DagNode>();

  constructor(
    private readonly b: Builder,
    private readonly layer: StackLayer,
    private readonly prefix: string,
    private readonly far: boolean,
  ) {
    this.uv = b.node('place2d', [b.texcoord(), b.value(`${prefix}repeats`, 'vec2'), b.constant(0, 0)]);
  }

  /** A channel, or the neutral of its role where the surface has no such map. */
  sample(channel: ImageChannel, role: BlendRole): DagNode {
    const { b } = this;
    const neutral = ROLE_FACTS[role].neutral;
    if (!this.layer.surface.roles.has(role))
      return channel === 'normal' ? b.constant(0, 0) : channel === 'spread' ? b.constant(0) : b.constant(...neutral);
    if (channel === 'spread' && !this.far) return b.constant(0);
    return b.node('image', [this.uv, this.level(channel)], { slot: this.layer.slot, channel });
  }

  private level(channel: ImageChannel): DagNode {
    const { b } = this;
    if (!this.far) return b.constant(0);
    const d = (axis: 'x' | 'y') => b.derivative(this.uv, axis);
    const key = channel === 'spread' ? 'height' : channel;
    if (!this.levels.has(key)) this.levels.set(key, b.node('imagelevel', [d('x'), d('y')], { slot: this.layer.slot, channel: key }));
    return this.levels.get(key) as DagNode;
  }

  /** Own height in metres: (t − mid) · relief. */
  height = (): DagNode =>
    this.b.add(this.b.multiply(this.sample('height', 'height'), this.b.value(`${this.prefix}relief`)), this.b.value(`${this.prefix}base`));
  spread = (): DagNode => this.b.multiply(this.sample('spread', 'height'), this.b.value(`${this.prefix}relief`));
  normal = (): DagNode => this.b.node('normalmap', [this.sample('normal', 'normal'), this.b.constant(1)]);
}

/**
 * Lowers a stack to the DAG: every layer over what lies below by its coverage and crossover, composed channel by
 * channel (colour in linear light, normals in slope space, occlusion darkened in the seam, height by weight).
 * @throws RangeError for a stack without layers.
 */
export function lowerBlend(stack: Stack, options: LowerOptions = {}): LoweredBlend {
  if (!stack.layers.length) throw new RangeError('A blend needs at least one layer that is switched on');
  const b = new Builder();
  const far = options.far ?? false;
  const hue = (i: number) => b.constant(...LAYER_HUES[i % LAYER_HUES.length].map((v) => srgbToLinear(v / 255)));
  const profiles: LoweredBlend['profiles'] = [];
  let channels = {} as Record<BlendRole, DagNode>;
  let identity = hue(0);
  let spread = b.constant(0);
  stack.layers.forEach((entry, i) => {
    const p = prefixOf(i);
    const maps = new LayerMaps(b, entry, p, far);
    const own: Record<BlendRole, DagNode> = {
      baseColor: maps.sample('baseColor', 'baseColor'),
      normal: maps.normal(),
      roughness: maps.sample('roughness', 'roughness'),
      occlusion: maps.sample('occlusion', 'occlusion'),
      metallic: maps.sample('metallic', 'metallic'),
      height: maps.height(),
    };
    if (i === 0) {
      channels = own;
      spread = maps.spread();
      profiles.push({ height: own.height, weight: b.constant(1) });
      return;
    }
    const landed = landing(b, entry, p, own.height, channels.height);
    const weight = weighing(b, entry, p, landed, channels.height, maps.spread(), spread);
    profiles.push({ height: landed, weight });
    channels = compose(b, p, channels, { ...own, height: landed }, weight);
    identity = b.mix(identity, hue(i), weight);
    spread = b.mix(spread, maps.spread(), weight);
  });
  return { builder: b, channels, identity, profiles };
}

/** Height with which a layer contends: own + follow · below + lift + noise. */
function landing(b: Builder, entry: StackLayer, p: string, own: DagNode, below: DagNode): DagNode {
  const lifted = b.add(b.add(own, b.multiply(b.value(`${p}follow`, 'float', UNIT), below)), b.value(`${p}lift`));
  if (!entry.layer.seam.broken.byM) return lifted;
  const cells = b.value(`${p}brokenCells`);
  const noise = b.node('fractal2d', [b.multiply(b.texcoord(), cells), cells, b.value(`${p}brokenSeed`), b.value(`${p}brokenOctaves`)]);
  return b.add(lifted, b.multiply(b.subtract(b.multiply(noise, b.constant(2)), b.constant(1)), b.value(`${p}brokenBy`)));
}

function weighing(b: Builder, entry: StackLayer, p: string, top: DagNode, below: DagNode, spreadTop: DagNode, spreadBelow: DagNode): DagNode {
  const coverage = b.node('bend', [lowerCoverage(b, entry.layer.coverage, p), b.value(`${p}bias`, 'float', { lo: 0.01, hi: 0.99 })]);
  const w = b.node('crossover', [top, below, b.value(`${p}span`), coverage, b.value(`${p}soft`, 'float', UNIT), spreadTop, spreadBelow]);
  return b.multiply(w, b.value(`${p}strength`, 'float', UNIT));
}

function compose(b: Builder, p: string, below: Record<BlendRole, DagNode>, top: Record<BlendRole, DagNode>, w: DagNode): Record<BlendRole, DagNode> {
  return {
    baseColor: b.mix(below.baseColor, top.baseColor, w),
    normal: b.node('mixnormal', [below.normal, top.normal, w]),
    roughness: b.mix(below.roughness, top.roughness, w),
    metallic: b.mix(below.metallic, top.metallic, w),
    occlusion: b.node('seamshade', [b.mix(below.occlusion, top.occlusion, w), b.value(`${p}contact`, 'float', UNIT), w]),
    height: b.mix(below.height, top.height, w),
  };
}
