// The graph room: documents of steps that are linked, lowered to a material as blends are. A kind of step is one entry
// (`steps`), most of them registered operations; formulas are steps written as text. Names never collide (`names`), edits
// keep what they do not mean (`edits`), cards are laid out in lanes (`layout`), and any step is looked at by what it gives:
// its values, its plot, and what it reaches.
export * from './step';
export { isStep, stepKind, stepKinds } from './catalogue';
export * from './lower';
export * from './key';
export * from './material';
export { endless, mastersIn, mastersWithin } from './steps/own';
export * from './interval';
export { readFormula } from './steps/formula';
export * from './formula/parse';
export { FORMULA_FUNCTIONS } from './formula/functions';
export { IMAGE_ROLES, mapOf } from './steps/images';
export { swizzleOf } from './steps/swizzle';
export * from './layout/cards';
export * from './layout/lay';
export * from './names';
export * from './edits';
export * from './clip';
export * from './grouped';
export * from './variants';
export * from './worn';
export * from './written';
export * from './simplify';
export * from './proof';
export * from './looks';
export * from './through-blocks';
export * from './price';
export * from './blend-places';
export * from './search';
export { lowerFormula } from './formula/lower';
