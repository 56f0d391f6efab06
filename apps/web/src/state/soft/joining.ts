import { isInside, type Point } from '@lurn/core/geometry';
import { placeOfTrack, withVertex, type Track } from '@lurn/core/track';
import { LIMITS, placeOf, spotsOf, surfacesOf, trackOf, type JoinedPlace } from '@lurn/model';
import { toast } from 'sonner';
import { plural } from '../../lib/format';
import { bench } from '../bench';
import { borderShown, selectedSoft } from './mesh-shown';
import { shotDocument, shotState } from '../shot';
import { meshed, take } from './soft';

/** Spots and surfaces that go with a mesh as points of it. */

interface Joining extends Pick<JoinedPlace, 'tracker' | 'corner'> {
  readonly track: Track;
}

/** What may join: the chosen spots and surfaces that were tracked; all of them where none is chosen. */
function candidates(): { readonly list: Joining[]; readonly chosen: boolean } {
  const state = shotState();
  const { selected } = bench();
  const tracked = (s: { readonly id: string }) => state.measured[s.id] !== undefined;
  const spots = spotsOf(state.document).filter(tracked);
  const surfaces = surfacesOf(state.document).filter(tracked);
  const chosen = [...spots, ...surfaces].some((s) => selected.includes(s.id));
  const meant = (s: { readonly id: string }) => !chosen || selected.includes(s.id);
  return {
    chosen,
    list: [
      ...spots.filter(meant).map(({ id }) => ({ tracker: id, track: trackOf(state, id) })),
      ...surfaces
        .filter(meant)
        .flatMap((s) =>
          [0, 1, 2, 3].map((corner) => ({ tracker: s.id, corner, track: placeOf(state, s.id, corner)! })),
        ),
    ],
  };
}

/**
 * Lets the chosen spots and surfaces join the selected mesh as points of it - where none is chosen, those that lie on it:
 * from the next tracking on it goes with them.
 */
export function joinTrackers(): void {
  const soft = selectedSoft();
  const say = (text: string) => toast.warning(text, { id: 'mesh' });
  if (!soft) return void say('Select a soft surface first.');
  const { list, chosen } = candidates();
  const border = borderShown(soft, soft.frame) ?? [];
  const joined = [...(soft.joined ?? [])];
  let from = meshed(soft);
  for (const { track, ...who } of list) {
    if (joined.some((j) => j.tracker === who.tracker && j.corner === who.corner)) continue;
    const at = placeOfTrack(meshed(soft), soft.frame, track);
    if (!at || (!chosen && !isInside(border, at))) continue;
    if (joined.length >= LIMITS.joined || from.mesh.vertices.length >= LIMITS.vertices) break;
    const place = rounded(at);
    joined.push({ ...who, ...place });
    // Where it has a point already, that one goes with it.
    from = withVertex(from, place) ?? from;
  }
  const more = joined.length - (soft.joined?.length ?? 0);
  if (more === 0)
    return void say(
      list.length === 0
        ? 'Nothing is tracked that could join. Track a spot on it first.'
        : 'None of them is known together with the mesh, or lies on it.',
    );
  take(soft, from, { joined });
  toast.info(`${plural(more, 'point')} joined ${soft.name}. Track it again: it goes with them.`, {
    id: 'mesh',
  });
}

/** Lets go of all that has joined the selected mesh; its points stay. */
export function letGo(): void {
  const soft = selectedSoft();
  if (soft?.joined) take(soft, meshed(soft), { joined: undefined });
}

/** How many of what has joined is still there. */
export function joinedCount(joined: readonly JoinedPlace[] = []): number {
  const { trackers } = shotDocument();
  return joined.filter((j) => trackers.some((t) => t.id === j.tracker)).length;
}

const rounded = ({ x, y }: Point): Point => ({ x: Math.round(x * 1e3) / 1e3, y: Math.round(y * 1e3) / 1e3 });
