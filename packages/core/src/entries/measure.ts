/** Figures about motion: shakiness, spectra, what is left. */

export { partsRms } from '../measure/shake-left.js';
export { energyAbove, spectrum } from '../measure/spectrum.js';
export { gridOver, ShakinessMeter } from '../measure/shakiness.js';
export { PathMeter } from '../measure/path-meter.js';
