/** What every part of the package shares: errors that cross borders whole, and work in steps. */

export { kernelsMissing } from '@lurn/kernels';
export { type AbortSignalLike, fromWire, LurnError, stoppedError, toWire, type WireError } from './errors.js';
export type { Steps } from './steps.js';
