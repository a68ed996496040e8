import { Builder, UNIT } from '../compile';
import type { DagNode } from '../compile';
import type { Site } from '../coverage';
import { lowerCoverage, lowerCues } from '../coverage';
import type { ColourMode } from '../document';
import { IDENTITY_HUES, srgbToLinear } from '../image';
import type { BlendRole, ExtraRole } from '../surface';
import { BLEND_ROLES } from '../surface';
import type { LayerProbe } from '../material';
import { LayerMaps, constantLook, innerLook, laidAt } from './layer-maps';
import type { Shading } from './shading';
import { mixedShading, withSpecular } from './shading';
import type { Stack, StackLayer } from './stack';
import { coveragePrefix, picturesOfStack, prefixOf } from './stack';
import { detailOf } from './values';
import { flooded, waterValues } from './water';

export interface LoweredBlend extends Shading {
  builder: Builder;
  /** Each layer's hue, mixed by weight: who wins where. */
  identity: DagNode;
  /** How each layer came to what it is, from the bottom. */
  probes: LayerProbe[];
  /** For a stack that serves as a layer. */
  smoothing: Smoothing;
}

export interface LowerOptions {
  /** Read mip levels and the spread of heights under them: for pictures seen from afar. Off, level 0 is read. */
  far?: boolean;
}

/** Which share of a map relief has to reach to count: of a layer by its place in the stack, of an inner one by both places. */
type Share = (...path: number[]) => DagNode;
/** By how much the height changes when smaller relief is left out. */
type Smoothing = (share: Share) => DagNode;
/** What a layer makes of such a change below it, for those above. */
type Step = (change: DagNode, share: Share) => DagNode;

/**
 * Lowers a stack to the DAG: every layer over what lies below by its coverage and crossover, composed channel by
 * channel (colour in linear light, normals in slope space, occlusion darkened in the seam, height by weight).
 * @throws RangeError for a stack without layers.
 */
export function lowerBlend(stack: Stack, options: LowerOptions = {}): LoweredBlend {
  const builder = new Builder();
  return lowerStack(builder, stack, { ...options, prefix: '', uv: builder.texcoord() });
}

/** The same within a graph that holds more. @param prefix of its values; @param uv one repetition of its extent a unit */
export const lowerStack = (b: Builder, stack: Stack, { far = false, prefix, uv }: LowerOptions & { prefix: string; uv: DagNode }): LoweredBlend =>
  new Lowering(b, far).stack(stack, prefix, uv);

class Lowering {
  constructor(
    private readonly b: Builder,
    private readonly far: boolean,
  ) {}

  /** @param prefix of its values; @param uv one repetition of its extent a unit */
  stack(stack: Stack, prefix: string, uv: DagNode): LoweredBlend {
    const { b } = this;
    if (!stack.layers.length) throw new RangeError('A blend needs at least one layer that is switched on');
    const hue = (i: number) => b.constant(...IDENTITY_HUES[i % IDENTITY_HUES.length].map((v) => srgbToLinear(v / 255)));
    const probes: LayerProbe[] = [];
    const pictures = picturesOfStack(stack);
    const steps: Step[] = [];
    let below = {} as Shading;
    let identity = hue(0);
    stack.layers.forEach((entry, i) => {
      const p = `${prefix}${prefixOf(i)}`;
      const site: Site = { uv, below: below.channels?.height, pictures, level: this.far ? this.pictureLevel : null };
      const cues = () => entry.coverages.map((c, k) => lowerCues(b, c, `${prefix}${coveragePrefix(stack, i, k)}`, site));
      const coverage = () =>
        entry.coverages
          .map((c, k) => lowerCoverage(b, c, `${prefix}${coveragePrefix(stack, i, k)}`, site))
          .reduce((all, c) => b.multiply(all, c), b.constant(1));
      if (entry.layer.shows.kind === 'water') {
        if (i === 0) return this.lay(probes, steps, (below = this.bed()), null);
        const c = coverage();
        const { look, level, cover, filled } = flooded(b, waterValues(b, p), below, c, uv);
        probes.push({ coverage: c, height: level, weight: cover, cues: cues(), own: null });
        const bed = below.channels.height;
        steps.push(this.reached(entry, (change) => b.subtract(filled(b.add(bed, change)), filled(bed))));
        below = kept(entry, below, look);
        identity = b.mix(identity, hue(i), cover);
        return;
      }
      const { look, smoothing } = this.own(entry, p, uv, stack.masks);
      const shown = { ...look.channels, ...look.extras };
      if (i === 0) return this.lay(probes, steps, (below = look), shown, smoothing);
      const lands = (own: DagNode, under: DagNode) => this.landing(entry, p, own, under, uv);
      const landed = lands(look.channels.height, below.channels.height);
      const c = coverage();
      const landing: Step = (change, share) => b.add(smoothing(share), b.multiply(this.follow(p), change));
      const weight = this.weighing(entry, p, { coverage: c, landed, below, spread: look.spread, steps: [...steps, landing] });
      probes.push({ coverage: c, height: landed, weight, cues: cues(), own: shown });
      steps.push(this.reached(entry, (change, share) => b.mix(change, landing(change, share), weight)));
      const bent = entry.layer.seam.normal > 0 ? this.seamSlope(p, uv, landed, below.channels.height, weight) : null;
      below = this.compose(entry, p, below, { ...look, channels: { ...look.channels, height: landed } }, weight, bent);
      identity = b.mix(identity, hue(i), weight);
    });
    return { builder: b, ...below, identity, probes, smoothing: (share) => this.smoothed(steps, share) };
  }

