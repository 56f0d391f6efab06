import { changeDelivery, changeDocument, LIMITS } from '@lurn/model';
import type { Size } from '@lurn/core/plan';
import type { EdgeMode } from '@lurn/core/warp';
import { NumberField } from '../../../components/NumberField';
import { Segments } from '../../../components/Segments';
import { percent, plural } from '../../../lib/format';
import { useKeyTip } from '../../../state/keymap';
import { nextWorstFrame, setEdges, setFraming } from '../../../state/aims';
import { goTo, useBenchParts } from '../../../state/bench';
import { beginGesture, edit, endGesture, useShot } from '../../../state/shot';
import { Choice } from './Choice';
import { Hint, Reading, Section } from './Section';
import { TradeChart } from './TradeChart';

const drag = { onDragStart: beginGesture, onDragEnd: endGesture };
const MODES = { fit: 'Fit', breathing: 'Breathing', none: 'None' } as const;
const MEANING = {
  fit: 'The smallest zoom at which no frame shows an edge',
  breathing: 'The smallest zoom for each moment that changes slowly',
  none: 'Only the zoom by hand',
} as const;

export function FramePanel() {
  const { steady } = useBenchParts('steady');
  const { framing, range } = useShot((s) => s.state.document);
  const fits = steady !== null && Number.isFinite(steady.fit.zoom);
  const zooms = steady ? [...steady.zooms.subarray(range.from, range.to + 1)] : [1];
  const [low, high] = [Math.min(...zooms), Math.max(...zooms)];
  return (
    <>
      <Section title="Zoom">
        <Segments
          label="Zoom"
          value={framing.mode}
          options={MODES}
          titles={MEANING}
          onChange={(mode) => setFraming({ mode })}
        />
        {steady ? (
          <>
            <Reading label="Least without an edge" value={percent(steady.fit.zoom, 2)} strong />
            <Reading
              label="Applied"
              value={high - low < 5e-5 ? percent(high, 2) : `${percent(low)} to ${percent(high)}`}
            />
            {!fits && (
              <p className="text-xs text-error">
                ▲ No zoom hides the edges: on frame {steady.fit.frame} the middle of the frame lies outside
                the picture. Shift less, or take less out.
              </p>
            )}
          </>
        ) : (
          <Hint>The fit zoom is computed over every frame once something is held.</Hint>
        )}
        {framing.mode === 'breathing' && (
          <NumberField
            label="Changes at most"
            unit="%/s"
            value={framing.rate * 100}
            min={LIMITS.rate[0] * 100}
            max={LIMITS.rate[1] * 100}
            step={0.5}
            decimals={1}
            {...drag}
            onChange={(v) => setFraming({ rate: v / 100 })}
          />
        )}
        <NumberField
          label={framing.mode === 'none' ? 'By hand' : 'By hand, on top'}
          unit="%"
          value={framing.zoom * 100}
          min={LIMITS.zoom[0] * 100}
          max={LIMITS.zoom[1] * 100}
          decimals={2}
          {...drag}
          onChange={(v) => setFraming({ zoom: v / 100 })}
        />
        <Worst />
      </Section>
      {steady && (
        <Section title="What taking less out would save">
          <TradeChart />
        </Section>
      )}
      <Edges />
      <Delivery />
      <Shift />
    </>
  );
}

/** The frames that force the zoom, worst first. */
function Worst() {
  const { steady, frame } = useBenchParts('steady', 'frame');
  if (!steady || steady.worst.length === 0) return null;
  return (
    <div>
      <p className="quiet mb-1 text-xs">Frames that need most (Shift E: the next worst)</p>
      <div className="flex flex-wrap gap-1">
        {steady.worst.slice(0, 6).map((f) => (
          <button
            key={f}
            type="button"
            className={`btn btn-xs num px-1.5 ${f === frame ? 'btn-primary' : ''}`}
            title={`Go to frame ${f}`}
            onClick={() => goTo(f)}
          >
            {f}: {percent(steady.needed[f])}
          </button>
        ))}
      </div>
    </div>
  );
}

const EDGES: Record<EdgeMode, string> = {
  colour: 'a colour',
  stretched: 'stretched',
  mirrored: 'mirrored',
  borrowed: 'borrowed',
  transparent: 'nothing',
};

