import { Accounts } from './accounts';
import { AssetModel } from './asset-model';
import { AssetSource } from './asset-source';
import { Neighbours } from './neighbours';
import { PaintedColours } from './painted-colours';
import { Pointing } from './pointing';
import { StagePixels } from './stage-pixels';
import { StageScene } from './stage-scene';
import { StageSource } from './stage-source';
import { StageSpecimen } from './stage-specimen';
import { TerrainDetails } from './terrain-detail';
import { TriedTexture } from './tried-texture';

/** A stage of a component's own, for whatever source that provides. */
export const STAGE = [
  AssetModel,
  StageScene,
  StagePixels,
  StageSpecimen,
  Pointing,
  Accounts,
  PaintedColours,
  Neighbours,
  TriedTexture,
  TerrainDetails,
];
/** One that shows assets. */
export const ASSET_STAGE = [AssetSource, { provide: StageSource, useExisting: AssetSource }, ...STAGE];
