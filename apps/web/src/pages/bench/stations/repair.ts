import { plural } from '../../../lib/format';
import { RepairPanel } from '../panels/RepairPanel';
import type { Station, Standing } from './station';

function textOf({ tracked, covered, wanted, short: gaps, doubts, several, sceneHeld }: Standing): string {
  if (!tracked && !sceneHeld) return 'Nothing to repair yet';
  if (doubts > 0) return `${plural(doubts, 'doubt')}${gaps > 0 ? `, ${plural(gaps, 'frame')} short` : ''}`;
  const filled = wanted - covered - gaps;
  if (gaps === 0 && filled > 0) return `No doubts, ${plural(filled, 'frame')} by the whole picture`;
  if (gaps === 0) return 'No doubts, no gaps';
  return `${plural(gaps, 'frame')} ${several ? 'with fewer than two spots' : 'without a sample'}`;
}

export const repair: Station = {
  id: 'repair',
  name: 'Repair',
  Panel: RepairPanel,
  progress: (standing) => {
    const { tracked, short, doubts, sceneHeld } = standing;
    return {
      done: (tracked || sceneHeld !== null) && short === 0 && doubts === 0,
      text: textOf(standing),
    };
  },
};
