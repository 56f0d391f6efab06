export * from './clip-file.js';
export * from './frame-reader.js';
export * from './picture.js';
export * from './gl/colour.js';
export * from './gl/picture-drawer.js';
export * from './drawer.js';
export * from './picture-canvas.js';
export { ProcessorDrawer } from './draft/processor-drawer.js';
export { Halver } from './draft/sampled.js';
