import { toast } from 'sonner';
import { cornerRows, writeCorners, type NamedSurface } from '@lurn/core/formats';
import type { Point } from '@lurn/core/geometry';
import { quadOn, surfaceAt } from '@lurn/core/track';
import { quadOf, surfacesOf, surfaceTrackOf, type Surface } from '@lurn/model';
import { keepFile } from '../../../lib/keep-file';
import { useBenchParts } from '../../../state/bench';
import { useShot } from '../../../state/shot';
import { Hint, Section } from './Section';

const COLUMNS = [
  'frame',
  'time_s',
  ...[1, 2, 3, 4].flatMap((k) => [`x${k}_px`, `y${k}_px`]),
  'confidence',
  'state',
];
const NAMES = ['top left', 'top right', 'bottom right', 'bottom left'];

/** What a graphic needs that is pinned to a surface: four corners a frame, to be copied or kept as a file. */
export function CornerPin() {
  const { selected } = useBenchParts('selected');
  const surfaces = useShot((s) => surfacesOf(s.state.document));
  if (surfaces.length === 0) return null;
  const surface = surfaces.find((s) => selected.includes(s.id)) ?? surfaces[0];
  return (
    <Section title={`Corner pin of ${surface.name}`}>
      <Corners surface={surface} />
    </Section>
  );
}

function Corners({ surface }: { readonly surface: Surface }) {
  const { shown, times, clip } = useBenchParts('shown', 'times', 'clip');
  const { document, measured } = useShot((s) => s.state);
  const named = (s: Surface): NamedSurface => ({
    ...{ name: s.name, base: quadOf(s.base), quad: quadOf(s.quad) },
    track: surfaceTrackOf({ measured }, s.id),
  });
  const own = named(surface);
  const here: readonly Point[] | null =
    surfaceAt(own.track, shown) && quadOn(own.base, own.quad, own.track, shown);
  const rows = () => [...cornerRows(own, times)];
  const copy = () => {
    const table = [COLUMNS, ...rows()].map((r) => r.join('\t'));
    navigator.clipboard
      .writeText(table.join('\n'))
      .then(() => toast.success(`${table.length - 1} rows copied, with tabs between the columns.`))
      .catch(() => toast.error('The browser does not let the page copy. Save the file instead.'));
  };
  const save = () => {
    const tracked = surfacesOf(document)
      .filter((s) => measured[s.id])
      .map(named);
    keepFile(`${clip.name} corners.csv`, new Blob([writeCorners(tracked, times)], { type: 'text/csv' }));
  };
  if (own.track.state.length === 0) return <Hint>Track the surface first.</Hint>;
  return (
    <>
      <table className="num w-full text-right text-xs" aria-label={`Corners on frame ${shown}`}>
        <tbody>
          {NAMES.map((name, i) => (
            <tr key={name}>
              <th scope="row" className="quiet text-left font-normal">
                {name}
              </th>
              <td>{here ? here[i].x.toFixed(2) : '–'}</td>
              <td>{here ? `${here[i].y.toFixed(2)} px` : '–'}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="grid grid-cols-2 gap-1.5">
        <button type="button" className="btn btn-sm" onClick={copy}>
          Copy as a table
        </button>
        <button type="button" className="btn btn-sm" onClick={save}>
          Save as CSV
        </button>
      </div>
      <Hint>
        In source pixels, on the frames as shot; its own frame is <span className="num">{surface.frame}</span>
        .
      </Hint>
    </>
  );
}
