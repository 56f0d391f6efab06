import type { AnalysedScene } from '@lurn/core/solve';
import { Comlink } from './comlink';
import type { Planner } from './planner';

/** What is asked of a planner, wherever it runs. */
export interface PlannerApi {
  newer(): void | Promise<void>;
  know(scene: AnalysedScene): void | Promise<void>;
  plan(...args: Parameters<Planner['plan']>): ReturnType<Planner['plan']>;
  instead(...args: Parameters<Planner['instead']>): ReturnType<Planner['instead']>;
  trade(): ReturnType<Planner['trade']>;
  borrowed(): ReturnType<Planner['borrowed']>;
}

/** A planner, and what ends it. */
export interface OpenPlanner {
  readonly api: PlannerApi;
  readonly close: () => void;
}

/** Starts a planner in a worker of its own. */
export function openPlanner(): OpenPlanner {
  const worker = new Worker(new URL('./steady.worker.ts', import.meta.url), { type: 'module' });
  return { api: Comlink.wrap<Planner>(worker), close: () => worker.terminate() };
}
