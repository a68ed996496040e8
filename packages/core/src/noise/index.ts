// The noise room: hashes of the PCG family on 32-bit integers and the noises built on them. All are tileable
// and give the same numbers on the GPU, because nothing but integer arithmetic chooses the random values.
export * from './hash';
export * from './noise';
