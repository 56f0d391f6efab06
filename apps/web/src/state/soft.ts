import {
  bordersOf,
  carriedOver,
  cutAlong,
  EMPTY_SOFT_TRACK,
  faultOfOutline,
  FEWEST_TRACKS,
  hasSample,
  LurnError,
  makeMesh,
  meshFromTracks,
  outlineOf,
  cornersAt,
  softAt,
  softSample,
  turnedOver,
  withMeshEdge,
  meshOfPoints,
  withoutMeshEdge,
  withoutVertices,
  withSoftSamples,
  withVertex,
  filledPlaces,
  type Mesh,
  type MeshedTrack,
  type Point,
  type SoftTrack,
  type SoftVertex,
} from '@lurn/core';
import {
  addSurface,
  changeSoft,
  faultOfLaying,
  LIMITS,
  meshOf,
  NEW_SOFT,
  nextColour,
  nextSoftName,
  setMeasured,
  softById,
  softOf,
  softShape,
  spotsOf,
  trackOf,
  softTrackOf,
  storedMesh,
  type LaidTo,
  type ShotDocument,
  type SoftSurface,
  type SurfaceShape,
} from '@lurn/model';
import { toast } from 'sonner';
import { bench, setBench } from './bench';
import { beginGesture, edit, endGesture, shotDocument, shotState } from './shot';

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

export function selectedSoft(): SoftSurface | undefined {
  const { selected } = bench();
  return softOf(shotDocument()).find((s) => selected.includes(s.id));
}

const pairs = (corners: readonly Point[]) =>
  corners.map(({ x, y }) => [Math.round(x * 100) / 100, Math.round(y * 100) / 100] as const);

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

