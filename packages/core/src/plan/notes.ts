import type { GoalSettings } from './goals.js';
import type { Plan } from './plan.js';

/** Less than this, in pixels, nobody sees. */
const UNSEEN = 0.05;

/**
 * What a plan could not do as it was asked to, in sentences: rotation or scale that no spots tell, spots that nothing
 * links to the rest, frames without a sample, more shake than there was. Spots that move otherwise are told of in `odd`.
 *
 * @param from, to  frames, both included
 */
export function notesOn(
  {
    motion: { support, filled, byId },
    of,
    measure,
  }: Pick<Plan, 'motion' | 'of'> & Partial<Pick<Plan, 'measure'>>,
  { amounts, keys }: Pick<GoalSettings, 'amounts' | 'keys'>,
  from: number,
  to: number,
): string[] {
  const notes: string[] = [];
  const range = support.slice(from, to + 1);
  const wanted = (keys.length > 0 ? keys : [{ amounts }]).some(
    (k) => k.amounts.rotation + k.amounts.scale > 0,
  );
  if (wanted && !support.includes('full') && !filled?.includes(1)) {
    notes.push('Rotation and scale need a second spot in the same frames: only the position is taken out.');
  }
  const unlinked = of.filter(({ id }) => byId[id].rest === null).map((s) => s.name);
  if (unlinked.length > 0) {
    notes.push(`${unlinked.join(', ')}: never seen together with the other spots, so not used.`);
  }
  const open = range.filter((s, i) => s === 'none' && !filled?.[from + i]).length;
  if (open > 0) {
    notes.push(
      `${open === 1 ? '1 frame' : `${open} frames`} of the range without any sample: the motion is carried on there.`,
    );
  }
  if (measure && measure.after > Math.max(measure.before, UNSEEN)) {
    const [left, shot] = [measure.after, measure.before].map((v) => v.toFixed(2));
    notes.push(
      `More is left (${left} px) than the source shook (${shot} px): what is held does not move as one. Leave out what jumps, or hold something else.`,
    );
  }
  return notes;
}