  /** The lowest layer: it lies everywhere. */
  private lay(probes: LayerProbe[], steps: Step[], look: Shading, own: LayerProbe['own'], smoothing: Smoothing = this.steady): void {
    probes.push({ coverage: this.b.constant(1), height: look.channels.height, weight: this.b.constant(1), cues: [], own });
    steps.push((_, share) => smoothing(share));
  }

  private steady: Smoothing = () => this.b.constant(0);
  private follow = (p: string): DagNode => this.b.value(`${p}follow`, 'float', UNIT);
  /** A layer that leaves the height alone hands on what changes below it. */
  private reached = ({ layer }: StackLayer, step: Step): Step => (layer.untouched.height ? (change) => change : step);
  private smoothed = (steps: readonly Step[], share: Share): DagNode =>
    steps.reduce((change, step, j) => step(change, (...path) => share(j, ...path)), this.b.constant(0));

  /** What water stands on where nothing lies below it. */
  private bed(): Shading {
    const { b } = this;
    const channels: Shading['channels'] = {
      baseColor: b.constant(0.01, 0.01, 0.01),
      normal: b.constant(0, 0, 1),
      roughness: b.constant(0.05),
      occlusion: b.constant(1),
      metallic: b.constant(0),
      height: b.constant(0),
    };
    return { channels, extras: {}, specular: b.constant(0.25), spread: b.constant(0) };
  }

  private pictureLevel = (uv: DagNode, slot: number): DagNode =>
    this.b.node('imagelevel', [this.b.derivative(uv, 'x'), this.b.derivative(uv, 'y')], { slot, channel: 'mask' });

  /** What a layer is by itself, and what leaving small relief out does to its height. */
  private own(entry: StackLayer, p: string, uv: DagNode, masks: Stack['masks']): { look: Shading; smoothing: Smoothing } {
    const { b } = this;
    if (entry.layer.shows.kind === 'constant') return { look: constantLook(b, entry, p), smoothing: this.steady };
    if (entry.inner) {
      const inner = this.stack(entry.inner, p, laidAt(b, entry, p, uv));
      return { look: innerLook(b, entry, p, inner), smoothing: inner.smoothing };
    }
    const maps = new LayerMaps(b, entry, p, uv, this.far, masks);
    return { look: maps.look(), smoothing: (share) => b.subtract(maps.height(share()), maps.height()) };
  }

