import { PLAIN_EYE } from '../picture/eye.js';
import type { SpotSettings } from './spot-tracker.js';

/** Sizes that suit a picture: 15 x 15 and 32 x 24 at 720 lines, scaled with the height, never below 5. */
export function defaultSettings(height: number): SpotSettings {
  const scaled = (v: number) => Math.max(5, Math.round((v * height) / 720));
  return {
    patch: [scaled(15), scaled(15)],
    reach: [scaled(32), scaled(24)],
    minConfidence: 0.15,
    eye: PLAIN_EYE,
    allow: 'similarity',
    refresh: 'auto',
    lowMatch: 'coast',
  };
}
