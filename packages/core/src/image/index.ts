// The image room: pixel buffers of 8-bit, 16-bit and float samples with 1–4 interleaved channels,
// the exact sRGB curves, area-true resizing, mip chains, sampling and statistics.
// Everything here is plain data in, plain data out: no codec, no canvas, no colour guessing.
export * from './buffer';
export * from './srgb';
export * from './colour';
export * from './resize';
export * from './mips';
export * from './stats';
export * from './difference';
export * from './fourier';
export * from './repetition';
export * from './tiling';
export * from './half';
export * from './hues';
