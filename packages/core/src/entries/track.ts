/** Trackers: spots, flat and soft surfaces - their samples, following them, and mending what was measured. */

export {
  countSamples,
  emptyMeasured,
  hasSample,
  type Measured,
  measuredEnd,
  type MeasuredKind,
  type SampleState,
  withoutSamples,
} from '../track/measured.js';
export {
  EMPTY_TRACK,
  type FramedSample,
  nearestPin,
  pinFrames,
  sampleAt,
  samplesOf,
  type Track,
  withSamples,
} from '../track/track.js';
export { type Allow, smallestEigenvalue } from '../track/alignment.js';
export { type LowMatch, type Refresh, type SpotSettings, SpotTracker } from '../track/spot-tracker.js';
export { type Evidence, featuresOf } from '../track/confidence.js';
export { type Join, joinOn, patchPlace } from '../track/joins.js';
export {
  gradeOf,
  type Grip,
  gripMap,
  type GripMap,
  readGrip,
  type Suggestion,
  type SuggestRequest,
  suggestSpots,
} from '../track/grip.js';
export { bridge, tame } from '../track/repair.js';
export {
  type Between,
  foldSteps,
  type FollowRequest,
  type FollowStep,
  type MeasuredStep,
  type SampleOf,
  type ToTrack,
} from '../trackers/tracker-kind.js';
export { trackerKind } from '../trackers/tracker-kinds.js';
export { mismatches, trackBetween } from '../track/between-pins.js';
export { SEARCH_LEVELS } from '../track/template.js';
export { defaultSettings } from '../track/default-settings.js';
export type { FrameSource } from '../track/frame-run.js';
export { closedBy, type SpotToTrack, trackSpots } from '../track/track-spots.js';
export {
  EMPTY_SURFACE_TRACK,
  farthestApart,
  quadOn,
  surfaceAt,
  surfaceMotion,
  type SurfaceSample,
  surfaceSamples,
  type SurfaceTrack,
  withSurfaceSamples,
} from '../surface/surface-track.js';
export type { SurfaceAllow } from '../surface/surface-aligner.js';
export type { SurfaceSettings } from '../surface/surface-tracker.js';
export { type SurfaceToTrack, trackSurfaces } from '../surface/track-surfaces.js';
export {
  EMPTY_SOFT_TRACK,
  endedOn,
  softAt,
  softSample,
  type SoftSample,
  type SoftTrack,
  type SoftVertex,
  withSoftSamples,
} from '../soft/soft-track.js';
export type { SoftSettings } from '../soft/soft-tracker.js';
export { type SoftToTrack, trackSoft } from '../soft/track-soft.js';
export { makeMesh, type MeshPlan } from '../soft/mesh-making.js';
export {
  carriedOver,
  cutAlong,
  type MeshedTrack,
  turnedOver,
  withMeshEdge,
  withoutMeshEdge,
  withoutVertices,
  withVertex,
} from '../soft/soft-edits.js';
export { FEWEST_TRACKS, meshFromTracks, placeOfTrack } from '../soft/from-tracks.js';
export { meshOfPoints } from '../soft/mesh-of-points.js';
export { leadsBy, type LeadsOn, nearestGroup } from '../soft/leads.js';
export { bridgeMesh, gapOfMesh } from '../soft/soft-bridge.js';
export { type FlatShape, laidFlat } from '../soft/laid-flat.js';
export { type SoftShape, softWarp, unbent } from '../soft/soft-warps.js';
