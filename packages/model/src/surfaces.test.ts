import { rectangle } from '@lurn/core/geometry';
import { EMPTY_SURFACE_TRACK, withSurfaceSamples } from '@lurn/core/track';
import { addSurface, changeSurface, nextSurfaceName, removeTrackers, holdMover } from './edits.js';
import { fittedTo, newDocument, type ShotState } from './document.js';
import { parseDocument } from './parse.js';
import { surfaceById, surfacesOf, surfaceTrackOf } from './trackers/kinds/find.js';
import { shotRequest } from './request.js';
import { NEW_SURFACE, quadOf, storedQuad, surfaceToTrack, type Surface } from './trackers/index.js';
import type { ClipInfo } from './clip.js';

const CLIP = { width: 640, height: 360, frames: 20 };
const base = rectangle(100, 80, 300, 200);
const shape = base.map(({ x, y }) => [x, y] as const);
const drawn: Omit<Surface, 'mover'> = {
  ...NEW_SURFACE,
  ...{ id: 's', name: 'Surface 1', colour: 0, frame: 4, base: storedQuad(base), quad: storedQuad(base) },
  shapes: [{ kind: 'focus', smooth: false, keys: [{ frame: 4, shape }] }],
};
const track = withSurfaceSamples(EMPTY_SURFACE_TRACK, [
  { frame: 4, corners: base, confidence: 1, state: 'pinned' },
]);
const empty: ShotState = { document: newDocument(CLIP), measured: {} };
const shot = addSurface(empty, drawn, track);

describe('a surface in the document', () => {
  it('is a mover of its own, which has its name as long as nobody says otherwise', () => {
    const { movers } = shot.document;
    const surface = surfaceById(shot.document, 's')!;
    expect(movers.find((m) => m.id === surface.mover)!.name).toBe('Surface 1');
    expect(nextSurfaceName(shot.document)).toBe('Surface 2');
    const named = changeSurface(shot, 's', { name: 'door' });
    expect(named.document.movers.map((m) => m.name)).toContain('door');
  });

  it('goes with its mover, which is not held any more', () => {
    const held = holdMover(shot, surfaceById(shot.document, 's')!.mover);
    expect(held.document.held).not.toBeNull();
    const gone = removeTrackers(held, ['s']);
    expect(gone.document).toMatchObject({ held: null, trackers: [] });
    expect(gone.document.movers).toHaveLength(1);
  });

  it('passes the checks, and comes back as it was', () => {
    const plain = JSON.parse(JSON.stringify(shot.document)) as unknown;
    expect(surfacesOf(parseDocument(plain, CLIP))[0]).toMatchObject(drawn);
  });

  it.each([
    [{ frame: 20 }, /trackers\[0\]\.frame must be a number from 0 to 19/],
    [{ shapes: [] }, /trackers\[0\]\.shapes has no outline of what belongs to it/],
    [{ quad: [...storedQuad(base)].reverse() }, /quad is turned over/],
    [{ base: storedQuad(base).slice(1) }, /base must be four corners/],
    [{ allow: 'bend' }, /allow must be one of/],
    [{ behind: [''] }, /behind must be at most/],
    [{ grid: [0, 4] }, /grid must be two whole numbers/],
    [
      { shapes: [{ kind: 'focus', smooth: false, keys: [{ frame: 25, shape }] }] },
      /shapes\[0\]\.keys\[0\]\.frame must be a number/,
    ],
  ])('is refused with what is wrong (%#)', (change, message) => {
    const bad = changeSurface(shot, 's', change as never).document;
    expect(() => parseDocument(JSON.parse(JSON.stringify(bad)), CLIP)).toThrow(message);
  });

  it('is left out of a clip that turned out to end before it', () => {
    expect(fittedTo(shot.document, 10).trackers).toHaveLength(1);
    expect(fittedTo(shot.document, 4).trackers).toHaveLength(0);
  });

  it('tells the motion where it is held, and is ready to be tracked', () => {
    const info = { ...CLIP, fps: 25, pixelAspect: 1 } as ClipInfo;
    expect(shotRequest(shot, info).surfaces).toEqual([]);
    const held = holdMover(shot, surfaceById(shot.document, 's')!.mover);
    expect(shotRequest(held, info).surfaces).toEqual([
      { id: 's', base, quad: base, perspective: true, track },
    ]);
    const ready = surfaceToTrack(surfacesOf(shot.document)[0], surfaceTrackOf(shot, 's'));
    expect(ready).toMatchObject({ base, frame: 4, settings: { allow: 'perspective', lowMatch: 'coast' } });
    expect(surfaceTrackOf(shot, 'other')).toBe(EMPTY_SURFACE_TRACK);
    expect(storedQuad(quadOf(drawn.quad))).toEqual(drawn.quad);
  });
});
