import type {
  Allow,
  AreaKind,
  Channel,
  DoubtReason,
  Easing,
  EdgeMode,
  FramingRequest,
  Goal,
  GoalSettings,
  LowMatch,
  Refresh,
  Role,
  SurfaceAllow,
} from '@lurn/core';

/** How many, how large, how far: the same wherever something is said, from the API to the command line. */
export const LIMITS = {
  trackers: 500,
  movers: 200,
  deliveries: 50,
  nameLength: 60,
  idLength: 40,
  accepted: 5000,
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
  /** Outlines of a surface. */
  shapes: 50,
  /** Cells of a grid, across or down. */
  grid: [1, 64],
  crf: [0, 40],
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
  ] as const satisfies readonly DoubtReason[],
  picture: ['steadied'] as const,
  area: ['ignore', 'focus'] as const satisfies readonly AreaKind[],
};
