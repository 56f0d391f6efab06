import { LurnError } from '@lurn/core';
import { bordersOf, faultOfOutline, outlineOf, cornersAt, type Mesh, type Point } from '@lurn/core/geometry';
import {
  carriedOver,
  EMPTY_SOFT_TRACK,
  FEWEST_TRACKS,
  makeMesh,
  meshFromTracks,
  softSample,
  meshOfPoints,
  withSoftSamples,
  type MeshedTrack,
  type SoftTrack,
  type SoftVertex,
} from '@lurn/core/track';
import {
  addSurface,
  changeSurface,
  LIMITS,
  meshOf,
  NEW_SOFT,
  nextColour,
  nextSoftName,
  softById,
  softOf,
  spotsOf,
  trackOf,
  softTrackOf,
  storedMesh,
  type ShotDocument,
  type SoftSurface,
  type SurfaceShape,
} from '@lurn/model';
import { toast } from 'sonner';
import { bench, setBench } from '../bench';
import { beginGesture, edit, endGesture, shotDocument, shotState, withinGesture } from '../shot';
import { selectedSoft } from './mesh-shown';
import { pairs } from '../../lib/places';

/** What the editor does to soft surfaces; each is one step of undo unless a gesture is under way. */

/** Makes a mesh of a picture, off the main thread. */
export type MeshMaker = (
  frame: number,
  plan: {
    outline: readonly Point[];
    holes: readonly (readonly Point[])[];
    spacing: number;
    fit: 'even' | 'texture';
  },
) => Promise<Mesh>;

let byTexture: MeshMaker | null = null;

/** Who makes meshes by texture from now on: the thread that has the pictures. */
export function meshesMadeBy(maker: MeshMaker | null): void {
  byTexture = maker;
}

function tell(error: unknown): void {
  toast.warning(`No mesh was made: ${(error as Error).message}`, { id: 'mesh' });
}

/** A spacing that makes about so many points of an outline. */
const POINTS = 90;

function fittingSpacing(outline: readonly Point[]): number {
  const [xs, ys] = [outline.map((p) => p.x), outline.map((p) => p.y)];
  const area = (Math.max(...xs) - Math.min(...xs)) * (Math.max(...ys) - Math.min(...ys));
  const spacing = Math.round(Math.sqrt(area / POINTS));
  return Math.min(LIMITS.spacing[1], Math.max(2 * LIMITS.spacing[0], spacing));
}

/** Makes a soft surface of an outline drawn on the present frame: that becomes its own. @param holes  straight ones in it */
export function drawSoft(
  corners: readonly Point[],
  smooth: boolean,
  holes: readonly (readonly Point[])[] = [],
): void {
  const { frame, info } = bench();
  const outline = outlineOf(corners, smooth);
  const fault = faultOfOutline(outline, info.width, info.height);
  if (fault) {
    toast.warning(`No mesh was made: what was drawn ${fault}. Draw round it once more.`, { id: 'mesh' });
    return;
  }
  try {
    const mesh = makeMesh({ outline, holes, spacing: fittingSpacing(outline), fit: 'even' });
    put(frame, corners, smooth, mesh, EMPTY_SOFT_TRACK, {}, holes);
  } catch (error) {
    if (!(error instanceof LurnError)) throw error;
    tell(error);
  }
}

/** Makes a soft surface of spots that were tracked: the chosen ones, or all. */
export function meshOfSpots(): void {
  const state = shotState();
  const { selected } = bench();
  const tracked = spotsOf(state.document).filter((s) => state.measured[s.id]);
  const chosen = tracked.filter((s) => selected.includes(s.id));
  try {
    const list = (chosen.length >= FEWEST_TRACKS ? chosen : tracked).map((s) => trackOf(state, s.id));
    const { frame, mesh, track } = meshFromTracks(list);
    const ring = bordersOf(mesh.faces)[0].map((v) => mesh.vertices[v]);
    put(frame, ring, false, mesh, track);
  } catch (error) {
    if (!(error instanceof LurnError)) throw error;
    tell(error);
  }
}

/** Points along a face: so many across its width. */
const ACROSS_FACE = 11;

/** Faces that were found on a frame become soft surfaces: one step of undo. @returns how many were large enough */
export function meshesOfFaces(
  frame: number,
  found: readonly { readonly outline: readonly Point[]; readonly points: readonly Point[] }[],
): number {
  const { width, height } = bench().info;
  const within = (p: Point) => p.x >= 0 && p.y >= 0 && p.x <= width && p.y <= height;
  let made = 0;
  beginGesture();
  for (const { outline, points } of found) {
    const xs = outline.map((p) => p.x);
    const spacing = Math.max(LIMITS.spacing[0], (Math.max(...xs) - Math.min(...xs)) / ACROSS_FACE);
    try {
      const mesh = meshOfPoints(outline, points.filter(within), spacing);
      put(frame, outline, false, mesh, EMPTY_SOFT_TRACK, {
        name: `Face ${facesOf(shotDocument()) + 1}`,
        leads: 'face',
      });
      made++;
    } catch (error) {
      if (!(error instanceof LurnError)) throw error;
    }
  }
  endGesture();
  return made;
}

