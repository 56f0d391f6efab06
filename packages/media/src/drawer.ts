import type { Matrix3, Warp } from '@lurn/core/geometry';
import type { Rgb } from '@lurn/core/picture';
import type { EdgeMode } from '@lurn/core/warp';
import type { Picture } from './picture.js';

/** One pane of the canvas, in device pixels from its top left corner, and what is drawn in it. */
export interface Pane {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
  /** Pane pixels to the pixels of the frame that is shown (the source's, or the output's). */
  readonly toFrame: Matrix3;
  readonly frameSize: readonly [number, number];
  /** Pane pixels to luma samples of the coded picture. */
  readonly toLuma: Warp;
  readonly quality: 'cubic' | 'linear' | 'nearest';
  /** What lies outside the picture: black when left out. */
  readonly edges?: PaneEdges;
}

export interface PaneEdges {
  readonly mode: EdgeMode;
  /** Luma and chroma outside the picture, 0 to 255. */
  readonly colour: Rgb;
  /** Other frames' pictures that lie under this one, the nearest first. */
  readonly donors: readonly DonorSheet[];
}

export interface DonorSheet {
  readonly picture: Picture;
  /** Pane pixels to luma samples of the donor. */
  readonly toLuma: Warp;
  /** What is added to its luma and chroma, in grey levels, to match the frame. */
  readonly offset: Rgb;
}

/** How a picture is laid over what a pane shows already. */
export type Laying = 'over' | 'half' | 'half negative';

/** Draws planar pictures into the panes of a canvas. */
export interface Drawer {
  /** Grey of what surrounds the frame, 0 to 1. */
  ground: number;
  /** Makes the whole canvas ground. */
  clear(): void;
  /** Draws a picture into a pane, and beyond its edges what the pane asks for. */
  drawPane(picture: Picture, pane: Pane, laying?: Laying): void;
  /** Returns when all that was drawn is there to be seen. */
  finish(): void;
}
