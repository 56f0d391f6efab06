import type {
  AcceptedDoubt,
  Allow,
  Channel,
  DoubtReason,
  Eye,
  Join,
  LowMatch,
  Refresh,
  SpotSettings,
  Track,
} from '@lurn/core';

/** Everything about a shot that the editor decides; what is measured lies beside it in the tracks. */
export interface ShotDocument {
  readonly version: 2;
  readonly spots: readonly Spot[];
  /** Doubts that the editor has looked at and found to be fine. */
  readonly accepted: readonly AcceptedDoubt[];
  /** In and out point: first and last frame, both included. */
  readonly range: { readonly from: number; readonly to: number };
  /** The reference frame: it stays as it was shot. */
  readonly ref: number;
  readonly goal: 'still';
  /** Which components of the motion are taken out. */
  readonly use: {
    readonly x: boolean;
    readonly y: boolean;
    readonly rotation: boolean;
    readonly scale: boolean;
  };
  readonly framing: {
    readonly mode: 'fit' | 'hand';
    readonly zoom: number;
    readonly shiftX: number;
    readonly shiftY: number;
  };
  /** Constant rate factor of the rendered file. */
  readonly crf: number;
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
  crf: [0, 40],
} as const;

/** What may be chosen, in the order in which it is offered. */
export const CHOICES = {
  channel: ['luma', 'red', 'green', 'blue', 'saturation'] as const satisfies readonly Channel[],
  allow: ['shift', 'similarity', 'affine'] as const satisfies readonly Allow[],
  refresh: ['never', 'auto', 'always'] as const satisfies readonly Refresh[],
  lowMatch: ['coast', 'stop', 'carryOn'] as const satisfies readonly LowMatch[],
  doubt: [
    'disagrees',
    'jump',
    'passes-disagree',
    'weak-match',
    'coasted',
    'near-edge',
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
  used: true,
} as const satisfies Partial<Spot>;

export function newDocument(clip: ClipBounds): ShotDocument {
  return {
    version: 2,
    spots: [],
    accepted: [],
    range: { from: 0, to: clip.frames - 1 },
    ref: 0,
    goal: 'still',
    use: { x: true, y: true, rotation: true, scale: true },
    framing: { mode: 'fit', zoom: 1, shiftX: 0, shiftY: 0 },
    crf: 18,
  };
}
