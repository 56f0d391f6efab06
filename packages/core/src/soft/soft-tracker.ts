import { bandedAt, type Banded } from '../geometry/banded.js';
import { LurnError } from '../errors.js';
import type { Closed } from '../geometry/area.js';
import { rectangle } from '../geometry/homography.js';
import { apply, type Matrix3, type Point } from '../geometry/matrix.js';
import { fitSimilarity } from '../geometry/similarity.js';
import { measureNoise } from '../picture/noise.js';
import type { Eye } from '../picture/eye.js';
import type { Pyramid } from '../picture/pyramid.js';
import { looksAlike } from '../surface/surface-search.js';
import { SURFACE_LEVELS, SurfaceTemplate } from '../surface/surface-template.js';
import { Lattice } from './lattice.js';
import { SoftAligner, type SoftBlock, type SoftFit } from './soft-aligner.js';
import { vertexConfidence } from './soft-confidence.js';
import { fittedTo, type SoftKnown, type SoftLead } from './soft-equations.js';

export interface SoftSettings {
  /** How stiffly neighbours hold each other: 1 by itself, more is stiffer. */
  readonly stiffness: number;
  /** When its looks are taken anew: those of its own frame are looked for all the same. */
  readonly refresh: 'never' | 'auto' | 'always';
  /** What happens where it cannot be found. */
  readonly lowMatch: 'stop' | 'carryOn' | 'coast';
  readonly minConfidence: number;
  readonly eye: Eye;
}

/** A vertex as it was found on a frame. */
export interface FoundVertex extends Point {
  /** The part of the texture about it that was seen and fitted. */
  readonly held: number;
  readonly confidence: number;
}

/** A soft surface found on a frame. */
export interface FoundSoft extends SoftFit {
  readonly vertices: readonly FoundVertex[];
}

/** Where a soft surface is looked for. */
export interface SoftGuess extends SoftKnown {
  /** Control points, the likeliest first. */
  readonly guesses: readonly Float64Array[];
  /** How far off the likeliest may be, in pixels. */
  readonly spread: number;
  /** True while it was not found on the frame before. */
  readonly lost: boolean;
  /** What suggests where vertices are that are not seen, by their numbers: as far as it agrees with those that are. */
  readonly hints: ReadonlyMap<number, SoftLead>;
}

/**
 * Samples along a block's side at full size, for a surface of no more than so many square pixels - larger ones have
 * larger blocks - and the least on any level.
 */
const [SIDE, SIDE_AREA, LEAST_SIDE] = [10, 200_000, 8];
/** Samples that a level is aligned by at the most. */
const MOST_SAMPLES = 150_000;
/** A lattice has so many cells along the root of its area, none smaller than this in pixels. */
const [CELLS, LEAST_CELL] = [11, 14];
/** Least texture, in squared grey levels a pixel. */
const LEAST_TEXTURE = 0.6;
/** Below these it is not the surface. */
const [LEAST_SCORE, LEAST_HELD, LEAST_SEEN] = [0.4, 0.1, 0.03];
/** A fit is as good as usual from this part of the usual on, which settles by this share a frame. */
const [AS_USUAL, SETTLING] = [0.92, 0.3];
/** It is looked for elsewhere where less than this part of the usual fits, on one such frame of so many; so far, in parts of the picture's width; so many places are tried, and one has to be so much better. */
const [DOUBTED, SEARCH_EVERY, REACH, TRIED, BETTER] = [0.8, 4, 0.08, 3, 0.03];
/** Where no vertex is as sure as this it may lie elsewhere, however well it fits: soft texture looks alike in many places. */
const UNSURE = 0.05;
/** A vertex is told of by the texture within so many cells of it. */
const ABOUT = 0.65;
/** Texture about a vertex below this part of the usual tells nothing: the vertex goes with the others. */
const TELLING = 0.02;

/** Its looks are taken anew when the part that fits about vertices that are seen falls below this, of so much that surely is it; at most so often, in frames. */
const [CHANGED, SURELY, LOOK_AFTER] = [0.8, 0.8, 4];
/** ... and while no more than this share of the vertices is hidden; so far about one of those, in cells, nothing is taken. */
const [MOST_HIDDEN, HIDDEN_ABOUT] = [0.45, 0.5];
/** A vertex is hidden when less of the texture about it fits. */
export const HIDDEN = 0.28;
/** What later looks find has to be so much better to be believed over the first. */
const LATER_BETTER = 0.04;

