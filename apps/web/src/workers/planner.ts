import type { Steps } from '@lurn/core';
import { borrowFor } from '@lurn/core/compose';
import {
  cutAtEdges,
  heldMotion,
  planSteps,
  tradeSteps,
  type HeldMotion,
  type PlanRequest,
  type ShotRequest,
  type SolveRequest,
  type Plan,
  type Trade,
} from '@lurn/core/plan';
import type { AnalysedScene } from '@lurn/core/solve';

const TURN_MS = 15;
const PATIENCE_MS = 250;

/** What was begun is left, because something newer is wanted. */
export type Superseded = 'superseded';

/** Solves and plans off the main thread, so that sliders never wait. What was solved is kept until the tracks change. */
export class Planner {
  private solved: { readonly request: SolveRequest; readonly held: HeldMotion | null } | null = null;
  private planned: { readonly request: PlanRequest; readonly plan: Plan } | null = null;
  private requests = 0;
  private scene: AnalysedScene | null = null;
  /** Motions of what else might be held, by its id, as long as nothing else that is solved from changes. */
  private readonly others = new Map<string, HeldMotion | null>();

  /**
   * @param patience  milliseconds: a plan that takes longer is left as soon as another is wanted; a shorter one is shown
   * @param turn      milliseconds that it runs for without a look at what else is wanted
   */
  constructor(
    private readonly patience = PATIENCE_MS,
    private readonly turn = TURN_MS,
  ) {}

  /** Another plan is going to be asked for: a slow one that is under way, and what follows a plan, is left. */
  newer(): void {
    this.requests++;
  }

  /** What is known of the clip's pictures as a whole; what was solved is solved anew with it. */
  know(scene: AnalysedScene): void {
    this.scene = scene;
    if (this.solved) this.solve(this.solved.request);
  }

  private solve(request: SolveRequest): void {
    this.others.clear();
    this.solved = { request, held: heldMotion(request, this.scene, request.sceneMover ?? null) };
  }

  /** @param solve  null when tracks and reference frame are as they were */
  async plan(solve: SolveRequest | null, request: PlanRequest): Promise<Plan | null | Superseded> {
    if (solve) this.solve(solve);
    if (!this.solved?.held) return (this.planned = null);
    const { held, request: of } = this.solved;
    const plan = await this.run(planSteps(held.motion, { ...of, ...request }, held), this.patience);
    if (plan !== 'superseded') this.planned = { request, plan };
    return plan;
  }

  /** The plan where something else were held; what is planned stays. Null where nothing tells of it. */
  async instead(request: ShotRequest): Promise<Plan | null | Superseded> {
    const id = request.sceneMover ?? '';
    if (!this.others.has(id))
      this.others.set(id, heldMotion(request, this.scene, request.sceneMover ?? null));
    const held = this.others.get(id);
    return held ? this.run(planSteps(held.motion, request, held), 0) : null;
  }

  /** The price in zoom of the present goal. */
  async trade(): Promise<Trade | null | Superseded> {
    const { solved, planned } = this;
    return solved?.held && planned ? this.run(tradeSteps(solved.held.motion, planned.request), 0) : null;
  }

  /** What is to be said of borrowed edges, frame by frame. */
  async borrowed(): Promise<BorrowedEdge[] | Superseded> {
    const { planned, solved, scene } = this;
    if (!planned) return [];
    const held = scene?.movers.findIndex((m) => m.id === solved?.held?.mover) ?? -1;
    const cut = (frame: number) => (scene && held >= 0 ? cutAtEdges(planned.plan, scene, held, frame) : 0);
    return this.run(borrowedSteps(planned.plan, planned.request, cut), 0);
  }

  /** Runs work with pauses in which messages arrive; it is left when something newer is wanted after its patience. */
  private async run<T>(steps: Steps<T>, patience: number): Promise<T | Superseded> {
    const { requests } = this;
    const start = performance.now();
    let turn = start;
    for (let step = steps.next(); ; step = steps.next()) {
      if (step.done) return step.value;
      const now = performance.now();
      if (now - turn < this.turn) continue;
      await new Promise((resume) => setTimeout(resume));
      turn = performance.now();
      if (this.requests !== requests && turn - start >= patience) return 'superseded';
    }
  }
}

/** A frame on which a borrowed edge is not what a wider camera would have shown. */
export interface BorrowedEdge {
  readonly frame: number;
  /** The share of the picture that no frame shows. */
  readonly unseen: number;
  /** Features at the edge that move otherwise than what is held, and are cut off there. */
  readonly cut: number;
}

function* borrowedSteps(
  plan: Plan,
  { from, to }: PlanRequest,
  cutOn: (frame: number) => number,
): Steps<BorrowedEdge[]> {
  const found: BorrowedEdge[] = [];
  for (const frame of plan.edgeFrames) {
    const { unseen } = borrowFor(plan, frame, from, to);
    const cut = cutOn(frame);
    if (unseen > 0 || cut > 0) found.push({ frame, unseen, cut });
    yield;
  }
  return found;
}
