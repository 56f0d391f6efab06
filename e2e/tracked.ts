import { toJson } from '@lurn/core/formats';
import { defaultSettings, EMPTY_TRACK, withSamples } from '@lurn/core/track';
import { FIRST_MOVER, NEW_SPOT, newDocument, type SavedShot } from '@lurn/model';
import type { Truth } from './bench-page.js';

/** A shot with features tracked exactly as the truth has them, where they are well inside the picture. */
export function trackedShot({ clip, features }: Truth, names: readonly string[]): SavedShot {
  const { width, height } = clip;
  const chosen = names.map((name) => features.find((f) => f.name === name)!);
  const { patch, reach, minConfidence } = defaultSettings(height);
  const trackers = chosen.map((f, i) => ({
    ...NEW_SPOT,
    ...{ id: `s${i}`, name: f.name, mover: FIRST_MOVER.id, colour: i, patch, reach, minConfidence },
  }));
  const measured = chosen.map(({ positions }, i) => {
    const samples = positions.flatMap(([x, y], frame) =>
      x > 20 && y > 20 && x < width - 20 && y < height - 20
        ? [{ frame, x, y, confidence: 1, state: 'tracked' as const }]
        : [],
    );
    return [`s${i}`, toJson(withSamples(EMPTY_TRACK, samples))] as const;
  });
  return {
    revision: 0,
    document: { ...newDocument(clip), trackers },
    measured: Object.fromEntries(measured),
  };
}