/** Finds one soft surface on picture after picture by its texture. */
export class SoftTracker {
  readonly lattice: Lattice;
  private readonly aligner: SoftAligner;
  private readonly noise: number;
  /** Of each vertex: the blocks about it, each with how much it counts. */
  private readonly about: readonly (readonly { readonly block: number; readonly share: number }[])[];
  /** Of each block. */
  private readonly samples: readonly number[];
  private readonly usualWorth: number;
  /** The part of what is seen that fits, as it has been of late. */
  private usualHeld = 1;
  /** Frames in a row on which it did not fit as well. */
  private doubted = 0;
  /** How it has come to look since, and where its vertices were then. */
  private later: { readonly tracker: SoftTracker; readonly to: Float64Array } | null = null;
  private sinceLook = 0;

  /**
   * @param picture   pyramid of the surface's own frame, seen through its eye
   * @param drawn     outlines that add up to it, and those left out of it, in source pixels
   * @param vertices  of its mesh, on its own frame
   * @throws LurnError `soft-outside` when nothing of it lies in the picture, `soft-flat` when there is no texture to hold
   *         on to, `soft-closed` when nothing of it can be seen
   */
  constructor(
    readonly settings: SoftSettings,
    picture: Pyramid,
    private readonly drawn: Closed,
    private readonly vertices: readonly Point[],
  ) {
    const { width, height } = picture.levels[0];
    const all = [...drawn.focus.flat(), ...vertices];
    const box = {
      left: Math.min(...all.map((p) => p.x)),
      top: Math.min(...all.map((p) => p.y)),
      right: Math.max(...all.map((p) => p.x)),
      bottom: Math.max(...all.map((p) => p.y)),
    };
    if (box.right <= 0 || box.bottom <= 0 || box.left >= width || box.top >= height)
      throw new LurnError(
        'soft-outside',
        `It lies outside the picture of ${width} x ${height} pixels. Draw it inside.`,
      );
    const area = (box.right - box.left) * (box.bottom - box.top);
    const side = Math.round(SIDE * Math.max(1, Math.sqrt(area / SIDE_AREA)));
    const sides = Array.from({ length: SURFACE_LEVELS }, (_, level) =>
      Math.max(LEAST_SIDE, Math.round(side / 2 ** level)),
    );
    const grain = { sides, everywhere: MOST_SAMPLES };
    const template = new SurfaceTemplate(picture, drawn, grain);
    const [fine] = template.levels;
    if (!fine)
      throw new LurnError(
        'soft-closed',
        'Nothing of it can be seen on this frame. Go to a frame on which it can be seen.',
      );
    this.noise = measureNoise(picture.levels[0]);
    const worths = fine.blocks.map((b) => b.texture * b.count);
    const texture = worths.reduce((a, b) => a + b, 0) / fine.values.length - 0.1 * this.noise ** 2;
    if (texture < LEAST_TEXTURE)
      throw new LurnError(
        'soft-flat',
        'There is nothing to hold on to: it has no texture. Draw it larger, so that more is in it.',
      );
    this.lattice = new Lattice(box, Math.max(LEAST_CELL, Math.sqrt(area) / CELLS));
    this.aligner = new SoftAligner(template, this.lattice);
    const { fromUnit } = template;
    const middles = fine.blocks.map(({ probes }) => {
      const { x, y } = probes[probes.length - 1];
      return { x: fromUnit[0] * x + fromUnit[2], y: fromUnit[4] * y + fromUnit[5] };
    });
    const reach = ABOUT * Math.max(this.lattice.across, this.lattice.down);
    this.about = vertices.map((p) =>
      middles.flatMap((m, block) => {
        const d = Math.hypot(m.x - p.x, m.y - p.y) / reach;
        return d < 1 ? [{ block, share: (1 - d * d) ** 2 }] : [];
      }),
    );
    this.samples = fine.blocks.map((b) => b.count);
    this.usualWorth = worths.reduce((a, b) => a + b, 0) / worths.length;
  }

  /** Control points that take the vertices to where they are known to be; the others go with them. */
  controlFor(places: readonly (Point | null)[]): Float64Array {
    const pairs = places.flatMap((to, v) => (to ? [{ at: this.vertices[v], to }] : []));
    return fittedTo(this.lattice, pairs);
  }

