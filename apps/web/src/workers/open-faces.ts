import type { ClipFile } from '@lurn/media';
import type { FaceFinder } from '../state/faces';
import { Comlink } from './comlink';
import type { FacesApi } from './faces.worker';

/** Where the models lie that come with the application. */
const MODELS = `${import.meta.env.BASE_URL}faces/`;

/** Looks for faces in a clip's pictures, each time in a thread of its own: what that holds is given back. */
export function openFaces(file: ClipFile): FaceFinder {
  return (frame, size, coding) => {
    const thread = new Worker(new URL('./faces.worker.ts', import.meta.url), { type: 'module' });
    const request = { size, coding, frame, models: new URL(MODELS, location.href).href };
    return { found: Comlink.wrap<FacesApi>(thread).find(file, request), stop: () => thread.terminate() };
  };
}
