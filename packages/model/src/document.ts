import type {
  AcceptedDoubt,
  Allow,
  Channel,
  DoubtReason,
  Easing,
  EdgeMode,
  Eye,
  FramingRequest,
  Goal,
  GoalSettings,
  Join,
  LowMatch,
  Refresh,
  Role,
  SpotSettings,
  SteadyRequest,
  Track,
} from '@lurn/core';
import type { ClipInfo } from './clip.js';

/** Everything about a shot that the editor decides; what is measured lies beside it in the tracks. */
export interface ShotDocument {
  readonly version: 3;
  readonly spots: readonly Spot[];
  /** Doubts that the editor has looked at and found to be fine. */
  readonly accepted: readonly AcceptedDoubt[];
  /** In and out point: first and last frame, both included. */
  readonly range: { readonly from: number; readonly to: number };
  /** The reference frame: it stays as it was shot. */
  readonly ref: number;
  readonly goal: GoalSettings;
  readonly framing: FramingRequest;
  /** What is shown beyond the picture. */
  readonly edges: Edges;
  /** Constant rate factor of the rendered file. */
  readonly crf: number;
}

export interface Edges {
  readonly mode: EdgeMode;
  /** `#rrggbb`: the colour, and what stands where nothing can be borrowed. */
  readonly colour: string;
}

export interface Spot {
  readonly id: string;
  readonly name: string;
  /** Index into the set of data colours. */
  readonly colour: number;
  readonly patch: readonly [number, number];
  readonly reach: readonly [number, number];
  readonly minConfidence: number;
  /** Spots of one group are on the same thing: they predict and check each other. */
  readonly group: string;
  /** How the tracker sees the picture. */
  readonly eye: Eye;
  readonly allow: Allow;
  readonly refresh: Refresh;
  readonly lowMatch: LowMatch;
  /** Where the path carries on with another feature, in order of frames. */
  readonly joins: readonly Join[];
  /** What the spot is asked about: position, rotation and scale (`turn`), or both. */
  readonly role: Role;
  /** False leaves the spot out of the solve. */
  readonly used: boolean;
}

/** A document with its tracks, by the spots' ids: what undo goes back through and what is saved. */
export interface ShotState {
  readonly document: ShotDocument;
  readonly tracks: Readonly<Record<string, Track>>;
}

/** The facts of a clip that a document has to agree with. */
export interface ClipBounds {
  readonly width: number;
  readonly height: number;
  readonly frames: number;
}

export const DATA_COLOURS = 8;
export const LIMITS = {
  spots: 500,
  nameLength: 60,
  accepted: 5000,
  joins: 200,
  soften: [0, 6],
  detail: [0, 10],
  localContrast: [0, 1],
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
  crf: [0, 40],
} as const;

/** What may be chosen, in the order in which it is offered. */
export const CHOICES = {
  channel: ['luma', 'red', 'green', 'blue', 'saturation'] as const satisfies readonly Channel[],
  allow: ['shift', 'similarity', 'affine'] as const satisfies readonly Allow[],
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
};

/** How the tracker follows a spot. */
export function settingsOf(spot: Spot): SpotSettings {
  const { patch, reach, eye, allow, refresh, lowMatch, minConfidence } = spot;
  return { patch, reach, eye, allow, refresh, lowMatch, minConfidence };
}

/** What a new spot does until told otherwise. */
export const NEW_SPOT = {
  group: '',
  eye: { channel: 'luma', soften: 0, detail: 0, localContrast: 0 },
  allow: 'similarity',
  refresh: 'auto',
  lowMatch: 'coast',
  joins: [],
  role: 'both',
  used: true,
} as const satisfies Partial<Spot>;

/** What a new shot is steadied towards until told otherwise. */
export const NEW_GOAL: GoalSettings = {
  goal: 'still',
  amounts: { x: 1, y: 1, rotation: 1, scale: 1 },
  pose: 'frame',
  calm: { method: 'gaussian', smoothing: { x: 1, y: 1, rotation: 1, scale: 1 }, maxZoom: 1.15 },
  lock: { place: 'reference', x: 0, y: 0, tolerance: 0, easeIn: 0, easeOut: 0 },
  keys: [],
};

export const NEW_FRAMING: FramingRequest = {
  mode: 'fit',
  zoom: 1,
  rate: 0.05,
  shiftX: 0,
  shiftY: 0,
  delivery: null,
};

export const NEW_EDGES: Edges = { mode: 'colour', colour: '#000000' };

/** The spots that are solved from: used, and with a track. */
export function solvedSpots({ document, tracks }: ShotState): Spot[] {
  return document.spots.filter((s) => s.used && tracks[s.id]);
}

/** What the core is asked for by a shot. */
export function steadyRequest(state: ShotState, info: ClipInfo): SteadyRequest {
  const { range, ref, goal, framing } = state.document;
  const spots = solvedSpots(state);
  return {
    size: { width: info.width, height: info.height },
    frames: info.frames,
    pixelAspect: info.pixelAspect,
    fps: info.fps,
    tracks: spots.map((s) => state.tracks[s.id]),
    names: spots.map((s) => s.name),
    groups: spots.map((s) => s.group),
    roles: spots.map((s) => s.role),
    ref,
    ...range,
    goal,
    framing,
  };
}

export function newDocument(clip: ClipBounds): ShotDocument {
  return {
    version: 3,
    spots: [],
    accepted: [],
    range: { from: 0, to: clip.frames - 1 },
    ref: 0,
    goal: NEW_GOAL,
    framing: NEW_FRAMING,
    edges: NEW_EDGES,
    crf: 18,
  };
}
