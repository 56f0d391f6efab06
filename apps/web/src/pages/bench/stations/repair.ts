import { plural } from '../../../lib/format';
import { RepairPanel } from '../panels/RepairPanel';
import type { Station, Standing } from './station';

function textOf({ tracked, covered, wanted, doubts, several, sceneHeld }: Standing): string {
  const gaps = wanted - covered;
  if (!tracked && !sceneHeld) return 'Nothing to repair yet';
  if (doubts > 0) return `${plural(doubts, 'doubt')}${gaps > 0 ? `, ${plural(gaps, 'frame')} short` : ''}`;
  if (gaps === 0) return 'No doubts, no gaps';
  return `${plural(gaps, 'frame')} ${several ? 'with fewer than two spots' : 'without a sample'}`;
}

export const repair: Station = {
  id: 'repair',
  name: 'Repair',
  Panel: RepairPanel,
  marks: true,
  progress: (standing) => {
    const { tracked, covered, wanted, doubts, sceneHeld } = standing;
    return {
      done: (tracked || sceneHeld !== null) && covered === wanted && doubts === 0,
      text: textOf(standing),
    };
  },
};
