// Kinds of steps, in the order of lists. To add one: its entry in the file of its group, or `graph` at a registered operation.
import { allOperations } from '../../compile';
import { registerSteps } from '../step';
import { CHANNELS } from './channels';
import { EFFECTS } from './effects';
import { FORMULA } from './formula';
import { IMAGES } from './images';
import { LIGHT_EFFECTS } from './light';
import { MOVEMENT } from './movement';
import { NORMALS } from './normals';
import { ofOperation } from './of-operation';
import { OWN } from './own';
import { PLACES } from './places';
import { PROCEDURAL } from './procedural';
import { REPEATING } from './repeating';
import { SURFACES } from './surfaces';

registerSteps(...SURFACES, OWN, ...IMAGES, ...PLACES, FORMULA);
registerSteps(...allOperations().flatMap((op) => (op.graph && op.name !== 'crossover' ? [ofOperation(op, op.graph)] : [])));
registerSteps(...CHANNELS, ...NORMALS, ...PROCEDURAL);
registerSteps(...MOVEMENT, ...EFFECTS, ...REPEATING, ...LIGHT_EFFECTS);
