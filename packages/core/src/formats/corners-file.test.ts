import { moveQuad, rectangle } from '../geometry/homography.js';
import { translation } from '../geometry/matrix.js';
import { EMPTY_SURFACE_TRACK, withSurfaceSamples } from '../surface/surface-track.js';
import { packColumns, unpackColumns } from './packed.js';
import { fromJson, toJson } from './columns.js';
import { writeCorners } from './corners-file.js';

const base = rectangle(10, 20, 110, 80);
const track = withSurfaceSamples(
  EMPTY_SURFACE_TRACK,
  [3, 4].map((frame) => ({
    ...{ frame, corners: moveQuad(translation(frame, -1), base), confidence: 0.9, held: 0.5 },
    state: 'tracked' as const,
  })),
);

it('corners are those of the quad, one row a sample', () => {
  const quad = rectangle(0, 0, 50, 40);
  const text = writeCorners([{ name: 'door, left', base, quad, track }], [0, 0.04, 0.08, 0.12, 0.16]);
  expect(text.split('\n')).toEqual([
    'surface,frame,time_s,x1_px,y1_px,x2_px,y2_px,x3_px,y3_px,x4_px,y4_px,confidence,state',
    '"door, left",3,0.120000,3.0000,-1.0000,53.0000,-1.0000,53.0000,39.0000,3.0000,39.0000,0.900,tracked',
    '"door, left",4,0.160000,4.0000,-1.0000,54.0000,-1.0000,54.0000,39.0000,4.0000,39.0000,0.900,tracked',
    '',
  ]);
});

it('a surface comes back from packed columns and from JSON as it was', () => {
  expect(unpackColumns(packColumns(track))).toEqual(track);
  expect(fromJson(toJson(track))).toEqual(track);
});
