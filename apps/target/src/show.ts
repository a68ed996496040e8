// What was loaded, on a stage.
import type { LightData, Mesh, Span } from '@pebble/core';
import { MasterMaterials, boundsOf, frameWithin, liveProgram, makeFlat, unpackLight, wornSurface } from '@pebble/core';
import type { StageLook } from '@pebble/stage';
import { LIGHT_UNITS, Stage } from '@pebble/stage';
import type { LoadedAsset, LoadedSlot } from './protocol';

const FIELD = Math.PI / 5;
const SPECIMEN = { specimen: { x: 0, y: 0, width: 1, height: 1 }, flat: { x: 1, y: 0, width: 0, height: 1 } };

const skies = new Map<string, Promise<LightData>>();
function skyOf(name: string): Promise<LightData> {
  const known = skies.get(name);
  if (known) return known;
  const data = fetch(`/light/${name}.bin`).then(async (answer) => {
    if (!answer.ok) throw new Error(`The sky could not be fetched (${answer.status}). Reload the page`);
    return unpackLight(new Uint8Array(await answer.arrayBuffer()));
  });
  skies.set(name, data);
  return data;
}

/** The look when nobody says another. */
export function usualLook(mesh: Mesh, aspect: number): StageLook {
  const window = { left: -0.92, right: 0.92, bottom: -0.9, top: 0.9, aspect };
  return {
    orbit: frameWithin(boundsOf(mesh), window, FIELD),
    flat: { u: 0.5, v: 0.5, span: 1 },
    channel: 'lit',
    turn: 0,
    exposure: 1,
    mapped: true,
    shadow: true,
    smooth: true,
    perMetre: 0,
    bounds: [0, 1],
  };
}

/** A stage for bundles: one canvas, the specimen alone. */
export class Show {
  private constructor(
    readonly stage: Stage,
    private readonly canvas: HTMLCanvasElement,
  ) {}
  private sky = 'overcast';
  private readonly materials = new MasterMaterials();

  static async on(canvas: HTMLCanvasElement, failed: (message: string) => void): Promise<Show> {
    const stage = new Stage(canvas, await skyOf('overcast'));
    stage.panes = SPECIMEN;
    stage.onError = failed;
    return new Show(stage, canvas);
  }

  size(): void {
    const ratio = Math.min(2, devicePixelRatio);
    this.stage.setSize(Math.max(2, Math.round(this.canvas.clientWidth * ratio)), Math.max(2, Math.round(this.canvas.clientHeight * ratio)));
  }

  async light(sky: string): Promise<void> {
    if (sky === this.sky) return;
    this.sky = sky;
    const data = await skyOf(sky);
    if (this.sky === sky) this.stage.setLight(data);
  }

  look(look: StageLook): void {
    this.stage.look = { ...look, perMetre: 0 };
    this.stage.moved();
  }

  /** A slot's pictures as a program that reads them and does nothing else. */
  private piece({ slot, roles, packed, masks, drawn }: LoadedSlot) {
    const maps = Object.fromEntries(roles.map((role) => [role, true]));
    const document = wornSurface('worn', { name: slot, sizeM: 1, maps });
    const known = { worn: { sizeM: 1, reliefM: 0, mid: 0.5, roles: new Set(roles) } };
    const material = this.materials.of(document, { surfaces: known, blends: {}, masters: {} });
    const read = material.slots.masks.map((of) => {
      const mask = of.kind === 'map' ? masks[of.role] : undefined;
      if (!mask) throw new Error(`${slot} reads a mask that the bundle does not hold`);
      return mask;
    });
    return {
      program: { ...liveProgram(material, false, LIGHT_UNITS), graph: null, drawn },
      values: material.values,
      slots: { surfaces: [packed], masks: read, ids: [] },
    };
  }

  asset({ mesh, spans, slots }: LoadedAsset): void {
    const { stage } = this;
    stage.setSpecimen(mesh, makeFlat());
    const of = (slot: string): Span[] => spans[slot] ?? [];
    const [first, ...rest] = slots;
    if (!first) return;
    stage.setProgram(this.piece(first));
    stage.setOthers(
      of(first.slot),
      rest.map((slot) => ({ key: slot.slot, ...this.piece(slot), spans: of(slot.slot), perMetre: 0, parallax: false, colours: null })),
    );
  }

  /** What is shown, once it rests. */
  async picture(width: number, height: number): Promise<ImageData> {
    await new Promise<void>((resolve) => {
      const { stage } = this;
      const before = stage.onFrame;
      stage.onFrame = (report) => {
        before(report);
        if (report.scale !== 1 || report.pending) return;
        stage.onFrame = before;
        resolve();
      };
      stage.draw();
    });
    const copy = new OffscreenCanvas(width, height);
    const context = copy.getContext('2d', { willReadFrequently: true });
    if (!context) throw new Error('This browser draws no pictures');
    context.drawImage(this.canvas, 0, 0, width, height);
    return context.getImageData(0, 0, width, height);
  }
}