  /** Where control points take the vertices. */
  placesUnder(to: Float64Array): Point[] {
    return this.vertices.map((p) => this.lattice.placeAt(to, p.x, p.y));
  }

  /** The best match; null when nothing like it can be seen. */
  find(picture: Pyramid, where: SoftGuess): FoundSoft | null {
    const own = this.byFirstLooks(picture, where);
    const found = this.byLaterLooks(picture, where, own);
    if (found && !where.lost) this.lookAnew(picture, found);
    return found && this.hinted(picture, found, where);
  }

  /** Brings what is not seen to where it is suggested to be, as far as that can be believed. */
  private hinted(picture: Pyramid, found: FoundSoft, { guesses, pins, leads, hints }: SoftGuess): FoundSoft {
    if (found.vertices.every((v, i) => v.held >= HIDDEN || !hints.has(i))) return found;
    const aim = { noise: this.noise, stiffness: this.settings.stiffness, pins, last: guesses[0] };
    const more = [...leads, ...believed(hints, found.vertices)];
    const fit = this.aligner.align(picture, found.to, 0, { ...aim, leads: more });
    return fit ? { ...fit, vertices: this.judged(fit) } : found;
  }

  /** As it looks since, where it does not fit any more as it looked first; and from there by its first looks again. */
  private byLaterLooks(picture: Pyramid, where: SoftGuess, own: FoundSoft | null): FoundSoft | null {
    const { later, settings } = this;
    // What is usual follows a slow change: this does not.
    const usual = own && own.converged && heldOfSeen(own) > CHANGED;
    if (!later || settings.refresh === 'never' || (usual && settings.refresh === 'auto')) return own;
    const { tracker } = later;
    const found = tracker.find(picture, {
      ...where,
      guesses: where.guesses.map((g) => tracker.controlFor(this.placesUnder(g))),
      pins: where.pins.map((pin) => ({ ...pin, at: this.lattice.placeAt(later.to, pin.at.x, pin.at.y) })),
      leads: where.leads.map((lead) => ({
        ...lead,
        at: this.lattice.placeAt(later.to, lead.at.x, lead.at.y),
      })),
      // They are heeded once, by the first looks.
      hints: NO_HINTS,
    });
    if (!found || (own && worth(found) < worth(own) + LATER_BETTER)) return own;
    const to = this.controlFor(found.vertices);
    const { pins, leads } = where;
    const aim = { noise: this.noise, stiffness: settings.stiffness, pins, leads, last: to };
    const again = this.aligner.align(picture, to, 0, aim);
    // Where the first looks hold on as well, nothing drifts.
    if (again?.converged && worth(again) > worth(found) - LATER_BETTER) return { ...again, vertices: this.judged(again) }; // prettier-ignore
    return { ...found, to };
  }

  /** Takes its looks anew where they have changed, and it is surely seen. */
  private lookAnew(picture: Pyramid, found: FoundSoft): void {
    const { refresh } = this.settings;
    if (refresh === 'never' || ++this.sinceLook < LOOK_AFTER) return;
    if (!found.converged || found.score < SURELY || (refresh === 'auto' && heldOfSeen(found) > CHANGED))
      return;
    const hidden = found.vertices.filter((v) => v.held < HIDDEN);
    if (hidden.length > MOST_HIDDEN * found.vertices.length) return;
    const there = (p: Point) => this.lattice.placeAt(found.to, p.x, p.y);
    const about = HIDDEN_ABOUT * Math.max(this.lattice.across, this.lattice.down);
    const drawn: Closed = {
      focus: this.drawn.focus.map((outline) => outline.map(there)),
      ignored: [
        ...this.drawn.ignored.map((outline) => outline.map(there)),
        ...hidden.map(({ x, y }) => [...rectangle(x - about, y - about, x + about, y + about)]),
      ],
    };
    this.sinceLook = 0;
    try {
      const settings = { ...this.settings, refresh: 'never' } as const;
      const tracker = new SoftTracker(settings, picture, drawn, found.vertices);
      this.later = { tracker, to: found.to };
    } catch (error) {
      // What cannot be taken there is left as it was.
      if (!(error instanceof LurnError)) throw error;
    }
  }

