import { useEffect, useRef } from 'react';
import type { Doubt } from '@lurn/core/doubt';
import { sampleAt } from '@lurn/core/track';
import { trackOf, type Spot } from '@lurn/model';
import { useBench } from '../../../state/bench';
import type { SpotQuality } from '../../../state/spot-quality';
import { shotState } from '../../../state/shot';

const COUNT = 5;
const SIDE = 44;

/** Magnified patches from before, over and after the doubtful stretch. */
export function DoubtStrip({
  doubt,
  spot,
  quality,
}: {
  readonly doubt: Doubt;
  readonly spot: Spot;
  readonly quality: SpotQuality;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { from, to } = doubt;
  const last = useBench((s) => s.info.frames - 1);
  const reach = Math.max((COUNT - 1) / 2, (to - from) / 2 + 1);
  const middle = Math.round((from + to) / 2);
  const frames = Array.from({ length: COUNT }, (_, k) =>
    Math.min(last, Math.max(0, Math.round(middle + ((k - (COUNT - 1) / 2) / ((COUNT - 1) / 2)) * reach))),
  );
  const key = frames.join(' ');
  useEffect(() => {
    let gone = false;
    const track = trackOf(shotState(), spot.id);
    const places = frames.flatMap((frame) => {
      const s = sampleAt(track, frame);
      return s ? [{ frame, x: s.x, y: s.y }] : [];
    });
    const scale = SIDE / (2.6 * Math.max(...spot.patch));
    quality
      .thumbs(places, spot.eye, SIDE, scale)
      .then((pictures) => {
        const context = canvas.current?.getContext('2d');
        if (gone || !context) return;
        context.clearRect(0, 0, COUNT * (SIDE + 2), SIDE);
        places.forEach(({ frame }, i) =>
          context.putImageData(pictures[i], frames.indexOf(frame) * (SIDE + 2), 0),
        );
      })
      .catch(() => undefined);
    return () => {
      gone = true;
    };
    // oxlint-disable-next-line react/exhaustive-deps -- the frames are told by the key
  }, [key, spot.id, spot.patch, spot.eye, quality]);
  return (
    <div className="px-1 pb-1.5">
      <canvas
        ref={canvas}
        width={COUNT * (SIDE + 2)}
        height={SIDE}
        className="bg-neutral block max-w-full"
        role="img"
        aria-label={`${spot.name} on frames ${frames.join(', ')}`}
      />
      <div className="num quiet flex text-[10px]">
        {frames.map((f, i) => (
          <span key={i} className="text-center" style={{ width: SIDE + 2 }}>
            {f}
          </span>
        ))}
      </div>
    </div>
  );
}
