import { register } from '../registry';
import { ARITHMETIC } from './arithmetic';
import { IMAGES } from './images';
import { LAYERING } from './layering';
import { LEAVES } from './leaves';
import { NOISES } from './noises';
import { SCATTERING } from './scattering';
import { VECTORS } from './vectors';

register(...LEAVES, ...ARITHMETIC, ...VECTORS, ...NOISES, ...SCATTERING, ...IMAGES, ...LAYERING);
