import type { ImportedSpot } from '@lurn/core/formats';
import { countSamples, measuredEnd } from '@lurn/core/track';

/** What will be imported, spot by spot. */
export function Upshot({ spots }: { readonly spots: readonly ImportedSpot[] }) {
  return (
    <ul className="text-xs" aria-label="What will be imported">
      {spots.map(({ name, track }) => (
        <li key={name}>
          <span className="font-semibold">{name}</span>: <span className="num">{countSamples(track)}</span>{' '}
          samples, frames{' '}
          <span className="num">
            {track.start} to {measuredEnd(track) - 1}
          </span>
          {countSamples(track) < track.state.length &&
            `, ${track.state.length - countSamples(track)} frames between without one (they stay missing)`}
        </li>
      ))}
    </ul>
  );
}
