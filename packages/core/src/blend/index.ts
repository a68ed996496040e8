// The blend room: layers lowered to the DAG of the compiler (crossover and composition), the interval arithmetic that
// fixes their spans, evaluation to maps, and the section.
export * from './stack';
export * from './values';
export * from './lower';
export * from './evaluate';
export * from './section';
export * from './price';
export * from './account';
export * from './relief';
