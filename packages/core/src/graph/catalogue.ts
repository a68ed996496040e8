// All kinds of steps, registered: who asks for one by its name asks here.
import './steps';

export { isStep, stepKind, stepKinds } from './step';
