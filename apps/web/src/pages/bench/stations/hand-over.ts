import { plural } from '../../../lib/format';
import { HandOverPanel } from '../panels/HandOverPanel';
import type { Station } from './station';

export const handOver: Station = {
  id: 'handOver',
  name: 'Hand over',
  Panel: HandOverPanel,
  progress: ({ clip }) => {
    const finished = clip.renders.filter((r) => r.status === 'done').length;
    const running = clip.renders.find((r) => r.status === 'running' || r.status === 'waiting');
    const text = running
      ? `Rendering, ${Math.round((running.done / running.total) * 100)} %`
      : finished > 0
        ? plural(finished, 'file')
        : 'No file yet';
    return { done: finished > 0 && !running, text };
  },
};
