export * from './tools.js';
export * from './probe.js';
export * from './frame-index.js';
export * from './decode.js';
export * from './working-copy.js';
export * from './thumbnail.js';
export * from './render/encoder.js';
export * from './render/render.js';