/** Makes a soft surface of an outline drawn on the present frame: that becomes its own. */
export function drawSoft(corners: readonly Point[], smooth: boolean): void {
  const { frame, info } = bench();
  const outline = outlineOf(corners, smooth);
  const fault = faultOfOutline(outline, info.width, info.height);
  if (fault) {
    toast.warning(`No mesh was made: what was drawn ${fault}. Draw round it once more.`, { id: 'mesh' });
    return;
  }
  try {
    put(frame, corners, smooth, makeMesh({ outline, spacing: fittingSpacing(outline), fit: 'even' }));
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
      put(frame, outline, false, mesh, EMPTY_SOFT_TRACK, `Face ${facesOf(shotDocument()) + 1}`);
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
  name = nextSoftName(shotDocument()),
): void {
  const document = shotDocument();
  const spacing = fittingSpacing(outlineOf(corners, smooth));
  const soft: Omit<SoftSurface, 'mover'> = {
    ...NEW_SOFT,
    ...{
      id: crypto.randomUUID(),
      name,
      colour: nextColour(document),
      frame,
      spacing,
    },
    shapes: [{ kind: 'focus', smooth, keys: [{ frame, shape: pairs(corners) }] }],
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
function meshed(soft: SoftSurface): MeshedTrack {
  return { mesh: meshOf(soft), track: softTrackOf(shotState(), soft.id) };
}

/** Takes an edited mesh over, with what was measured of it. */
function take(soft: SoftSurface, { mesh, track }: MeshedTrack, more: Partial<SoftSurface> = {}): void {
  const stored = storedMesh(mesh);
  const told = { ...more, ...stored };
  edit((s) =>
    changeSoft(s, soft.id, told, ownSample({ frame: soft.frame, vertices: stored.vertices }, track)),
  );
  setBench({ points: [] });
}

/** Makes the mesh anew, of other points; what was measured is told of these. */
export async function remesh(
  id: string,
  change: {
    readonly spacing?: number;
    readonly fit?: 'even' | 'texture';
    readonly shapes?: readonly SurfaceShape[];
  },
): Promise<void> {
  const soft = softById(shotDocument(), id);
  if (!soft) return;
  const { spacing, fit, shapes } = { ...soft, ...change };
  const outlines = (kind: SurfaceShape['kind']) =>
    shapes.filter((s) => s.kind === kind).map((s) => outlineOf(cornersAt(s, soft.frame), s.smooth));
  const plan = { outline: outlines('focus')[0], holes: outlines('ignore'), spacing, fit };
  try {
    const mesh =
      fit === 'texture' && byTexture ? await byTexture(soft.frame, plan) : makeMesh({ ...plan, fit: 'even' });
    const from = meshed(soft);
    take(soft, { mesh, track: carriedOver(from, mesh.vertices) }, { spacing, fit, shapes });
  } catch (error) {
    if (!(error instanceof LurnError) && !(error instanceof Error)) throw error;
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

/** Places of every vertex on a frame, those that are not known with the others; null where it is not known there. */
export function placesShown(soft: SoftSurface, frame: number): Point[] | null {
  const sample = softAt(softTrackOf(shotState(), soft.id), frame);
  if (!sample) return frame === soft.frame ? [...meshOf(soft).vertices] : null;
  return filledPlaces(softShape(soft, EMPTY_SOFT_TRACK).mesh.vertices, sample.vertices);
}

/** What of a vertex's neighbours moves with it: less the farther they are, in pixels. */
function shareAt(distance: number, brush: number): number {
  if (brush <= 0) return distance === 0 ? 1 : 0;
  const t = distance / brush;
  return t >= 1 ? 0 : (1 - t * t) ** 2;
}

/**
 * Moves a vertex, and by a soft brush those about it. On its own frame the mesh itself changes; on another they are
 * pinned. What would turn a face over is refused.
 *
 * @returns why it was refused; null where it was not
 */
export function moveVertex(id: string, index: number, frame: number, to: Point): string | null {
  const soft = softById(shotDocument(), id);
  const places = soft && placesShown(soft, frame);
  if (!soft || !places) return 'It is not known on this frame.';
  const { meshBrush } = bench();
  const from = places[index];
  const [dx, dy] = [to.x - from.x, to.y - from.y];
  const shares = places.map((p) => shareAt(Math.hypot(p.x - from.x, p.y - from.y), meshBrush));
  const moved = places.map((p, i) => ({ x: p.x + shares[i] * dx, y: p.y + shares[i] * dy }));
  const mesh = meshOf(soft);
  if (turnedOver(mesh, places, moved).length > 0)
    return 'There it would turn a part of the mesh over. Move its neighbours first, or take it out.';
  if (frame === soft.frame) {
    // The point is on another place of the cloth now: elsewhere it is where that went.
    take(soft, { mesh: { ...mesh, vertices: moved }, track: carriedOver(meshed(soft), moved) });
    return null;
  }
  const sample = softAt(softTrackOf(shotState(), id), frame);
  const vertices = places.map((_, i): SoftVertex | null =>
    shares[i] > 0 ? { ...moved[i], confidence: 1, state: 'pinned' } : (sample?.vertices[i] ?? null),
  );
  edit((s) =>
    setMeasured(s, {
      [id]: withSoftSamples(softTrackOf(s, id), [softSample(frame, vertices, sample?.held)]),
    }),
  );
  return null;
}

/** Lets go of the pins of chosen vertices on a frame: they are as tracked as the others there. */
export function unpin(id: string, frame: number, chosen: readonly number[]): void {
  edit((s) => {
    const track = softTrackOf(s, id);
    const sample = softAt(track, frame);
    if (!sample) return s;
    const vertices = sample.vertices.map((v, i) =>
      v?.state === 'pinned' && (chosen.length === 0 || chosen.includes(i))
        ? { ...v, state: 'tracked' as const }
        : v,
    );
    return setMeasured(s, { [id]: withSoftSamples(track, [softSample(frame, vertices, sample.held)]) });
  });
}

/** Ends chosen vertices from a frame on, or up to one: they are not shown there, and go with their neighbours. */
export function endVertices(id: string, chosen: readonly number[], from: number, to: number): void {
  if (chosen.length === 0) return;
  edit((s) => {
    let track = softTrackOf(s, id);
    const samples = [];
    for (let f = from; f <= to; f++) {
      const sample = softAt(track, f);
      if (!sample) continue;
      const vertices = sample.vertices.map((v, i) => (chosen.includes(i) ? null : v));
      samples.push(softSample(f, vertices, sample.held));
    }
    track = withSoftSamples(track, samples);
    return setMeasured(s, { [id]: track });
  });
}

/** One more point where it is pressed, on its own frame. */
export function addVertex(at: Point): void {
  const soft = onOwnFrame();
  if (!soft) return;
  const more = withVertex(meshed(soft), at);
  if (more && more.mesh.vertices.length <= LIMITS.vertices) take(soft, more);
}

/** Takes the chosen points out of the mesh. @returns false where none is chosen */
export function deleteVertices(): boolean {
  const { points } = bench();
  const soft = selectedSoft();
  if (!soft || points.length === 0) return false;
  const less = withoutVertices(meshed(soft), new Set(points));
  if (less.mesh.vertices.length < 4) toast.warning('A mesh has four points at the least.', { id: 'mesh' });
  else take(soft, less);
  return true;
}

/** Puts an edge between the two chosen points, or takes it away where there is one: two triangles become one quad. */
export function joinOrPart(): void {
  const { points } = bench();
  const soft = onOwnFrame();
  if (!soft) return;
  if (points.length !== 2) {
    toast.warning('Choose two points of the mesh: an edge is put between them, or taken away.', {
      id: 'mesh',
    });
    return;
  }
  const [a, b] = points;
  const from = meshed(soft);
  const next = withoutMeshEdge(from, a, b) ?? withMeshEdge(from, a, b);
  if (next) {
    take(soft, next);
    // They stay chosen: the same key takes it back.
    if (next.mesh.vertices.length === from.mesh.vertices.length) setBench({ points });
  } else
    toast.warning('No edge can go there: its way is not free, or the faces beside it make no quad.', {
      id: 'mesh',
    });
}

/** Cuts the mesh along a line, on its own frame. */
export function cutMesh(a: Point, b: Point): void {
  const soft = onOwnFrame();
  if (!soft) return;
  const cut = cutAlong(meshed(soft), a, b);
  if (cut.mesh.faces.length === 0) toast.warning('Nothing of the mesh would be left.', { id: 'mesh' });
  else take(soft, cut);
}

function onOwnFrame(): SoftSurface | undefined {
  const soft = selectedSoft();
  if (!soft) toast.warning('Select a soft surface first.', { id: 'mesh' });
  else if (bench().frame !== soft.frame) {
    toast.warning(`The mesh is changed on its own frame, ${soft.frame}.`, { id: 'mesh' });
    return undefined;
  }
  return soft;
}

/** The points that lie in a box on a frame become the chosen ones. */
export function choosePoints(
  frame: number,
  [x0, y0, x1, y1]: readonly [number, number, number, number],
): void {
  const soft = selectedSoft();
  const places = soft && placesShown(soft, frame);
  if (!places) return;
  const inside = (p: Point) => p.x >= x0 && p.x <= x1 && p.y >= y0 && p.y <= y1;
  setBench({ points: places.flatMap((p, i) => (inside(p) ? [i] : [])) });
}

/** The soft surfaces that tracking from the present frame follows: those known here, or of them the selected. */
export function softToFollow(): SoftSurface[] {
  const { selected, onlySelected, frame } = bench();
  const state = shotState();
  const here = softOf(state.document).filter(
    (s) => s.frame === frame || hasSample(softTrackOf(state, s.id), frame),
  );
  return onlySelected ? here.filter((s) => selected.includes(s.id)) : here;
}

/** The border of a mesh on a frame, as an outline of no more corners than one may have; null where it is not known. */
export function borderShown(soft: SoftSurface, frame: number): Point[] | null {
  const places = placesShown(soft, frame);
  const [border] = bordersOf(soft.faces).sort((a, b) => b.length - a.length);
  if (!places || !border) return null;
  const every = Math.ceil(border.length / LIMITS.corners);
  return border.filter((_, i) => i % every === 0).map((v) => places[v]);
}

/** Lays a soft surface to a rectangle about its outline, or as it lies on the reference frame. */
export function layTo(id: string, how: 'frame' | 'ahead' | 'straight'): void {
  const soft = softById(shotDocument(), id);
  if (!soft) return;
  if (how === 'frame') {
    edit((s) => changeSoft(s, id, { laid: undefined }));
    return;
  }
  const corners = soft.laid?.corners ?? pairs(cornersOf(soft));
  lay(soft, { corners, straight: how === 'straight' }, true);
}

/** Moves a corner of the rectangle that a soft surface is laid to. @returns why it was refused; null where it was not */
export function moveLaidCorner(id: string, index: number, to: Point): string | null {
  const soft = softById(shotDocument(), id);
  if (!soft?.laid) return null;
  const corners = soft.laid.corners.map((c, i) => (i === index ? pairs([to])[0] : c));
  return lay(soft, { ...soft.laid, corners }, false);
}

function lay(soft: SoftSurface, laid: LaidTo, aloud: boolean): string | null {
  const fault = faultOfLaying(meshOf(soft), laid);
  if (fault) {
    if (aloud) toast.warning(fault, { id: 'mesh' });
    return fault;
  }
  edit((s) => changeSoft(s, soft.id, { laid }));
  return null;
}

/** The points of the border that are farthest towards the four corners of the picture, clockwise from the top left. */
function cornersOf(soft: SoftSurface): Point[] {
  const { vertices } = meshOf(soft);
  const [border = []] = bordersOf(soft.faces).sort((a, b) => b.length - a.length);
  return [
    [-1, -1],
    [1, -1],
    [1, 1],
    [-1, 1],
  ].map(([x, y]) => {
    const far = (v: number) => x * vertices[v].x + y * vertices[v].y;
    return vertices[border.reduce((best, v) => (far(v) > far(best) ? v : best), border[0])];
  });
}