const facesOf = (document: ShotDocument) => softOf(document).filter((s) => s.name.startsWith('Face ')).length;

/** A new soft surface of a mesh, and what is known of it, is added and selected. */
function put(
  frame: number,
  corners: readonly Point[],
  smooth: boolean,
  mesh: Mesh,
  track = EMPTY_SOFT_TRACK,
  more: Partial<Pick<SoftSurface, 'name' | 'leads'>> = {},
  holes: readonly (readonly Point[])[] = [],
): void {
  const document = shotDocument();
  const spacing = fittingSpacing(outlineOf(corners, smooth));
  const soft: Omit<SoftSurface, 'mover'> = {
    ...NEW_SOFT,
    ...{
      id: crypto.randomUUID(),
      name: nextSoftName(document),
      colour: nextColour(document),
      frame,
      spacing,
    },
    ...more,
    shapes: [
      { kind: 'focus', smooth, keys: [{ frame, shape: pairs(corners) }] },
      ...holes.map((hole): SurfaceShape => ({
        kind: 'ignore',
        smooth: false,
        keys: [{ frame, shape: pairs(hole) }],
      })),
    ],
    ...storedMesh(mesh),
  };
  edit((s) => addSurface(s, soft, ownSample(soft, track)));
  setBench({ selected: [soft.id], area: null, points: [] });
}

/** On its own frame it is where it was drawn. */
function ownSample(
  { frame, vertices }: Pick<SoftSurface, 'frame' | 'vertices'>,
  track: SoftTrack,
): SoftTrack {
  const drawn = vertices.map(([x, y]): SoftVertex => ({ x, y, confidence: 1, state: 'pinned' }));
  return withSoftSamples(track, [softSample(frame, drawn)]);
}

/** What there is of a mesh, to be edited. */
export function meshed(soft: SoftSurface): MeshedTrack {
  return { mesh: meshOf(soft), track: softTrackOf(shotState(), soft.id) };
}

/** Takes an edited mesh over, with what was measured of it. */
export function take(soft: SoftSurface, { mesh, track }: MeshedTrack, more: Partial<SoftSurface> = {}): void {
  const stored = storedMesh(mesh);
  const told = { ...more, ...stored };
  edit((s) =>
    changeSurface<SoftSurface>(
      s,
      soft.id,
      told,
      ownSample({ frame: soft.frame, vertices: stored.vertices }, track),
    ),
  );
  setBench({ points: [] });
}

/** Makes the mesh anew, of other points; what was measured is told of these. */
export function remesh(id: string, change: MeshChange): Promise<void> {
  return withinGesture(() => meshAnew(id, change));
}

interface MeshChange {
  readonly spacing?: number;
  readonly fit?: 'even' | 'texture';
  readonly shapes?: readonly SurfaceShape[];
}

async function meshAnew(id: string, change: MeshChange): Promise<void> {
  const soft = softById(shotDocument(), id);
  if (!soft) return;
  const { spacing, fit, shapes } = { ...soft, ...change };
  const outlines = (kind: SurfaceShape['kind']) =>
    shapes.filter((s) => s.kind === kind).map((s) => outlineOf(cornersAt(s, soft.frame), s.smooth));
  const plan = { outline: outlines('focus')[0], holes: outlines('ignore'), spacing, fit };
  try {
    const mesh =
      fit === 'texture' && byTexture ? await byTexture(soft.frame, plan) : makeMesh({ ...plan, fit: 'even' });
    const now = softById(shotDocument(), id);
    // What was changed while the mesh was made has one of its own made, or has taken this one back.
    if (!now || now.shapes !== soft.shapes || now.spacing !== soft.spacing || now.fit !== soft.fit) return;
    take(now, { mesh, track: carriedOver(meshed(now), mesh.vertices) }, { spacing, fit, shapes });
  } catch (error) {
    if (!(error instanceof LurnError)) throw error;
    tell(error);
  }
}

/** Cuts a hole into the selected mesh, or widens what is left out of it. */
export function addHole(corners: readonly Point[], smooth: boolean): void {
  const soft = selectedSoft();
  if (!soft || bench().frame !== soft.frame) {
    toast.warning(`Holes are cut on its own frame${soft ? `, ${soft.frame}` : ''}.`, { id: 'mesh' });
    return;
  }
  const hole: SurfaceShape = { kind: 'ignore', smooth, keys: [{ frame: soft.frame, shape: pairs(corners) }] };
  void remesh(soft.id, { shapes: [...soft.shapes, hole] });
}
