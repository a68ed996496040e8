import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatMenuModule } from '@angular/material/menu';
import { MatTooltipModule } from '@angular/material/tooltip';
import { mdiDotsHorizontal, mdiPlus } from '@mdi/js';
import type { Component as Channel, CuePath, LayerContent, UvSet } from '@pebble/core';
import { DEFAULT_CONSTANT, DEFAULT_WATER, coverageOf, coverageWords, setWords } from '@pebble/core';
import { StageSpecimen } from '../../stage/stage-specimen';
import { Icon } from '../../ui/icon';
import { BlendModel } from '../blend/blend-model';
import { MaskMaking } from '../blend/brush/mask-making';
import { MaskPainting } from '../blend/brush/mask-painting';
import { Painting } from '../blend/brush/painting';
import { isShown, layerTone } from '../blend/layers/layer-tone';
import { Prices } from '../blend/prices';
import { GroundActs } from './ground-acts';
import { TerrainTiles } from './terrain-tiles';

/** What can be painted: masks of every layer, and the vertex colours that they look at. */
@Component({
  selector: 'pb-wells',
  imports: [Icon, MatMenuModule, MatTooltipModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './wells.html',
  styleUrl: './wells.scss',
})
export class Wells {
  readonly model = inject(BlendModel);
  readonly painting = inject(Painting);
  readonly masks = inject(MaskPainting);
  readonly making = inject(MaskMaking);
  private readonly specimen = inject(StageSpecimen);
  private readonly prices = inject(Prices);
  readonly tiles = inject(TerrainTiles);
  readonly acts = inject(GroundActs);
  readonly icons = { more: mdiDotsHorizontal, plus: mdiPlus };
  /** What a layer can show. */
  readonly surfaces = computed<{ id: string; name: string; shows: LayerContent }[]>(() => [
    ...Object.entries(this.model.surfaces()).flatMap(([id, s]) =>
      isShown(s) ? [{ id, name: s.name, shows: { kind: 'surface' as const, surface: id } }] : [],
    ),
    { id: ' water', name: 'Standing water', shows: { kind: 'water', ...DEFAULT_WATER } },
    { id: ' even', name: 'Constant values', shows: { kind: 'constant', ...DEFAULT_CONSTANT } },
  ]);

  readonly layers = computed(() => {
    const [blend, wells] = [this.model.blend(), this.masks.wells()];
    if (!blend) return [];
    return this.model.layers().map((layer) => {
      const called = layer.name;
      const own = wells.filter(({ feeds, path }) => (path.of === 'layers' ? path.id === layer.id : feeds.includes(layer.name)));
      return {
        id: layer.id,
        name: layer.name,
        on: layer.on,
        ground: layer.id === this.model.groundId(),
        tone: layerTone(layer, this.model.surfaces(), this.model.blends()),
        says: layer.id === this.model.groundId() ? 'what is left' : coverageWords(coverageOf(blend, layer), this.model.nameOf),
        wells: own.map((w) => {
          const text = `${w.cue.join === 'corrected' ? 'over its rule' : 'mask'}${w.cue.set ? '' : ', flat'}`;
          return { key: w.key, path: w.path, text, label: `Paint ${called}: ${text}`, share: `${(w.share * 100).toFixed(0)} %` };
        }),
      };
    });
  });
  /** Where a mask can lie: in sets of coordinates that the mesh came with, and over the extent. */
  readonly places = computed<{ set: UvSet | undefined; text: string }[]>(() => {
    const { uv1, uv2 } = this.specimen.form();
    const sets = ([1, 2] as const).filter((n) => (n === 1 ? uv1 : uv2 && !sameValues(uv1, uv2)));
    return [...sets.map((set) => ({ set, text: `on the mesh${sets.length > 1 ? setWords(set) : ''}` })), { set: undefined, text: 'over the extent' }];
  });
  /** What one more mask of the chosen layer costs at runtime. */
  price = (): string => this.prices.cue('painted');

  take(layer: string, path: CuePath): void {
    this.model.selectedId.set(layer);
    this.masks.take(path);
  }
  vertices(channel: Channel): void {
    this.masks.path.set(null);
    this.painting.channel.set(channel);
    this.painting.on.set(true);
  }
}

/** A mesh with one set has it twice. */
function sameValues(a: Float32Array | undefined, b: Float32Array): boolean {
  if (a?.length !== b.length) return false;
  for (let i = 0; i < b.length; i++) if (a[i] !== b[i]) return false;
  return true;
}
