export { readDemo as default } from './server.js';
