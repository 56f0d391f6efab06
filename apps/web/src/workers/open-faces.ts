import { spaceNamed } from '@lurn/core/picture';
import type { ClipFile } from '@lurn/media';
import type { ClipInfo } from '@lurn/model';
import { Comlink } from './comlink';
import type { FacesApi, FacesRequest, FoundFace } from './faces.worker';

/** Where the models lie that come with the application. */
const MODELS = `${import.meta.env.BASE_URL}faces/`;

/** A model of faces that looks at a clip, in a thread of its own: what that holds is given back when it is closed. */
export interface FaceModel {
  find(frame: number): Promise<FoundFace[]>;
  /** For another thread, which asks through this. */
  port(): Promise<MessagePort>;
  close(): void;
}

/** @throws LurnError by what is asked of it, where the clip or the models cannot be read */
export function openFaces(file: ClipFile, { colour, width, height }: ClipInfo): FaceModel {
  const thread = new Worker(new URL('./faces.worker.ts', import.meta.url), { type: 'module' });
  const api = Comlink.wrap<FacesApi>(thread);
  const coding: FacesRequest['coding'] = { ...colour, space: spaceNamed(colour.space, height), height };
  const ready = api.open(file, {
    size: { width, height },
    coding,
    models: new URL(MODELS, location.href).href,
  });
  ready.catch(() => undefined);
  return {
    find: async (frame) => {
      await ready;
      return api.find(frame);
    },
    port: async () => {
      await ready;
      const { port1, port2 } = new MessageChannel();
      await api.lendTo(Comlink.transfer(port1, [port1]));
      return port2;
    },
    close: () => thread.terminate(),
  };
}
