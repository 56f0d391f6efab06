export { kernelsMissing } from '@lurn/kernels';
export { type AbortSignalLike, fromWire, LurnError, stoppedError, toWire, type WireError } from './errors.js';
export type { Steps } from './steps.js';
export {
  createPlane,
  deepPlaneOver,
  type Plane,
  planeOver,
  type QuarterTurns,
  type Samples,
  turnPlane,
} from './picture/plane.js';
export type { ChromaSiting, Subsampling } from './picture/subsampling.js';
export {
  type ColourCode,
  colourInPlanes,
  lumaWeights,
  parseColour,
  PlaneCoding,
  spaceNamed,
} from './picture/colour.js';
export { type Channel, channelPlane, type ColourPlanes } from './picture/channel.js';
export { type Eye, filterEye, PLAIN_EYE } from './picture/eye.js';
export { measureNoise } from './picture/noise.js';
export { boxMean } from './picture/guided-filter.js';
export { halvedPlane, Pyramid } from './picture/pyramid.js';
export {
  apply,
  chain,
  IDENTITY,
  invert,
  type Matrix3,
  multiply,
  type Point,
  scaling,
  translation,
} from './geometry/matrix.js';
export { composeSimilarity, decomposeSimilarity, type SimilarityParts } from './geometry/similarity.js';
export { isClockwise, isFacing, moveQuad, type Quad, quadToQuad, rectangle } from './geometry/homography.js';
export { faultOfOutline, faultOfQuad, quadRound } from './geometry/shape.js';
export { bordersOf, edgesOf, type Mesh, MOST_MESH_VERTICES, twiceArea } from './geometry/mesh.js';
export {
  after,
  before,
  between,
  drawnWarp,
  evaluatorOf,
  evenMatrix,
  matrixWarp,
  meshOver,
  type MeshWarp,
  NOWHERE,
  scaleRange,
  type Warp,
} from './geometry/warp.js';
export { codedToUpright } from './geometry/turning.js';
export { type Area, type AreaKey, type AreaKind, cornersAt, isInside, outlineOf } from './geometry/area.js';
export { simplified } from './geometry/simplify.js';
export { type Likeness, type Region, regionAbout } from './geometry/region.js';
export { smoothGaussian } from './smooth/gaussian.js';
export {
  countSamples,
  emptyMeasured,
  hasSample,
  type Measured,
  measuredEnd,
  type MeasuredKind,
  type SampleState,
  withoutSamples,
} from './track/measured.js';
export {
  EMPTY_TRACK,
  type FramedSample,
  nearestPin,
  pinFrames,
  sampleAt,
  samplesOf,
  type Track,
  withSamples,
} from './track/track.js';
export { type Allow, smallestEigenvalue } from './track/alignment.js';
export { type LowMatch, type Refresh, type SpotSettings, SpotTracker } from './track/spot-tracker.js';
export { type Evidence, featuresOf } from './track/confidence.js';
export { type Join, joinOn, patchPlace } from './track/joins.js';
export {
  gradeOf,
  type Grip,
  gripMap,
  type GripMap,
  readGrip,
  type Suggestion,
  type SuggestRequest,
  suggestSpots,
} from './track/grip.js';
export { bridge, tame } from './track/repair.js';
export {
  type Between,
  foldSteps,
  type FollowRequest,
  type FollowStep,
  type MeasuredStep,
  type SampleOf,
  type ToTrack,
} from './trackers/tracker-kind.js';
export { trackerKind } from './trackers/tracker-kinds.js';
export { mismatches, trackBetween } from './track/between-pins.js';
export { SEARCH_LEVELS } from './track/template.js';
export { defaultSettings } from './track/default-settings.js';
export type { FrameSource } from './track/frame-run.js';
export { closedBy, type SpotToTrack, trackSpots } from './track/track-spots.js';
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
} from './surface/surface-track.js';
export type { SurfaceAllow } from './surface/surface-aligner.js';
export type { SurfaceSettings } from './surface/surface-tracker.js';
export { type SurfaceToTrack, trackSurfaces } from './surface/track-surfaces.js';
export {
  EMPTY_SOFT_TRACK,
  endedOn,
  softAt,
  softSample,
  type SoftSample,
  type SoftTrack,
  type SoftVertex,
  withSoftSamples,
} from './soft/soft-track.js';
export type { SoftSettings } from './soft/soft-tracker.js';
export { type SoftToTrack, trackSoft } from './soft/track-soft.js';
export { makeMesh, type MeshPlan } from './soft/mesh-making.js';
export {
  carriedOver,
  cutAlong,
  type MeshedTrack,
  turnedOver,
  withMeshEdge,
  withoutMeshEdge,
  withoutVertices,
  withVertex,
} from './soft/soft-edits.js';
export { FEWEST_TRACKS, meshFromTracks, placeOfTrack } from './soft/from-tracks.js';
export { meshOfPoints } from './soft/mesh-of-points.js';
export { leadsBy, type LeadsOn, nearestGroup } from './soft/leads.js';
export { bridgeMesh, gapOfMesh } from './soft/soft-bridge.js';
export { type FlatShape, laidFlat } from './soft/laid-flat.js';
export { type SoftShape, softWarp, unbent } from './soft/soft-warps.js';
export type { SolveSoft } from './solve/soft/soft-motion.js';
export { filledPlaces } from './geometry/mesh-field.js';
export { candidatesOf, reasonsFor } from './scene/candidates.js';
export { SceneTracker } from './scene/scene-tracker.js';
export type { SceneMover } from './scene/movers.js';
export type { Fade } from './scene/fades.js';
export { gathered, sampleIndex } from './scene/scene-tracks.js';
export { motionMatrix, type Role } from './solve/motion.js';
export { openTracks, placedAreas, type RidingArea } from './solve/areas.js';
export { type Regroup, regrouped } from './solve/regroup.js';
export { solveMotion } from './solve/solve-motion.js';
export { cutAtEdges } from './plan/cut-at-edges.js';
export { perspectiveOfMover } from './solve/perspective.js';
export { analyse, type AnalysedScene } from './solve/analysed.js';
export {
  fineMask,
  framesForMasks,
  halvingsForMasks,
  moverMasks,
  moverOn,
  type MoverMasks,
} from './solve/mover-masks.js';
export { heldMotion, type HeldMotion, ridersOf } from './plan/held-motion.js';
export { firstGoal, type FirstGoal } from './plan/first-goal.js';
export { asShotFrom, deliveredFrom, steadiedPlace } from './plan/plan-to-source.js';
export { nothingToHold } from './plan/nothing-to-hold.js';
export { rehearsed } from './plan/rehearsed.js';
export { againstHeld, type AgainstHeld } from './plan/against-held.js';
export type { Size } from './framing/framing.js';
export { coverage, halvingsFor, isWide, SHRINK_FROM, warpPlane, WIDEST } from './warp/warp-plane.js';
export { type EdgeMode, fold } from './warp/edges.js';
export { borrowPlane, type Donor, donorOffset, featherOf } from './warp/borrow.js';
export { chromaToLuma, chromaWarp } from './warp/chroma.js';
export { type SurfaceLook, SurfaceLooker } from './warp/flattened.js';
export { partsRms } from './measure/shake-left.js';
export { energyAbove, spectrum } from './measure/spectrum.js';
export { gridOver, ShakinessMeter } from './measure/shakiness.js';
export { PathMeter } from './measure/path-meter.js';
export {
  type Amounts,
  type CalmSettings,
  type Easing,
  type Goal,
  type GoalKey,
  type GoalSettings,
  type LockSettings,
  stateAt,
} from './plan/goals.js';
export { goalKind } from './plan/goal-kinds.js';
export { lockPlace } from './plan/lock-goal.js';
export { pathFor } from './plan/path.js';
export {
  deliveryInSource,
  framingInSource,
  type FramingRequest,
  mostZoom,
  pictureInSource,
  type Plan,
  planFor,
  planFrom,
  type PlanRequest,
  type PlanSpot,
  planSteps,
  type ShotRequest,
  type SolveRequest,
} from './plan/plan.js';
export { type Trade, type TradePoint, tradeSteps } from './plan/trade.js';
export { notesOn } from './plan/notes.js';
export { rangeShare } from './compose/matte.js';
export type { Blend } from './compose/blend.js';
export { type ColourRange, filmKey, filmOf, innerOf, type Raster, type SceneLayer } from './compose/layer.js';
export { carry, type Ride, toFlat } from './compose/ride.js';
export type { Unknown } from './compose/rides/ride-kind.js';
export {
  keyedAt,
  type LookContent,
  type LookLayer,
  type LookMatte,
  type LookOutline,
} from './compose/look-layer.js';
export { boxOfStrokes, paintStrokes, type Stroke, type StrokeBox } from './compose/strokes.js';
export { type RasterEdge, withEdge } from './compose/raster-edge.js';
export {
  borrowFor,
  framesOf,
  framesOfLayer,
  givenBack,
  type Scene,
  type SceneLook,
  sceneOf,
  sceneThrough,
} from './compose/scene.js';
export { compose, type ComposeLook } from './compose/compose.js';
export { CleanPlate, FEWEST_FOR_PLATE, framesForPlate, plateWarp } from './compose/clean-plate.js';
export {
  type AcceptedDoubt,
  type Doubt,
  type DoubtedSpot,
  type DoubtReason,
  edgeDoubts,
  type Judgement,
  judgeSpots,
  judgeSurfaces,
  WEAK,
} from './doubt/doubts.js';
export { judgeSoft } from './doubt/soft/soft-doubts.js';
export { type DoubtGroup, groupDoubts, orderDoubts, sameDoubt } from './doubt/group-doubts.js';
export { heldDoubts } from './doubt/held-doubts.js';
export { rideDoubts } from './doubt/ride-doubts.js';
export { fromJson, type MeasuredJson, toJson } from './formats/columns.js';
export { asciiBytes, asciiJson, asciiText } from './formats/ascii.js';
export { csvSafe } from './formats/csv.js';
export { packColumns, unpackColumns } from './formats/packed.js';
export { packScene, unpackScene } from './formats/scene-file.js';
export { packRaster, unpackRaster } from './formats/raster-file.js';
export { type NamedTrack, parseTracks, writeTracks } from './formats/tracks-file.js';
export { cornerRows, type NamedSurface, writeCorners } from './formats/corners-file.js';
export {
  type ColumnMapping,
  guessMapping,
  type ImportedSpot,
  readSampleTable,
  samplesFromTable,
  type SampleTable,
} from './formats/sample-table.js';
export { writeMotion } from './formats/motion-file.js';
export { notesAsCsv, type NotesFile, readNotes } from './formats/notes-file.js';
export { MOTION_COLUMNS, motionTable } from './formats/motion-table.js';
export { type FloatPicture, readExr, writeExr } from './formats/exr.js';
export type { Pack } from './formats/packing.js';
export { lightTable } from './picture/transfer.js';
export { isHdr, type LightCode, LUMA_2020, TONE, ToneMap } from './picture/tone-map.js';
export { graphicsOutOf } from './picture/graphics-light.js';
export {
  type BroughtSurface,
  DATA_CHOICES,
  DATA_EXPORTS,
  type DataChoices,
  type DataExport,
  dataExportById,
  type DataFile,
  dataOfMeshes,
  meshesOfData,
  type NamedMesh,
  plainData,
  type DataKind,
  dataOfMovers,
  dataOfPlan,
  dataOfSurfaces,
  dataOfTracks,
  gridOfMap,
  handOver,
  inTurn,
  type MapGrid,
  matricesOf,
  meshOfMaps,
  motionFrame,
  type MovingData,
  OUR_CHOICES,
  readData,
  readMapPng,
  stMap,
  surfacesOfData,
  tableColumns,
  tableRows,
  timeCode,
  withMeshes,
  withWarps,
} from './formats/data/index.js';
export type { Rgb } from './picture/rgb.js';
export type { PicturePlanes } from './compose/picture-planes.js';
