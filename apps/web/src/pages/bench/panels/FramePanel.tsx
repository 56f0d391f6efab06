import { changeDocument, LIMITS, type ShotDocument } from '@lurn/model';
import { NumberField } from '../../../components/NumberField';
import { percent, plural } from '../../../lib/format';
import { goTo, useBench } from '../../../state/bench';
import { beginGesture, edit, endGesture, useShot } from '../../../state/shot';
import { Hint, Reading, Section } from './Section';

export function FramePanel() {
  const { steady, info, frame } = useBench();
  const { framing, range } = useShot((s) => s.state.document);
  const change = (change: Partial<ShotDocument['framing']>) =>
    edit((state) => changeDocument(state, { framing: { ...state.document.framing, ...change } }));
  const drag = { onDragStart: beginGesture, onDragEnd: endGesture };
  const fits = steady !== null && Number.isFinite(steady.fit.zoom);
  const nextEdge = steady?.edgeFrames.find((f) => f > frame) ?? steady?.edgeFrames[0];
  return (
    <>
      <Section title="Zoom">
        <div className="join grid grid-cols-2" role="group" aria-label="Zoom">
          <button
            type="button"
            aria-pressed={framing.mode === 'fit'}
            className={`btn btn-sm join-item ${framing.mode === 'fit' ? 'btn-primary' : ''}`}
            onClick={() => change({ mode: 'fit' })}
          >
            Fit zoom
          </button>
          <button
            type="button"
            aria-pressed={framing.mode === 'hand'}
            className={`btn btn-sm join-item ${framing.mode === 'hand' ? 'btn-primary' : ''}`}
            onClick={() =>
              change({
                mode: 'hand',
                ...(framing.mode === 'fit' && steady
                  ? { zoom: Math.round(steady.framing.zoom * 1e4) / 1e4 }
                  : {}),
              })
            }
          >
            By hand
          </button>
        </div>
        {steady ? (
          <>
            <Reading label="Least without an edge" value={percent(steady.fit.zoom, 2)} strong />
            {fits ? (
              <button type="button" className="btn btn-xs" onClick={() => goTo(steady.fit.frame)}>
                Forced by frame {steady.fit.frame}: go there
              </button>
            ) : (
              <p className="text-xs text-error">
                No zoom hides the edges: on frame {steady.fit.frame} the middle of the frame lies outside the
                picture. Shift less, or leave a component in.
              </p>
            )}
          </>
        ) : (
          <Hint>The fit zoom is computed over every frame once something is tracked.</Hint>
        )}
        <NumberField
          label="Zoom"
          unit="%"
          value={(framing.mode === 'fit' ? (steady?.framing.zoom ?? 1) : framing.zoom) * 100}
          min={LIMITS.zoom[0] * 100}
          max={LIMITS.zoom[1] * 100}
          step={1}
          decimals={2}
          disabled={framing.mode === 'fit'}
          {...drag}
          onChange={(v) => change({ zoom: v / 100 })}
        />
      </Section>
      <Section title="Shift">
        <NumberField
          label="Across"
          unit="px"
          value={framing.shiftX}
          min={-info.width}
          max={info.width}
          decimals={1}
          {...drag}
          onChange={(shiftX) => change({ shiftX })}
        />
        <NumberField
          label="Up and down"
          unit="px"
          value={framing.shiftY}
          min={-info.height}
          max={info.height}
          decimals={1}
          {...drag}
          onChange={(shiftY) => change({ shiftY })}
        />
        <button
          type="button"
          className="btn btn-xs"
          disabled={framing.shiftX === 0 && framing.shiftY === 0}
          onClick={() => change({ shiftX: 0, shiftY: 0 })}
        >
          Back to the middle
        </button>
      </Section>
      {steady && (
        <Section title="Edges">
          {steady.edgeFrames.length === 0 ? (
            <p>
              No edge shows on any frame from <span className="num">{range.from}</span> to{' '}
              <span className="num">{range.to}</span>.
            </p>
          ) : (
            <>
              <p className="text-error">
                ▲ An edge shows on {plural(steady.edgeFrames.length, 'frame')}; they are marked on the time
                axis.
              </p>
              {nextEdge !== undefined && (
                <button type="button" className="btn btn-xs" onClick={() => goTo(nextEdge)}>
                  Next one: frame {nextEdge}
                </button>
              )}
            </>
          )}
        </Section>
      )}
    </>
  );
}
