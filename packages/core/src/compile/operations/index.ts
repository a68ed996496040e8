import { register } from '../registry';
import { ANGLES } from './angles';
import { ARITHMETIC } from './arithmetic';
import { COLOUR_OPERATIONS } from './colour-modes';
import { IMAGES } from './images';
import { LAYERING } from './layering';
import { LEAVES } from './leaves';
import { NOISES } from './noises';
import { SCATTERING } from './scattering';
import { VECTORS } from './vectors';

register(...LEAVES, ...ARITHMETIC, ...ANGLES, ...COLOUR_OPERATIONS, ...VECTORS, ...NOISES, ...SCATTERING, ...IMAGES, ...LAYERING);