function Edges() {
  const tip = useKeyTip();
  const { steady, borrowed } = useBenchParts('steady', 'borrowed');
  const { edges, range } = useShot((s) => s.state.document);
  const [unseen, cut] = [borrowed.filter((b) => b.unseen > 0), borrowed.filter((b) => b.cut > 0)];
  const most = Math.max(0, ...unseen.map((b) => b.unseen));
  return (
    <Section title="Edges">
      <Choice
        label="Beyond them"
        value={edges.mode}
        options={EDGES}
        onChange={(mode) => setEdges({ mode })}
      />
      {(edges.mode === 'colour' || edges.mode === 'borrowed') && (
        <label className="flex items-center gap-2">
          <span className="grow">{edges.mode === 'borrowed' ? 'Where nothing was ever seen' : 'Colour'}</span>
          <input
            type="color"
            className="h-6 w-10 cursor-pointer"
            value={edges.colour}
            onChange={(e) => setEdges({ colour: e.target.value })}
          />
        </label>
      )}
      {edges.mode === 'transparent' && (
        <Hint>The file is then QuickTime with alpha (ProRes 4444), not MP4.</Hint>
      )}
      {steady &&
        (steady.edgeFrames.length === 0 ? (
          <p className="text-xs">
            No edge shows on any frame from <span className="num">{range.from}</span> to{' '}
            <span className="num">{range.to}</span>.
          </p>
        ) : (
          <>
            <p className={`text-xs ${edges.mode === 'colour' ? 'text-error' : ''}`}>
              {edges.mode === 'colour' && '▲ '}An edge shows on {plural(steady.edgeFrames.length, 'frame')}
              {edges.mode === 'colour' || edges.mode === 'transparent'
                ? '.'
                : `, and is ${EDGES[edges.mode]}.`}
            </p>
            {edges.mode === 'borrowed' && (
              <p className={`text-xs ${unseen.length > 0 ? 'text-warning' : ''}`}>
                {unseen.length === 0
                  ? 'Other frames show all that is missing.'
                  : `▲ On ${plural(unseen.length, 'frame')} up to ${(most * 100).toFixed(1)} % of the picture was never seen.`}
              </p>
            )}
            {edges.mode === 'borrowed' && cut.length > 0 && (
              <p className="text-xs text-warning">
                ▲ On {plural(cut.length, 'frame')} something that moves otherwise reaches the edge, and is cut
                off there: zoom in, or hold that.
              </p>
            )}
            <button
              type="button"
              className="btn btn-xs"
              title={tip('Next worst frame', 'worst')}
              onClick={nextWorstFrame}
            >
              The next worst
            </button>
          </>
        ))}
    </Section>
  );
}

const SIZES = ['1920x1080', '1280x720', '3840x2160', '1080x1920', '1080x1080'] as const;
const nameOf = (size: { readonly width: number; readonly height: number } | null) =>
  size ? `${size.width}x${size.height}` : 'source';

/** The delivered size, and how much resolution is left. */
function Delivery() {
  const { steady, info } = useBenchParts('steady', 'info');
  const { id, size: delivery } = useShot((s) => s.state.document.deliveries[0]);
  const setSize = (size: Size | null) => edit((s) => changeDelivery(s, id, { size }));
  const set = (width: number, height: number) =>
    setSize({ width: Math.round(width / 2) * 2, height: Math.round(height / 2) * 2 });
  const listed = delivery === null || (SIZES as readonly string[]).includes(nameOf(delivery));
  const options: Record<string, string> = {
    source: `source, ${info.width} × ${info.height}`,
    ...Object.fromEntries(SIZES.map((s) => [s, s.replace('x', ' × ')])),
    own: 'another size',
  };
  return (
    <Section title="Delivery">
      <Choice
        label="Size"
        value={listed ? nameOf(delivery) : 'own'}
        options={options}
        onChange={(name) => {
          if (name === 'source') setSize(null);
          else if (name === 'own') set(info.width * 0.75, info.height * 0.75);
          else {
            const [w, h] = name.split('x').map(Number);
            set(w, h);
          }
        }}
      />
      {!listed && delivery && (
        <>
          {(['width', 'height'] as const).map((side) => (
            <NumberField
              key={side}
              label={side === 'width' ? 'Width' : 'Height'}
              unit="px"
              value={delivery[side]}
              min={LIMITS.delivery[0]}
              max={LIMITS.delivery[1]}
              step={2}
              {...drag}
              onChange={(v) => setSize({ ...delivery, [side]: Math.round(v / 2) * 2 })}
            />
          ))}
        </>
      )}
      {steady && (
        <>
          <Reading label="Punch-in" value={`${steady.punchIn.toFixed(2)} source px / px`} />
          <Reading label="Nothing lost up to" value={percent(steady.losslessZoom)} />
          <Hint>
            {steady.punchIn >= 0.9995
              ? 'Every delivered pixel has at least one source pixel.'
              : `The picture is enlarged by ${percent(1 / steady.punchIn - 1)} at most.`}
          </Hint>
        </>
      )}
    </Section>
  );
}

function Shift() {
  const { info } = useBenchParts('info');
  const { framing } = useShot((s) => s.state.document);
  return (
    <Section title="Shift">
      <NumberField
        label="Across"
        unit="px"
        value={framing.shiftX}
        min={-info.width}
        max={info.width}
        decimals={1}
        {...drag}
        onChange={(shiftX) => setFraming({ shiftX })}
      />
      <NumberField
        label="Up and down"
        unit="px"
        value={framing.shiftY}
        min={-info.height}
        max={info.height}
        decimals={1}
        {...drag}
        onChange={(shiftY) => setFraming({ shiftY })}
      />
      <button
        type="button"
        className="btn btn-xs"
        disabled={framing.shiftX === 0 && framing.shiftY === 0}
        onClick={() => edit((s) => changeDocument(s, { framing: { ...framing, shiftX: 0, shiftY: 0 } }))}
      >
        Back to the middle
      </button>
    </Section>
  );
}
