import { rulesOf, spotsOf } from '@lurn/model';
import { capital, percent, plural } from '../../../lib/format';
import { MarkPanel } from '../panels/MarkPanel';
import type { Station } from './station';

export const mark: Station = {
  id: 'mark',
  name: 'Mark',
  Panel: MarkPanel,
  progress: ({ document, sceneHeld }) => {
    const n = spotsOf(document).length;
    const planes = document.trackers.filter((t) => rulesOf(t).ownMover).length;
    const both = [n > 0 ? plural(n, 'spot') : null, planes > 0 ? plural(planes, 'surface') : null];
    if (planes > 0) return { done: true, text: both.filter(Boolean).join(', ') };
    if (n === 0 && sceneHeld) {
      const { name, share } = sceneHeld;
      const much = share === null ? '' : `: ${percent(share, 0).replace(' ', '\u00a0')} of the picture`;
      return { done: true, text: `${capital(name)} held${much}, nothing marked` };
    }
    return { done: n > 0, text: n > 0 ? plural(n, 'spot') : 'Mark two features, far apart' };
  },
};
