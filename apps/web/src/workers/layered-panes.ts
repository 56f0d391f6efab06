import { Halver, type ColourCoding, type Picture } from '@lurn/media';
import { compose, framesOf, framesOfLayer, sceneThrough, type Raster, type Scene } from '@lurn/core/compose';
import {
  apply,
  between,
  invert,
  matrixWarp,
  multiply,
  scaleRange,
  scaling,
  translation,
  type Matrix3,
  type Warp,
} from '@lurn/core/geometry';
import { colourInPlanes, createPlane, halvedPlane, type ChromaSiting, type Plane } from '@lurn/core/picture';
import type { ViewPane } from './view-pane';

/** A pane's picture with its layers, and where on it the pane's pixels are. */
export interface Composed {
  readonly picture: Picture;
  readonly toLuma: Warp;
}

/** What panes are composed from. */
export interface Composing {
  readonly coding: ColourCoding & { readonly siting: ChromaSiting; readonly height: number };
  /** The frame's own picture, and how places of the clip's upright picture lie in its samples. */
  readonly picture: Picture;
  readonly fromUpright: Matrix3;
  /** Other frames' pictures, as far as they are at hand. */
  readonly peek: (frame: number) => Picture | undefined;
  readonly rasters: (key: string) => Raster | null;
  /** Quickly rather than exactly: no larger than the pane, from plain halves. */
  readonly draft: boolean;
}

/** Draws panes that have layers, by the very code that renders, about as large as they are seen. */
export class LayeredPanes {
  private composings = 0;
  private readonly quick = new Halver(48);
  private readonly exact = new WeakMap<Plane, Plane[]>();

  /**
   * A pane's scene with its layers; null where the pane does not show it.
   *
   * @param missing  receives frames that it is made of and that are not there; what needs them is left out
   */
  compose(pane: ViewPane, from: Composing, missing: Set<number>): Composed | null {
    const { scene, toScene } = pane;
    const part = partOf(pane);
    if (!part) return null;
    const { picture, fromUpright, coding, draft } = from;
    // Halved as often as the pane shrinks it, and drawn as large as what is left: that needs no wider kernel.
    const first = multiply(toScene, translation(part.left, part.top));
    const { least } = scaleRange(between(fromUpright, scene.base.toSource, first), part.width, part.height);
    const steps = Math.log2(Math.min(64, Math.max(1, least)));
    const halvings = draft ? Math.round(steps) : Math.floor(steps);
    const [width, height] = [part.width, part.height].map((side) =>
      Math.max(2, Math.round(side * finerBy(least, halvings, from))),
    );
    const toPart = scaling(part.width / width, part.height / height);
    const at = (one: Picture) => this.halved(one, halvings, draft);
    const others = new Map<number, Picture>();
    for (const frame of framesOf(scene)) {
      const lent = frame === scene.base.frame ? picture : from.peek(frame);
      if (lent) others.set(frame, at(lent));
      else missing.add(frame);
    }
    const there = scene.layers.filter((layer) => framesOfLayer(layer).every((f) => others.has(f)));
    const donors = scene.base.donors.filter((d) => others.has(d.frame));
    // What is left open shows the ground behind it here.
    const { edges } = scene.base;
    const shown = edges.mode === 'transparent' ? { ...edges, mode: 'colour' as const } : edges;
    const drawn = sceneThrough(
      { ...scene, base: { ...scene.base, donors, edges: shown }, layers: there },
      { width, height },
      multiply(first, toPart),
      multiply(scaling(1 / 2 ** halvings), fromUpright),
    );
    const own = at(picture);
    const out = blankPicture(width, height, picture.subsampling, -++this.composings);
    // While the playhead moves the picture before it may still be up: it stands in.
    compose(drawn, (frame) => (frame === scene.base.frame ? own : others.get(frame)!), out, {
      siting: coding.siting,
      fill: colourInPlanes(edges.colour, coding, coding.height),
      code: coding,
      rasters: from.rasters,
      draft,
    });
    return { picture: out, toLuma: matrixWarp(invert(multiply(translation(part.left, part.top), toPart))) };
  }

  /** A picture halved so many times; what was worked out is kept. */
  private halved(picture: Picture, times: number, draft: boolean): Picture {
    if (times === 0) return picture;
    const small = (plane: Plane) => (draft ? this.quick.halved(plane, times) : this.exactly(plane, times));
    return { ...picture, y: small(picture.y), u: small(picture.u), v: small(picture.v) };
  }

  private exactly(plane: Plane, times: number): Plane {
    let made = this.exact.get(plane);
    if (!made) this.exact.set(plane, (made = []));
    return (made[times] ??= halvedPlane(plane, times));
  }
}

/** How much larger than the pane it is drawn. */
function finerBy(least: number, halvings: number, { draft }: Composing): number {
  // A hair more, so that a zoom that differs over the picture shrinks it nowhere.
  return least > 1 && !draft ? (1.02 * least) / 2 ** halvings : 1;
}

/** The part of a pane that its scene fills, in whole pixels and one beyond; null where it is not seen. */
function partOf({
  width,
  height,
  scene,
  toScene,
}: {
  width: number;
  height: number;
  scene: Scene;
  toScene: Matrix3;
}) {
  const back = invert(toScene);
  const [a, b] = [apply(back, 0, 0), apply(back, scene.size.width, scene.size.height)];
  const [left, top] = [Math.max(0, Math.floor(a.x) - 1), Math.max(0, Math.floor(a.y) - 1)];
  const [right, bottom] = [Math.min(width, Math.ceil(b.x) + 1), Math.min(height, Math.ceil(b.y) + 1)];
  return right - left > 1 && bottom - top > 1
    ? { left, top, width: right - left, height: bottom - top }
    : null;
}

/** @param frame  numbered by itself: it is no frame of the clip */
function blankPicture(
  width: number,
  height: number,
  subsampling: Picture['subsampling'],
  frame: number,
): Picture {
  const small = () => createPlane(Math.ceil(width / subsampling.x), Math.ceil(height / subsampling.y));
  return { frame, subsampling, y: createPlane(width, height), u: small(), v: small(), bytes: width * height };
}
