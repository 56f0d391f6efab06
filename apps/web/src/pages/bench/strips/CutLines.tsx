import { useBench } from '../../../state/bench';
import { LABEL, RULER, type X } from './axis';

/** The word needs so many pixels to the one before. */
const ROOM = 60;

/** Where the picture changes to another at once: a line through all strips, and a sign on the ruler. */
export function CutLines({ x, height }: { readonly x: X; readonly height: number }) {
  const cuts = useBench((s) => s.clip.made?.scene?.cuts);
  const [left, right] = x.domain();
  const shown = (cuts ?? []).filter((cut) => cut > left && cut <= right);
  return shown.map((cut, i) => {
    // Where they lie close the word would hide the ruler.
    const named = i === 0 || x(cut) - x(shown[i - 1]) > ROOM;
    return (
      <div
        key={cut}
        className="pointer-events-none absolute top-0 z-10 border-l-2 border-dotted border-base-content/70"
        // Between the last picture of one part and the first of the next.
        style={{ height, transform: `translateX(${LABEL + x(cut - 0.5) - 1}px)` }}
      >
        {named && (
          <span
            className="pointer-events-auto absolute left-0.5 bg-base-200/90 px-0.5 text-[10px] leading-[11px]"
            style={{ top: RULER - 13 }}
            title={`Cut: another picture begins on frame ${cut}. Each part is steadied by itself.`}
          >
            cut
          </span>
        )}
      </div>
    );
  });
}
