import { register } from '../registry';
import { ARITHMETIC } from './arithmetic';
import { COLOUR_OPERATIONS } from './colour-modes';
import { COLOURS } from './colours';
import { CONDITIONS } from './conditions';
import { DIRECTIONS } from './directions';
import { FUNCTIONS } from './functions';
import { IMAGES } from './images';
import { LAYERING } from './layering';
import { LEAVES } from './leaves';
import { MAPPINGS } from './mappings';
import { NOISES } from './noises';
import { SCATTERING } from './scattering';
import { VECTORS } from './vectors';

// In the order of lists.
register(...LEAVES, ...ARITHMETIC, ...FUNCTIONS, ...CONDITIONS, ...VECTORS, ...DIRECTIONS, ...COLOURS, ...COLOUR_OPERATIONS);
register(...IMAGES, ...NOISES, ...SCATTERING, ...MAPPINGS, ...LAYERING);