  /** Height with which a layer contends: own + follow · below + lift + noise. */
  private landing(entry: StackLayer, p: string, own: DagNode, below: DagNode, uv: DagNode): DagNode {
    const { b } = this;
    const lifted = b.add(b.add(own, b.multiply(this.follow(p), below)), b.value(`${p}lift`));
    if (!entry.layer.seam.broken.byM) return lifted;
    const cells = b.value(`${p}brokenCells`);
    const noise = b.node('fractal2d', [b.multiply(uv, cells), cells, b.value(`${p}brokenSeed`), b.value(`${p}brokenOctaves`)]);
    return b.add(lifted, b.multiply(b.subtract(b.multiply(noise, b.constant(2)), b.constant(1)), b.value(`${p}brokenBy`)));
  }

  /** @param steps of the layers below, and last how this one lands */
  private weighing(
    entry: StackLayer,
    p: string,
    { coverage, landed, below, spread, steps }: { coverage: DagNode; landed: DagNode; below: Shading; spread: DagNode; steps: readonly Step[] },
  ): DagNode {
    const { b } = this;
    let [top, under] = [landed, below.channels.height];
    if (entry.layer.seam.detailM > 0) {
      // What small relief adds is taken off again, so that lifts and noise stay as they are.
      const share: Share = (...path) => b.value(`${p}${detailOf(path)}`);
      under = b.add(under, this.smoothed(steps.slice(0, -1), share));
      top = b.add(top, this.smoothed(steps, share));
    }
    const bent = b.node('bend', [coverage, b.value(`${p}bias`, 'float', { lo: 0.01, hi: 0.99 })]);
    const w = b.node('crossover', [top, under, b.value(`${p}span`), bent, b.value(`${p}soft`, 'float', UNIT), spread, below.spread]);
    return b.multiply(w, b.value(`${p}strength`, 'float', UNIT));
  }

  /**
   * Slope that the step from one layer to the other adds: (hT − hB)·∇w, ∇w by central difference over a texel. The
   * weight is worked out at four more places, which is its price.
   */
  private seamSlope(p: string, uv: DagNode, top: DagNode, below: DagNode, weight: DagNode): DagNode {
    const { b } = this;
    const [zero, step] = [b.constant(0), b.value(`${p}step`)];
    const at = (du: DagNode, dv: DagNode) => b.replaced(weight, uv, b.add(uv, b.combine(du, dv)));
    const back = b.subtract(zero, step);
    const rise = b.multiply(b.subtract(top, below), b.value(`${p}bendPerM`));
    const along = b.subtract(at(step, zero), at(back, zero));
    const down = b.subtract(at(zero, step), at(zero, back));
    // Inside, normals are Y+: n ∝ (−∂h/∂u, +∂h/∂v, 1).
    return b.combine(b.multiply(b.subtract(zero, rise), along), b.multiply(rise, down));
  }

  private compose({ layer }: StackLayer, p: string, below: Shading, top: Shading, w: DagNode, slope: DagNode | null): Shading {
    const { b } = this;
    const [under, over] = [below.channels, top.channels];
    const coloured = this.coloured(layer.mode, under.baseColor, over.baseColor);
    const look = mixedShading(b, below, { ...top, channels: { ...over, baseColor: coloured } }, w, b.value(`${p}contact`, 'float', UNIT));
    return kept(
      { layer },
      below,
      slope ? { ...look, channels: { ...look.channels, normal: b.node('leannormal', [look.channels.normal, slope]) } } : look,
    );
  }

  private coloured(mode: ColourMode, below: DagNode, above: DagNode): DagNode {
    return mode === 'mix' ? above : this.b.node(mode, [below, above]);
  }
}

/** What a layer leaves untouched stays what it was below: the same node, so bit for bit. */
function kept({ layer }: Pick<StackLayer, 'layer'>, below: Shading, look: Shading): Shading {
  const channels = Object.fromEntries(BLEND_ROLES.map((role: BlendRole) => [role, (layer.untouched[role] ? below : look).channels[role]]));
  const touched = Object.entries(look.extras).filter(([role]) => !layer.untouched[role as ExtraRole]);
  const left = Object.entries(below.extras).filter(([role]) => layer.untouched[role as ExtraRole]);
  return {
    ...look,
    channels: channels as Shading['channels'],
    ...withSpecular(Object.fromEntries([...touched, ...left]), layer.untouched.specular ? below.specular : look.specular),
  };
}
