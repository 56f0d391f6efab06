import * as Comlink from 'comlink';
import { Planner } from './planner';

export type SteadyApi = Planner;
Comlink.expose(new Planner());
