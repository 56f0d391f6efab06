import type { Point } from '@lurn/core/geometry';
import { leadsBy, nearestGroup, type LeadsOn, type SoftToTrack } from '@lurn/core/track';

/** The landmarks of every face on a frame, always the same ones in turn. */
export type LandmarksOn = (frame: number) => Promise<readonly (readonly Point[])[]>;

/** Faces that are asked for by one mesh after the other on the same frame are looked for once. */
export function keptFor(landmarks: LandmarksOn): LandmarksOn {
  let last: { readonly frame: number; readonly found: ReturnType<LandmarksOn> } | null = null;
  return (frame) => {
    if (last?.frame !== frame) last = { frame, found: landmarks(frame) };
    return last.found;
  };
}

/** A mesh of a face is led by the face's landmarks: of the face about it on its own frame, and of the one there on others. */
export function faceLeads(
  landmarks: LandmarksOn,
  { frame: own, vertices }: Pick<SoftToTrack, 'frame' | 'vertices'>,
): LeadsOn {
  const about = async (frame: number, places: readonly (Point | null)[]) =>
    nearestGroup(
      (await landmarks(frame)).map((points) => ({ points })),
      places,
    )?.points ?? null;
  let first: Promise<readonly Point[] | null> | null = null;
  return async (frame, places) => {
    first ??= about(own, vertices);
    const from = await first;
    const now = from && (await about(frame, places));
    return from && now ? leadsBy(from, now, vertices) : new Map();
  };
}
