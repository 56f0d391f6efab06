import { useEffect, useState } from 'react';
import type { PaneRect } from '../../../lib/view';
import { pictureToPane } from '../../../lib/view';
import { filmBackground } from '../../../lib/film';
import { seconds } from '../../../lib/format';
import { useBenchParts } from '../../../state/bench';

/** From so many milliseconds on it is said what is waited for. */
const LATE_MS = 500;

/** Until the clip's first picture is there: the film's nearest one, softened, where it will be. */
export function FirstLook({ panes }: { readonly panes: readonly PaneRect[] }) {
  const { pictured, clip, info, camera, frame } = useBenchParts(
    'pictured',
    'clip',
    'info',
    'camera',
    'frame',
  );
  if (pictured) return null;
  return panes.map((pane) => {
    const [scale, , left, , down, top] = pictureToPane(camera, info, pane);
    const [width, height] = [scale * info.width, down * info.height];
    return (
      <div
        key={pane.kind}
        className="pointer-events-none absolute overflow-hidden"
        style={{
          ...{ left: pane.x + pane.from * pane.width, top: pane.y },
          ...{ width: (pane.to - pane.from) * pane.width, height: pane.height },
        }}
      >
        <div
          data-testid="first-look"
          className="absolute overflow-hidden blur-[2px]"
          style={{
            left: left - pane.from * pane.width,
            top,
            width,
            height,
            background: filmBackground(clip, info.frames, frame, width, height),
          }}
        />
      </div>
    );
  });
}

/** Says what is waited for, once it takes long enough to be noticed. */
export function Awaited() {
  const { awaited, frame, shown, playing, pictured, clip, info } = useBenchParts(
    'awaited',
    'frame',
    'shown',
    'playing',
    'pictured',
    'clip',
    'info',
  );
  const late = useLate(!playing && (shown !== frame || !pictured));
  const copied = awaited !== null && awaited === frame;
  if (!copied && !late) return null;
  return (
    <p
      className="pointer-events-none absolute top-1/2 left-1/2 max-w-[90%] -translate-x-1/2 -translate-y-1/2 rounded-sm bg-black/75 px-3 py-2 text-center text-[#e8e2d4]"
      role="status"
    >
      Frame <span className="num">{frame}</span>{' '}
      {copied ? 'is being copied for this browser, and is next.' : 'is being decoded …'}
      {copied && (
        <span className="num block text-xs">
          {clip.there} of {info.frames} frames are there
          {clip.secondsLeft !== null && `, ${seconds(clip.secondsLeft)} left`}
        </span>
      )}
      {!pictured && <span className="block text-xs">Until then you see a small picture from near it.</span>}
    </p>
  );
}

/** True once something has held for so long that it is to be told of. */
function useLate(holds: boolean): boolean {
  const [late, setLate] = useState(false);
  useEffect(() => {
    if (!holds) return;
    const timer = setTimeout(() => setLate(true), LATE_MS);
    return () => {
      clearTimeout(timer);
      setLate(false);
    };
  }, [holds]);
  return late;
}
