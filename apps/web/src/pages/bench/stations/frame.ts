import { mostZoom, type Plan } from '@lurn/core/plan';
import type { EdgeMode } from '@lurn/core/warp';
import type { ShotDocument } from '@lurn/model';
import { percent, plural } from '../../../lib/format';
import { FramePanel } from '../panels/FramePanel';
import type { Station } from './station';

const EDGES: Record<EdgeMode, string> = {
  colour: 'shows',
  stretched: 'stretched',
  mirrored: 'mirrored',
  borrowed: 'borrowed',
  transparent: 'left open',
};

function zoomText(plan: Plan, { framing, edges, range }: ShotDocument): string {
  const least = plan.zooms.subarray(range.from, range.to + 1).reduce((a, b) => Math.min(a, b));
  const most = mostZoom(plan, range.from, range.to);
  const zoom = most - least < 5e-4 ? percent(most) : `${percent(least).replace(' %', '')}–${percent(most)}`;
  const count = plan.edgeFrames.length;
  if (framing.mode !== 'none' && !Number.isFinite(plan.fit.zoom) && edges.mode === 'colour')
    return `No zoom fits, edge on ${plural(count, 'frame')}`;
  if (count > 0) return `${zoom}, edge ${EDGES[edges.mode]} on ${plural(count, 'frame')}`;
  return framing.mode === 'fit' && framing.zoom === 1 ? `Fit zoom ${zoom}` : `${zoom}, no edge`;
}

export const frame: Station = {
  id: 'frame',
  name: 'Frame',
  Panel: FramePanel,
  progress: ({ document, steady }) =>
    steady
      ? {
          done: steady.edgeFrames.length === 0 || document.edges.mode !== 'colour',
          text: zoomText(steady, document),
        }
      : { done: false, text: 'Fit zoom' },
};
