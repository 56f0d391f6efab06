import * as Comlink from 'comlink';
import { steady, type Steady, type SteadyRequest } from '@lurn/core';

/** Solves off the main thread, so that sliders never wait. */
const worker = {
  solve: (request: SteadyRequest): Steady | null => steady(request),
};

export type SteadyApi = typeof worker;
Comlink.expose(worker);
