// The derive room: maps made from maps. Single steps over values, heights and normals into one another, what a height says
// of its surroundings, repair; and the stack of steps that a map keeps, evaluated anew when its source changes.
export * from './stack';
export * from './steps';
