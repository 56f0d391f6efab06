import { toast } from 'sonner';
import { edgeDoubts, heldDoubts, rideDoubts, type Doubt } from '@lurn/core/doubt';
import type { Plan, PlanRequest, SolveRequest } from '@lurn/core/plan';
import { candidatesOf } from '@lurn/core/scene';
import type { AnalysedScene } from '@lurn/core/solve';
import { holdMover, same, shotRequest } from '@lurn/model';
import type { OpenPlanner } from '../workers/open-planner';
import type { BorrowedEdge } from '../workers/planner';
import { bench, setBench, setDoubts, useBench } from './bench';
import { lookNow } from './rasters';
import { heldPlace, sceneNow } from './scene';
import { shotDocument, shotState, useShot } from './shot';
import { showsAt } from './stations';

/** How long nothing has to change before the price of the goal is worked out. */
const TRADE_AFTER_MS = 250;
/** A plan that takes longer than this is said to be under way. */
const SLOW_MS = 400;

/** Keeps `bench.steady`, and what follows from it, in step with the shot: the newest state only. @returns what ends it */
export function keepSolved({ api, close }: OpenPlanner): () => void {
  let planned: unknown = null;
  let solved: SolveRequest | null = null;
  let asked: PlanRequest | null = null;
  let busy = false;
  let timer: ReturnType<typeof setTimeout> | undefined;

  const plan = async () => {
    if (busy) {
      void api.newer();
      return;
    }
    busy = true;
    const slow = setTimeout(() => setBench({ planning: true }), SLOW_MS);
    while (planned !== shotState()) {
      const state = shotState();
      planned = state;
      // What followed the plan before is of no use any more.
      void api.newer();
      const request = shotRequest(state, bench().info);
      const { size, fps, from, to, goal, framing, ...solve } = request;
      const again = !solved || !sameSolve(solved, solve);
      const rest = { size, fps, from, to, goal, framing };
      if (!again && same(rest, asked)) {
        // Layers and such change nothing in the motion.
        setBench({ steadyOf: state });
        setDoubts({ edgeDoubts: planDoubts(bench().steady, []) });
        continue;
      }
      try {
        const steady = await api.plan(again ? solve : null, rest);
        solved = solve;
        asked = rest;
        if (steady === 'superseded') {
          planned = asked = null;
          continue;
        }
        const stands = same(bench().steady?.corrections, steady?.corrections);
        setBench({ steady, steadyOf: state, tried: null, ...(stands ? {} : { pictureMeasure: null }) });
        setDoubts({ edgeDoubts: planDoubts(steady, []) });
      } catch (error) {
        // The next change is planned like any other; the picture goes without a plan until then.
        solved = asked = null;
        setBench({ steady: null, steadyOf: state, pictureMeasure: null });
        setDoubts({ edgeDoubts: planDoubts(null, []) });
        toast.error(`The motion could not be worked out. ${(error as Error).message}`, { id: 'plan' });
      }
    }
    clearTimeout(slow);
    if (bench().planning) setBench({ planning: false });
    busy = false;
    clearTimeout(timer);
    timer = setTimeout(() => void priced().catch(() => undefined), TRADE_AFTER_MS);
  };

  /** What is known of the whole picture is told to the planner, which begins anew with it. */
  const know = async (scene: AnalysedScene | null) => {
    if (!scene) return;
    // What was worked out without it is none of this any more.
    setBench({ steadyOf: null });
    await api.know(scene);
    planned = asked = null;
    void plan();
  };

  const priced = async () => {
    const { station, steady } = bench();
    if (busy || !steady || !showsAt(station).costs) return;
    const trade = await api.trade();
    if (!busy && trade !== 'superseded') setBench({ trade });
    await compared();
    if (shotDocument().edges.mode !== 'borrowed') return;
    const borrowed = await api.borrowed();
    if (busy || borrowed === 'superseded' || bench().steady !== steady) return;
    setBench({ borrowed });
    setDoubts({ edgeDoubts: planDoubts(steady, borrowed) });
  };

  /** What it would be to hold others of the likeliest. */
  const compared = async () => {
    const scene = sceneNow();
    const state = shotState();
    const { station, steady, info } = bench();
    if (!scene || !steady || !showsAt(station).candidates) return;
    const now = heldPlace(scene, state.document.held ?? steady.mover);
    const instead: Record<string, Plan> = {};
    for (const mover of candidatesOf(scene)) {
      const place = scene.movers.indexOf(mover);
      if (place === now) continue;
      const held = holdMover(state, place === 0 ? null : mover.id, mover);
      const plan = await api.instead(shotRequest(held, info));
      if (busy || plan === 'superseded') return;
      if (plan) instead[mover.id] = plan;
    }
    setBench({ instead });
  };

  const stops = [
    useShot.subscribe(() => void plan()),
    useBench.subscribe((now, before) => {
      if (now.station !== before.station) void priced().catch(() => undefined);
      if (now.scene !== before.scene) void know(now.scene);
    }),
  ];
  void know(bench().scene);
  void plan();
  return () => {
    clearTimeout(timer);
    stops.forEach((stop) => stop());
    close();
  };
}

