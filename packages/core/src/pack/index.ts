// The pack room: routing channels of maps into channels of output files, layouts as text, and file names from a template.
export * from './route';
export * from './layout';
export * from './names';
export * from './weight';
export * from './mips';
export * from './steps';
export * from './losses';
export * from './ready';
export * from './quality';
