import { moverLabel, rulesOf, spotsOf, type Rides } from '@lurn/model';
import { useBenchParts } from '../../../../state/bench';
import { useScene } from '../../../../state/scene';
import { useShot } from '../../../../state/shot';

/** All that a layer may ride on, by what a list calls it. */
export function useRides(): {
  readonly options: Record<string, string>;
  readonly parse: (key: string) => Pick<Rides, 'on' | 'id'>;
} {
  const { steady } = useBenchParts('steady');
  const document = useShot((s) => s.state.document);
  const scene = useScene();
  const surfaces = document.trackers.filter((t) => rulesOf(t).ownMover);
  const spots = spotsOf(document);
  const ownMovers = document.movers.filter((m) => spots.some((s) => s.mover === m.id));
  const found = scene?.movers.filter((m) => !m.overlay && !document.movers.some((o) => o.id === m.id)) ?? [];
  const named = new Map<string, string>([['frame:', 'the frame']]);
  if (steady && steady.held === '' && steady.mover === null) named.set('mover:', 'what is held');
  for (const t of surfaces) named.set(`${t.kind}:${t.id}`, t.name);
  for (const s of spots) named.set(`spot:${s.id}`, `spot ${s.name}`);
  for (const m of ownMovers) named.set(`mover:${m.id}`, moverLabel(document, m.id));
  for (const m of found) named.set(`mover:${m.id}`, m.name);
  const parse = (key: string) => {
    const at = key.indexOf(':');
    return { on: key.slice(0, at) as Rides['on'], id: key.slice(at + 1) };
  };
  return { options: Object.fromEntries(named), parse };
}