/** True when two requests give the same motion: the same tracks, asked the same. */
function sameSolve(a: SolveRequest, b: SolveRequest): boolean {
  const { spots: p, surfaces: s, soft: f, ...one } = a;
  const { spots: q, surfaces: t, soft: g, ...other } = b;
  return (
    same(one, other) &&
    sameTracked(p, q) &&
    sameTracked(s ?? [], t ?? []) &&
    sameTracked(f ? [f] : [], g ? [g] : [])
  );
}

/** The same trackers with the very same samples. */
function sameTracked<T extends { readonly track: unknown }>(p: readonly T[], q: readonly T[]): boolean {
  return (
    p.length === q.length &&
    p.every((item, i) => {
      const { track, ...rest } = item;
      const { track: newer, ...others } = q[i];
      return track === newer && same(rest, others);
    })
  );
}

/** What of the plan is doubtful: where edges show, where what is held is not seen, and where it is not known where layers belong. */
function planDoubts(steady: Plan | null, borrowed: readonly BorrowedEdge[]): Doubt[] {
  const { accepted, layers, range } = shotDocument();
  const { look } = lookNow();
  const ridden = layers.flatMap(({ id, name, kind }) => {
    const own = look.layers.find((l) => l.id === id);
    return own ? [{ id, name, conceals: kind === 'conceal', look: own }] : [];
  });
  const rides = rideDoubts(ridden, range.from, range.to, steady?.motions ?? {}, accepted);
  const hidden = steady ? heldDoubts(steady.motion, range.from, range.to, accepted) : [];
  return [...doubtsOfEdges(steady, borrowed), ...hidden, ...rides];
}

/** A feature that is cut off counts as much as this share of the picture that was never seen. */
const CUT_COUNTS = 0.001;

/** Edges that the editor has not chosen to fill, and what borrowing leaves empty or cuts off. */
function doubtsOfEdges(steady: Plan | null, borrowed: readonly BorrowedEdge[]): Doubt[] {
  if (!steady) return [];
  const { edges, accepted } = shotDocument();
  if (edges.mode === 'colour') {
    const { edgeFrames, needed, zooms } = steady;
    const short = (f: number) => (Number.isFinite(needed[f]) ? needed[f] / zooms[f] - 1 : 1);
    return edgeDoubts(
      edgeFrames,
      short,
      (worst, where) =>
        Number.isFinite(needed[worst])
          ? `An edge shows on ${where}: frame ${worst} would need a zoom of ${(needed[worst] * 100).toFixed(1)} %.`
          : `An edge shows on ${where}: on frame ${worst} no zoom would hide it.`,
      accepted,
    );
  }
  const on = new Map(borrowed.map((b) => [b.frame, b]));
  return edgeDoubts(
    borrowed.map((b) => b.frame),
    (f) => on.get(f)!.unseen + CUT_COUNTS * on.get(f)!.cut,
    (worst, where) => {
      const { unseen, cut } = on.get(worst)!;
      const told = [
        unseen > 0 && `no frame shows what lies beyond the edge: up to ${(unseen * 100).toFixed(1)} % of the picture`, // prettier-ignore
        cut > 0 && 'something that moves otherwise than what is held reaches the edge, and is cut off there',
      ].filter((words) => words !== false);
      return `Borrowed edges, ${where}: ${told.join('; ')}.`;
    },
    accepted,
  );
}
