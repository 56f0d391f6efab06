import { Comlink } from './comlink';
import { Planner } from './planner';

Comlink.expose(new Planner());
