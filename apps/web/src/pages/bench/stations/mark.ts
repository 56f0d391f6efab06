import { spotsOf } from '@lurn/model';
import { capital, plural } from '../../../lib/format';
import { MarkPanel } from '../panels/MarkPanel';
import type { Station } from './station';

export const mark: Station = {
  id: 'mark',
  name: 'Mark',
  Panel: MarkPanel,
  marks: true,
  progress: ({ document, sceneHeld }) => {
    const n = spotsOf(document).length;
    if (n === 0 && sceneHeld) return { done: true, text: `${capital(sceneHeld)} held, nothing marked` };
    return { done: n > 0, text: n > 0 ? plural(n, 'spot') : 'Mark two features, far apart' };
  },
};
