import { MOST_MESH_VERTICES } from '@lurn/core/geometry';
import type { Blend, Unknown } from '@lurn/core/compose';
import type { DoubtReason } from '@lurn/core/doubt';
import type { AreaKind } from '@lurn/core/geometry';
import type { Channel } from '@lurn/core/picture';
import type { Easing, FramingRequest, Goal, GoalSettings } from '@lurn/core/plan';
import type { Role } from '@lurn/core/solve';
import type { Allow, LowMatch, Refresh, SurfaceAllow } from '@lurn/core/track';
import type { EdgeMode } from '@lurn/core/warp';

/** How many, how large, how far: the same wherever something is said, from the API to the command line. */
export const LIMITS = {
  trackers: 500,
  movers: 200,
  deliveries: 50,
  nameLength: 60,
  idLength: 40,
  accepted: 5000,
  notes: 5000,
  cuts: 5000,
  note: 500,
  joins: 200,
  soften: [0, 6],
  detail: [0, 10],
  localContrast: [0, 1],
  /** Half-sizes in pixels. */
  patch: [3, 500],
  reach: [1, 1000],
  zoom: [0.2, 10],
  maxZoom: [1, 4],
  smoothing: [0, 60],
  tolerance: [0, 2000],
  ease: [0, 60],
  /** A share of the size a second. */
  rate: [0.001, 2],
  /** Delivered pixels a side. */
  delivery: [16, 8192],
  keys: 1000,
  areas: 100,
  areaKeys: 5000,
  corners: 500,
  /** Points of a mesh, how far they are apart, in pixels, and how often it is subdivided. */
  /** Places that may join a soft surface. */
  joined: 200,
  vertices: MOST_MESH_VERTICES,
  spacing: [6, 400],
  subdivisions: [0, 3],
  /** How stiffly the points of a mesh hold each other, against by itself. */
  stiffness: [0.05, 20],
  /** Outlines of a surface. */
  shapes: 50,
  /** Cells of a grid, across or down. */
  grid: [1, 64],
  crf: [0, 40],
  layers: 200,
  mattes: 20,
  /** Pixels. */
  place: [-1e5, 1e5],
  grow: [-500, 500],
  fade: [0, 500],
  conceal: [1, 500],
  grain: [0, 60],
  brush: [1, 2000],
  strokes: 2000,
  strokePoints: 5000,
  text: 2000,
  assets: 200,
  assetName: 255,
  assetSide: [1, 16384],
  maskScale: [0.001, 1],
  assetBytes: 4e9,
  filmFrames: [1, 1e6],
  filmRate: [0, 1000],
  filmStep: [0.01, 100],
} as const;

/** What may be chosen, in the order in which it is offered. */
export const CHOICES = {
  channel: ['luma', 'red', 'green', 'blue', 'saturation'] as const satisfies readonly Channel[],
  allow: ['shift', 'similarity', 'affine'] as const satisfies readonly Allow[],
  surfaceAllow: [
    'shift',
    'similarity',
    'sheared',
    'affine',
    'perspective',
  ] as const satisfies readonly SurfaceAllow[],
  refresh: ['never', 'auto', 'always'] as const satisfies readonly Refresh[],
  leads: ['face'],
  lowMatch: ['coast', 'stop', 'carryOn'] as const satisfies readonly LowMatch[],
  role: ['both', 'position', 'turn'] as const satisfies readonly Role[],
  goal: ['still', 'calm', 'lock'] as const satisfies readonly Goal[],
  pose: ['frame', 'average'] as const satisfies readonly GoalSettings['pose'][],
  method: ['gaussian', 'optimal'] as const satisfies readonly GoalSettings['calm']['method'][],
  place: ['reference', 'middle', 'given'] as const satisfies readonly GoalSettings['lock']['place'][],
  easing: ['smooth', 'linear', 'hold'] as const satisfies readonly Easing[],
  zoom: ['fit', 'breathing', 'none'] as const satisfies readonly FramingRequest['mode'][],
  edges: [
    'colour',
    'stretched',
    'mirrored',
    'borrowed',
    'transparent',
  ] as const satisfies readonly EdgeMode[],
  doubt: [
    'disagrees',
    'jump',
    'passes-disagree',
    'weak-match',
    'coasted',
    'near-edge',
    'edge-shows',
    'held-unseen',
    'ride-unknown',
    'may-slip',
    'turned-over',
    'stretched',
  ] as const satisfies readonly DoubtReason[],
  picture: ['steadied', 'as-shot'] as const,
  compare: ['beside', 'above', 'wipe'] as const,
  play: ['step', 'loop', 'frozen'] as const,
  rides: ['frame', 'spot', 'mover', 'surface', 'soft'] as const,
  meshFit: ['even', 'texture'] as const,
  unknown: ['bridge', 'hold', 'fade', 'off'] as const satisfies readonly Unknown[],
  blend: ['normal', 'multiply', 'screen', 'overlay', 'softLight', 'add'] as const satisfies readonly Blend[],
  font: ['Hanken Grotesk', 'Spline Sans Mono'] as const,
  weight: [400, 500, 600, 700] as const,
  align: ['left', 'middle', 'right'] as const,
  brush: ['brush', 'clone', 'eraser'] as const,
  span: ['all', 'onwards', 'one'] as const,
  conceal: ['blur', 'squares', 'colour'] as const,
  area: ['ignore', 'focus'] as const satisfies readonly AreaKind[],
};
