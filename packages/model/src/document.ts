import type { Track } from '@lurn/core';

/** Everything about a shot that the editor decides; what is measured lies beside it in the tracks. */
export interface ShotDocument {
  readonly version: 1;
  readonly spots: readonly Spot[];
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
  patch: [3, 500],
  reach: [1, 1000],
  zoom: [0.2, 10],
  crf: [0, 40],
} as const;

export function newDocument(clip: ClipBounds): ShotDocument {
  return {
    version: 1,
    spots: [],
    range: { from: 0, to: clip.frames - 1 },
    ref: 0,
    goal: 'still',
    use: { x: true, y: true, rotation: true, scale: true },
    framing: { mode: 'fit', zoom: 1, shiftX: 0, shiftY: 0 },
    crf: 18,
  };
}
