export * from './clip.js';
export * from './document.js';
export * from './parse.js';
export * from './edits.js';
export * from './merge.js';
export * from './api.js';
