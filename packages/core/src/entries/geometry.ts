/** Matrices, similarities, homographies, meshes and warps; drawn closed shapes. */

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
} from '../geometry/matrix.js';
export { composeSimilarity, decomposeSimilarity, type SimilarityParts } from '../geometry/similarity.js';
export { isClockwise, isFacing, moveQuad, type Quad, quadToQuad, rectangle } from '../geometry/homography.js';
export { faultOfOutline, faultOfQuad, quadRound } from '../geometry/shape.js';
export { bordersOf, edgesOf, type Mesh, MOST_MESH_VERTICES, twiceArea } from '../geometry/mesh.js';
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
} from '../geometry/warp.js';
export { codedToUpright } from '../geometry/turning.js';
export { type Area, type AreaKey, type AreaKind, cornersAt, isInside, outlineOf } from '../geometry/area.js';
export { simplified } from '../geometry/simplify.js';
export { type Likeness, type Region, regionAbout } from '../geometry/region.js';
export { filledPlaces } from '../geometry/mesh-field.js';
