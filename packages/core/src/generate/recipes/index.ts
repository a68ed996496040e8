import { cushionMoss } from './cushion-moss';
import { lateriteClay } from './laterite-clay';
import { limePlaster } from './lime-plaster';
import { riverGravel } from './river-gravel';
import { roofTile } from './roof-tile';
import { stillWater } from './still-water';
import { teaLeaves } from './tea-leaves';
import { terraceStone } from './terrace-stone';
import { weatheredCopper } from './weathered-copper';

/** Every generated surface, by the name that files and the command line use. */
export const RECIPES = {
  'laterite-clay': lateriteClay,
  'terrace-stone': terraceStone,
  'cushion-moss': cushionMoss,
  'tea-leaves': teaLeaves,
  'river-gravel': riverGravel,
  'lime-plaster': limePlaster,
  'weathered-copper': weatheredCopper,
  'roof-tile': roofTile,
  'still-water': stillWater,
};
