import { STAGE } from '../../stage/providers';
import { StageSource } from '../../stage/stage-source';
import { BlendModel } from './blend-model';
import { MaskMaking } from './brush/mask-making';
import { MaskPainting } from './brush/mask-painting';
import { PaintRules } from './brush/paint-rules';
import { Painting } from './brush/painting';
import { Compare } from './compare/compare';
import { CoverageTarget } from './coverage-target';
import { Prices } from './prices';
import { CueLooks } from './sentence/cue-look';
import { FlatPane } from './stage/flat-pane';
import { Repeats } from './stage/repeats';
import { SpecimenMarks } from './stage/specimen-marks';
import { StageCut } from './stage/stage-cut';

/** A blend on a stage, with its brush. */
export const BLENDING = [
  BlendModel,
  { provide: StageSource, useExisting: BlendModel },
  CoverageTarget,
  Prices,
  CueLooks,
  SpecimenMarks,
  Repeats,
  Compare,
  Painting,
  MaskPainting,
  MaskMaking,
  PaintRules,
  FlatPane,
  StageCut,
  ...STAGE,
];
