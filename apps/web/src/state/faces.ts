import { toast } from 'sonner';
import { plural } from '../lib/format';
import type { FoundFace } from '../workers/faces.worker';
import { bench, setBench } from './bench';
import { meshesOfFaces } from './soft/soft';

/** Looks for the faces of a frame. */
export type FaceFinder = (frame: number) => {
  readonly found: Promise<Pick<FoundFace, 'outline' | 'points'>[]>;
  readonly stop: () => void;
};

let finder: FaceFinder | null = null;
let search: ReturnType<FaceFinder> | null = null;

/** Faces are looked for by this from now on. @returns ends that, and what is under way */
export function keepFaces(by: FaceFinder): () => void {
  finder = by;
  return () => {
    finder = null;
    stop();
  };
}

function stop(): void {
  search?.stop();
  search = null;
  setBench({ facing: false });
}

/** Looks for faces on the frame that is shown, each of which becomes a soft surface; or stops looking. */
export async function findFaces(): Promise<void> {
  if (search || !finder) {
    stop();
    return;
  }
  const { frame } = bench();
  const own = (search = finder(frame));
  setBench({ facing: true });
  try {
    const found = await own.found;
    if (search !== own) return;
    const made = found.length > 0 ? meshesOfFaces(frame, found) : 0;
    const said = (text: string) => toast.info(text, { id: 'faces' });
    if (made > 0)
      said(`${plural(made, 'face')} on frame ${frame}, a mesh each. Delete those you do not need.`);
    else said(`No face was found on frame ${frame}. Try one on which it looks this way, or draw round it.`);
  } catch (error) {
    if (search === own)
      toast.error(`Faces could not be looked for. ${(error as Error).message}`, { id: 'faces' });
  } finally {
    if (search === own) stop();
  }
}
