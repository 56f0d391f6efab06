import { toggleCut } from '@lurn/model';
import { useCuts } from '../../../state/cuts';
import { edit } from '../../../state/shot';
import { LABEL, RULER, type X } from './axis';

/** The word needs so many pixels to the one before. */
const ROOM = 60;

/** Where the picture changes to another at once, or the editor says that a part begins: a line through all strips, and a sign on the ruler. */
export function CutLines({ x, height }: { readonly x: X; readonly height: number }) {
  const [left, right] = x.domain();
  const shown = useCuts().filter(({ frame }) => frame > left && frame <= right);
  return shown.map(({ frame: cut, own, fade }, i) => {
    // Where they lie close the word would hide the ruler.
    const named = i === 0 || x(cut) - x(shown[i - 1].frame) > ROOM;
    return (
      <div
        key={cut}
        className="pointer-events-none absolute top-0 z-10 border-l-2 border-dotted border-base-content/70"
        // Between the last picture of one part and the first of the next.
        style={{ height, transform: `translateX(${LABEL + x(cut - 0.5) - 1}px)` }}
      >
        {fade && (
          // One falls, the other rises.
          <svg
            data-fade={cut}
            className="absolute overflow-visible"
            style={{ top: RULER - 10, left: x(fade.from) - x(cut - 0.5) - 1 }}
            width={Math.max(4, x(fade.to) - x(fade.from))}
            height={6}
            viewBox="0 0 10 6"
            preserveAspectRatio="none"
            aria-hidden="true"
          >
            <path
              d="M0 0.5L10 5.5M0 5.5L10 0.5"
              stroke="currentColor"
              fill="none"
              vectorEffect="non-scaling-stroke"
            />
          </svg>
        )}
        {named && own && (
          <button
            type="button"
            className="pointer-events-auto absolute left-0.5 bg-base-200/90 px-0.5 text-[10px] leading-[11px] whitespace-nowrap text-primary"
            style={{ top: RULER - 13 }}
            title={`Cut by hand on frame ${cut}: what is smoothed begins anew there. Press to take it away.`}
            aria-label={`Take the cut on frame ${cut} away`}
            onPointerDown={(e) => e.stopPropagation()}
            onClick={() => edit((s) => toggleCut(s, cut))}
          >
            cut ×
          </button>
        )}
        {named && !own && (
          <span
            className="pointer-events-auto absolute left-0.5 bg-base-200/90 px-0.5 text-[10px] leading-[11px]"
            style={{ top: RULER - 13 }}
            title={
              fade
                ? `Fade: one picture passes into another, about frames ${fade.from} to ${fade.to}. Each is steadied by itself, parted on frame ${cut}.`
                : `Cut: another picture begins on frame ${cut}. Each part is steadied by itself.`
            }
          >
            {fade ? 'fade' : 'cut'}
          </span>
        )}
      </div>
    );
  });
}