  /** The best match of how it looked on its own frame. */
  private byFirstLooks(
    picture: Pyramid,
    { guesses, spread, lost, pins, leads }: SoftGuess,
  ): FoundSoft | null {
    const coarsest = lost ? SURFACE_LEVELS - 1 : levelFor(spread);
    const aim = {
      noise: this.noise,
      stiffness: this.settings.stiffness,
      pins,
      leads,
    };
    let best: SoftFit | null = null;
    for (const guess of guesses) {
      const fit = this.aligner.align(picture, guess, coarsest, { ...aim, last: lost ? null : guess });
      if (fit && (!best || worth(fit) > worth(best))) best = fit;
      if (best && best.converged && best.held > AS_USUAL * this.usualHeld) break;
    }
    let vertices = best && this.judged(best);
    const unsure = vertices !== null && vertices.every((v) => v.confidence < UNSURE);
    for (const guess of this.elsewhere(picture, guesses[0], unsure ? null : best, lost || unsure)) {
      const fit = this.aligner.align(picture, guess, SURFACE_LEVELS - 1, { ...aim, last: null });
      if (fit && (!best || worth(fit) > worth(best) + (unsure ? 0 : BETTER)))
        [best, vertices] = [fit, this.judged(fit)];
    }
    if (!best || !vertices) return null;
    if (pins.length === 0 && (best.score < LEAST_SCORE || best.held < LEAST_HELD || best.seen < LEAST_SEEN))
      return null;
    if (!lost && best.score > 2 * LEAST_SCORE) {
      this.aligner.learn();
      this.usualHeld += SETTLING * (best.held - this.usualHeld);
    }
    return { ...best, vertices };
  }

  /** Where else the whole of it could be, where it does not fit as well as usual. */
  private elsewhere(
    picture: Pyramid,
    guess: Float64Array,
    best: SoftFit | null,
    lost: boolean,
  ): Float64Array[] {
    const usual = best?.converged && best.held > DOUBTED * this.usualHeld;
    if (usual) this.doubted = 0;
    if (usual || (!lost && this.doubted++ % SEARCH_EVERY > 0)) return [];
    const whole = this.wholeMotion(guess);
    if (!whole) return [];
    const reach = REACH * picture.levels[0].width;
    return looksAlike(this.aligner.template, picture, whole, reach)
      .slice(0, TRIED)
      .map(({ motion }) => {
        const { x, y } = this.aligner.template.middle;
        const [p, q] = [apply(whole, x, y), apply(motion, x, y)];
        return guess.map((v, k) => v + (k % 2 === 0 ? q.x - p.x : q.y - p.y));
      });
  }

  /** The affine map that is nearest to what control points do. */
  private wholeMotion(to: Float64Array): Matrix3 | null {
    const rest = this.lattice.atRest();
    const pairs = Array.from({ length: rest.length / 2 }, (_, n) => ({
      ...{ fromX: rest[2 * n], fromY: rest[2 * n + 1], toX: to[2 * n], toY: to[2 * n + 1], weight: 1 },
    }));
    return fitSimilarity(pairs, 1);
  }

  private judged(fit: SoftFit): FoundVertex[] {
    return this.vertices.map((own, v) => {
      const at = this.lattice.placeAt(fit.to, own.x, own.y);
      let [all, held, misfit, count] = [0, 0, 0, 0];
      let [voices, agreeing] = [0, 0];
      let [together, mine, other, samples] = [0, 0, 0, 0];
      for (const { block, share } of this.about[v]) {
        const { weight, worth, misfit: off, seen } = fit.blocks[block];
        together += share * fit.blocks[block].together;
        mine += share * fit.blocks[block].own;
        other += share * fit.blocks[block].other;
        all += share * worth;
        held += share * worth * weight;
        // One block with much texture must not speak for all that lie about the vertex.
        voices += share * Math.sqrt(worth);
        agreeing += share * Math.sqrt(worth) * weight;
        misfit += share * weight * off;
        if (seen) count += share * weight;
        samples += share * weight * this.samples[block];
      }
      const shares = this.about[v].reduce((sum, { share }) => sum + share, 0);
      const told = all > TELLING * this.usualWorth * shares && shares > 0;
      const part = told ? agreeing / voices : fit.held * this.openAbout(fit, v);
      const error = errorAt(this.lattice, fit.covariance, own);
      const score = together > 0 && mine > 0 && other > 0 ? together / Math.sqrt(mine * other) : 0;
      const evidence = {
        ...{ error, held: part, misfit: count > 0 ? misfit / count : 2, score },
        ...{ texture: samples > 0 ? Math.sqrt(held / samples) : 0, noise: this.noise },
      };
      return { ...at, held: part, confidence: vertexConfidence(evidence) };
    });
  }

