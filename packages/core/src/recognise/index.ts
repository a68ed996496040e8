// The recognition room: what an image holds, from its content as well as its name, with a confidence and plain findings.
export * from './finding';
export * from './measure';
export * from './normals';
export * from './planes';
export * from './recognise';
export * from './recognition';
export * from './traces';
export * from './within';
