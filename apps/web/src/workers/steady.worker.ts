import * as Comlink from 'comlink';
import {
  borrowFor,
  planSteady,
  solveMotion,
  tradeOff,
  type Motion,
  type PlanRequest,
  type SolveRequest,
  type Steady,
} from '@lurn/core';

/** Solves and plans off the main thread, so that sliders never wait. What was solved is kept until the tracks change. */
class SteadyWorker {
  private solved: { readonly request: SolveRequest; readonly motion: Motion | null } | null = null;
  private planned: { readonly request: PlanRequest; readonly plan: Steady } | null = null;

  /** @param solve  null when tracks and reference frame are as they were */
  plan(solve: SolveRequest | null, request: PlanRequest): Steady | null {
    if (solve) this.solved = { request: solve, motion: solveMotion(solve) };
    if (!this.solved?.motion) return (this.planned = null);
    const plan = planSteady(this.solved.motion, { ...this.solved.request, ...request });
    this.planned = { request, plan };
    return plan;
  }

  /** The price in zoom of the present goal. */
  trade(): ReturnType<typeof tradeOff> | null {
    const { solved, planned } = this;
    return solved?.motion && planned ? tradeOff(solved.motion, planned.request) : null;
  }

  /** Frames on which even borrowed edges leave something that was never seen. */
  unseen(): { frame: number; share: number }[] {
    if (!this.planned) return [];
    const { plan, request } = this.planned;
    return plan.edgeFrames
      .map((frame) => ({ frame, share: borrowFor(plan, frame, request.from, request.to).unseen }))
      .filter(({ share }) => share > 0);
  }
}

export type SteadyApi = SteadyWorker;
Comlink.expose(new SteadyWorker());