  /** Where no texture tells: the part of the blocks about a vertex that were seen at all. */
  private openAbout(fit: SoftFit, v: number): number {
    let [all, seen] = [0, 0];
    for (const { block, share } of this.about[v]) {
      all += share;
      if (fit.blocks[block].seen) seen += share;
    }
    return all > 0 ? seen / all : 0.5;
  }
}

const NO_HINTS: SoftGuess['hints'] = new Map();

/** A hint that strays from where the seen ones take it so many times as far as it is sure counts half. */
const STRAYS = 2.7;
/** So many vertices have to be seen for hints to be held against them. */
const TO_CHECK = 4;

/**
 * Hints of vertices that are not seen. Each is as sure as hints are where they can be checked, and the less the farther
 * it strays from where the similarity of those that are seen takes it: what stands before a face is taken for a part of
 * it by what knows faces (a Cauchy weight; Holland and Welsch 1977).
 */
function believed(hints: SoftGuess['hints'], vertices: readonly FoundVertex[]): SoftLead[] {
  const told = [...hints].filter(([v]) => v < vertices.length);
  const checked = told.filter(([v]) => vertices[v].held >= HIDDEN);
  const hidden = told.filter(([v]) => vertices[v].held < HIDDEN).map(([, hint]) => hint);
  if (checked.length < TO_CHECK) return hidden;
  const off = checked.map(([v, { to, sd }]) => Math.hypot(to.x - vertices[v].x, to.y - vertices[v].y) / sd);
  const usual = Math.max(1, Math.sqrt(off.reduce((sum, d) => sum + d * d, 0) / (2 * off.length)));
  const seen = fitSimilarity(
    checked.map(([v, { at }]) => ({
      ...{ fromX: at.x, fromY: at.y, toX: vertices[v].x, toY: vertices[v].y, weight: 1 },
    })),
    1,
  );
  return hidden.map((hint) => {
    const there = seen ? apply(seen, hint.at.x, hint.at.y) : hint.to;
    const strays = Math.hypot(hint.to.x - there.x, hint.to.y - there.y) / (STRAYS * hint.sd);
    return { ...hint, sd: hint.sd * usual * (1 + strays ** 2) };
  });
}

const worth = (fit: Pick<SoftFit, 'score' | 'held' | 'seen'>) =>
  fit.score * Math.sqrt(fit.held) * Math.min(1, fit.seen * 2);

/** The part that fits about the vertices that are seen: what stands before some of them has no say. */
function heldOfSeen({ vertices }: FoundSoft): number {
  const seen = vertices.filter((v) => v.held >= HIDDEN);
  return seen.length > 0 ? seen.reduce((sum, v) => sum + v.held, 0) / seen.length : 0;
}

/** The level from which a guess that far off is climbed from. */
function levelFor(spread: number): number {
  return Math.max(1, Math.min(SURFACE_LEVELS - 1, Math.ceil(Math.log2(Math.max(1, spread) / 1.5))));
}

/** Standard deviation of a place that hangs on the lattice, along its worst direction, in pixels. */
function errorAt(lattice: Lattice, covariance: Banded, { x, y }: Point): number {
  const said = lattice.weightsAt(x, y);
  let [xx, xy, yy] = [0, 0, 0];
  // The covariance is symmetric: of two nodes that are not the same, what one says with the other counts twice.
  said.forEach(({ node: k, weight: a }, i) => {
    for (let j = 0; j <= i; j++) {
      const { node: l, weight: b } = said[j];
      const times = i === j ? a * b : 2 * a * b;
      xx += times * bandedAt(covariance, 2 * k, 2 * l);
      xy += (times / 2) * (bandedAt(covariance, 2 * k, 2 * l + 1) + bandedAt(covariance, 2 * k + 1, 2 * l));
      yy += times * bandedAt(covariance, 2 * k + 1, 2 * l + 1);
    }
  });
  return Math.sqrt(Math.max(0, (xx + yy) / 2 + Math.hypot((xx - yy) / 2, xy)));
}

export type { SoftBlock };
