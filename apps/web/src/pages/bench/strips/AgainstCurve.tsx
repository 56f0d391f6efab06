import { useMemo } from 'react';
import { spotColour } from '../../../lib/colours';
import { capital, pixels } from '../../../lib/format';
import { useAgainstHeld, useScene } from '../../../state/scene';
import { useShot } from '../../../state/shot';
import { Curve, type CurveLine, type OnAxis } from './Curve';

/** So many movers are told apart in one strip. */
const MOST = 2;

/** How far other movers are off their places in the steadied picture: what is nearer or farther slides. */
export function AgainstCurve({ from, ...axis }: OnAxis & { readonly from: number }) {
  const scene = useScene();
  const against = useAgainstHeld();
  const movers = useShot((s) => s.state.document.movers);
  const lines = useMemo(
    () =>
      [...against]
        .sort((a, b) => b.rms - a.rms)
        .slice(0, MOST)
        .map(({ id, name, byFrame }, i): CurveLine => ({
          values: byFrame,
          colour: spotColour(scene?.movers.findIndex((m) => m.id === id) ?? 0),
          name: capital(movers.find((m) => m.id === id)?.name || name),
          dash: i > 0 ? [4, 3] : undefined,
          keyed: true,
        })),
    [against, movers, scene],
  );
  return <Curve {...axis} label="Against it" lines={lines} from={from} format={pixels} floor={0} />;
}
