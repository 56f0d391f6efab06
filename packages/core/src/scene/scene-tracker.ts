import { median } from 'd3-array';
import { apply, IDENTITY, translation, type Matrix3 } from '../geometry/matrix.js';
import { robustSimilarity } from '../geometry/robust-similarity.js';
import { decomposeSimilarity, type Correspondence } from '../geometry/similarity.js';
import { length } from '../numbers.js';
import { measureNoise } from '../picture/noise.js';
import type { Plane } from '../picture/plane.js';
import { Pyramid } from '../picture/pyramid.js';
import { sampleGrid, UPRIGHT, type Shape } from '../picture/sampling.js';
import { correlationMap, peaksOf } from '../track/correlation.js';
import { Cells, cornersOf, spreadCorners } from './corners.js';
import { Feature, FEATURE_LEVELS, FEATURE_PATCH } from './feature.js';
import { gathered, type Growing, type SceneTracks } from './scene-tracks.js';

/** Features that are followed at a time. */
const FEATURES = 220;
/** New ones are chosen as soon as fewer than this share is left; every so many frames it is looked whether cells are bare. */
const RENEW_EVERY = 8;
const RENEW_BELOW = 0.75;
/** ... or where fewer than this share of the cells that had one still have. There are never more than so many. */
const STILL_COVERED = 0.92;
const MOST_FEATURES = 260;
/** The least distance between two, in samples. */
const APART = 14;
/** Corners are this many times as strong as the picture's noise alone would be. */
const ABOVE_NOISE = 6;
const LEAST_STRENGTH = 1.5;
/** Before so many frames it is not known how a feature moves by itself: it is looked for farther away. */
const YOUNG = 3;
/** Features by which the motion of the whole picture is foretold. */
const SCOUTS = 24;
/** Fewer of them found again than this share foretell nothing. */
const SCOUTED = 0.4;
/** So many of them are tried: what repeats looks alike at several. */
const SHIFTS = 4;
/** What is foretold is believed when the scouts correlate so well there, on average, and at once when they do so well. */
const ALIKE = 0.35;
const SURELY_ALIKE = 0.85;
/** A feature that is not seen for so many frames has ended. */
const LONGEST_GAP = 6;
/** One that went by itself may be hidden by something that it passes: it is looked for on its way for so many frames, ... */
const ASLEEP = 75;
/** ... on every so many of them, where it went by more than this a frame, in samples, and was seen so often. */
const WAKING = 3;
const GOES = 0.6;
const FAMILIAR = 10;
const MOST_ASLEEP = 30;
/** It has to correlate so well where the coarsest level puts it, to be looked for closely. */
const FAMILIAR_LOOK = 0.5;
/** A frame on which fewer than this share of the features is seen shows something else, or nothing. */
const BLIND = 0.25;
/** For so many such frames features wait to be seen again; when this share comes back it was the same picture all along. */
const WAIT = 8;
const BACK = 0.3;
/** Where this share of them is seen on any frame meanwhile, the picture has not changed to another: it is hard to follow. */
const SOME_LEFT = 0.12;
/** What is seen in their place is a picture when its features have been seen so often by then. */
const LASTING = 4;
/** Fewer features than this tell nothing of cuts. */
const FEW = 12;
/** Less turn (radians) or growth (log) than this is sampled upright. */
const AS_UPRIGHT = 0.004;

/** What was followed before the picture changed, until it is clear whether it comes back. */
interface Waiting {
  readonly since: number;
  readonly features: Feature[];
  /** Frames on which so many of them were seen again as tell that it is the same picture. */
  back: number;
  /** The largest share of them that was seen on a frame since. */
  most: number;
}

/**
 * Follows a few hundred features spread over the whole picture, frame after frame: each as long as it can be seen, new
 * ones where they end. A picture that changes to another at once is a cut; one that comes back within a few frames was
 * a flash, a smear or something that passed.
 */
export class SceneTracker {
  private frame = 0;
  private live: Feature[] = [];
  private waiting: Waiting | null = null;
  /** Features of what goes by itself that are hidden. */
  private asleep: Feature[] = [];
  private readonly ended: Growing[] = [];
  private readonly cuts: number[] = [];
  private spare: Pyramid | null = null;
  private current: Pyramid | null = null;
  private step: Matrix3 = IDENTITY;
  /** How the picture has turned and grown since the beginning. */
  private turned = { rotation: 0, logScale: 0 };
  /** How far features usually are from where they are expected, in samples. */
  private spread = 8;
  private noise = 2;
  private sinceRenewal = 0;
  /** Features, and cells of the picture that had one, when new ones were chosen last. */
  private chosen = 0;
  private covered = 0;

  /** Takes the next frame: luma at a size of about half a million samples, the same for all frames. */
  add(luma: Plane): void {
    const picture = new Pyramid(luma, FEATURE_LEVELS, this.spare ?? undefined);
    picture.need(FEATURE_LEVELS - 1, 0, 0, luma.width, luma.height);
    [this.spare, this.current] = [this.current, picture];
    if (this.frame % 30 === 0) this.noise = measureNoise(luma);
    const before = this.live.length;
    if (this.frame > 0) {
      const seen = this.follow(picture);
      if (before >= FEW && seen < BLIND * before) this.wait();
      this.lookBack(picture);
      this.wake(picture);
    }
    this.live = this.kept(this.live, LONGEST_GAP, true);
    if (this.mustRenew(luma)) this.renew(picture);
    this.frame++;
  }

  /**
   * All tracks of the frames that were added.
   *
   * @param scale  source pixels a sample, across and down
   */
  finish(scale: readonly [number, number]): SceneTracks {
    if (this.waiting) this.decide(this.waiting);
    this.end([...this.live, ...this.asleep]);
    const all = this.ended.filter((f) => f.x.length > 1);
    all.sort((a, b) => a.start - b.start);
    return gathered(all, this.frame, this.cuts, scale);
  }

  /** Finds every feature on the new frame. @returns how many were seen */
  private follow(picture: Pyramid): number {
    const { live } = this;
    const step = this.foretold(picture, live) ?? IDENTITY;
    const level = this.spread > 6 ? 3 : this.spread > 2.5 ? 2 : 1;
    const scouts: Correspondence[] = [];
    const offs: number[] = [];
    const every = Math.max(1, Math.floor(live.length / SCOUTS));
    let seen = 0;
    live.forEach((feature, k) => {
      const { last } = feature;
      const carried = apply(step, last.x, last.y);
      const expected = { x: carried.x + feature.own.x, y: carried.y + feature.own.y };
      const shape = this.shapeOf(feature);
      const own = length(feature.own.x, feature.own.y);
      const found =
        feature.find(picture, expected, level, shape) ||
        // How a new one moves besides is not known yet, and another's may have changed.
        ((feature.frames <= YOUNG || own > 1) && feature.find(picture, carried, 3, shape));
      if (!found) {
        feature.miss(expected);
        return;
      }
      seen++;
      const at = feature.last;
      offs.push(length(at.x - expected.x, at.y - expected.y));
      feature.moved({ x: at.x - carried.x, y: at.y - carried.y });
      if (k % every === 0) scouts.push({ fromX: last.x, fromY: last.y, toX: at.x, toY: at.y, weight: 1 });
    });
    this.spread += 0.3 * ((median(offs) ?? this.spread) * 3 - this.spread);
    this.step = robustSimilarity(scouts) ?? step;
    const { rotation, logScale } = decomposeSimilarity(this.step, { x: 0, y: 0 });
    this.turned = { rotation: this.turned.rotation + rotation, logScale: this.turned.logScale + logScale };
    return seen;
  }

  /**
   * About how the whole picture has moved since the frame before, by its coarsest levels: as it moved before, not at
   * all, or by a shift at which its middle correlates well, whichever the scouts look most alike under; null where none
   * of them does.
   */
  private foretold(picture: Pyramid, live: readonly Feature[]): Matrix3 | null {
    const every = Math.max(1, Math.floor(live.length / SCOUTS));
    const scouts = live.filter((f, k) => k % every === 0 && f.missed === 0);
    let best: Matrix3 | null = null;
    let most = ALIKE;
    for (const guess of this.guesses(picture)) {
      const motion = this.scouted(picture, scouts, guess);
      const alike = motion ? likeness(picture, scouts, motion) : 0;
      if (alike > most) [best, most] = [motion, alike];
      if (most > SURELY_ALIKE) break;
    }
    return best;
  }

  /** The motion that most scouts agree on, looked for from a guess. */
  private scouted(picture: Pyramid, scouts: readonly Feature[], guess: Matrix3): Matrix3 | null {
    const pairs: Correspondence[] = [];
    for (const feature of scouts) {
      const { x, y } = feature.last;
      const near = apply(guess, x, y);
      const coarse = feature.roughly(picture, 3, near) ?? feature.roughly(picture, 2, near);
      const found = coarse && (feature.roughly(picture, 2, coarse) ?? coarse);
      if (found) pairs.push({ fromX: x, fromY: y, toX: found.x, toY: found.y, weight: 1 });
    }
    return pairs.length < SCOUTED * scouts.length ? null : robustSimilarity(pairs);
  }

  /** Ways in which the picture may have moved, the likeliest first; each is worked out when it is asked for. */
  private *guesses(picture: Pyramid): Generator<Matrix3> {
    yield this.step;
    yield IDENTITY;
    yield* this.shifts(picture);
  }

  /** The shifts at which the middle of the frame before correlates best with this one. Cost: a millisecond. */
  private shifts(picture: Pyramid): Matrix3[] {
    const level = picture.levels.length - 1;
    const [before, now] = [this.spare?.levels[level], picture.levels[level]];
    if (!before || before.width !== now.width || before.height !== now.height) return [];
    const [hw, hh] = [Math.floor(now.width / 4), Math.floor(now.height / 4)];
    const [cx, cy] = [Math.floor(now.width / 2), Math.floor(now.height / 2)];
    const values = new Float32Array((2 * hw + 1) * (2 * hh + 1));
    sampleGrid(before, cx + 0.5, cy + 0.5, hw, hh, values);
    const [rx, ry] = [Math.ceil(now.width / 5), Math.ceil(now.height / 5)];
    const map = correlationMap(now, { hw, hh, values }, cx, cy, rx, ry);
    const size = 2 ** level;
    return peaksOf(map, SHIFTS).map((peak) => translation((peak.x - cx) * size, (peak.y - cy) * size));
  }

  private shapeOf({ since }: Feature): Shape {
    const rotation = this.turned.rotation - since.rotation;
    const logScale = this.turned.logScale - since.logScale;
    if (Math.abs(rotation) < AS_UPRIGHT && Math.abs(logScale) < AS_UPRIGHT) return UPRIGHT;
    const [c, s] = [Math.cos(rotation) * Math.exp(logScale), Math.sin(rotation) * Math.exp(logScale)];
    return [c, -s, s, c];
  }

  /** Looks for what is hidden where it would be if it had gone on as it went. */
  private wake(picture: Pyramid): void {
    const [{ width, height }] = picture.levels;
    const still: Feature[] = [];
    for (const feature of this.asleep) {
      const carried = apply(this.step, feature.last.x, feature.last.y);
      const at = { x: carried.x + feature.drift.x, y: carried.y + feature.drift.y };
      const inside = at.x > 0 && at.y > 0 && at.x < width && at.y < height;
      const rough =
        inside && feature.missed % WAKING === 0 ? feature.roughly(picture, FEATURE_LEVELS - 1, at) : null;
      const now = rough !== null && feature.likenessAt(picture, rough) > FAMILIAR_LOOK;
      if (now && feature.find(picture, rough, FEATURE_LEVELS - 2, this.shapeOf(feature)))
        this.live.push(feature);
      else {
        feature.miss(at);
        if (inside && feature.missed < ASLEEP) still.push(feature);
        else this.end([feature]);
      }
    }
    this.asleep = still;
  }

  /** Most features are gone: they wait, and what is seen now is followed. */
  private wait(): void {
    if (this.waiting) {
      // Changed again before it came back: what came between was too short to be a part of its own.
      this.end(this.live);
    } else {
      this.waiting = { since: this.frame, features: this.live, back: 0, most: 0 };
    }
    this.live = [];
    this.end(this.asleep);
    this.asleep = [];
    this.step = IDENTITY;
  }

  /** Looks for what waits to be seen again, and decides when it has waited long enough. */
  private lookBack(picture: Pyramid): void {
    const { waiting } = this;
    if (!waiting || waiting.since === this.frame) return;
    let seen = 0;
    for (const feature of waiting.features) {
      const at = apply(this.step, feature.last.x, feature.last.y);
      if (feature.find(picture, at, 3, this.shapeOf(feature))) seen++;
      else feature.miss(at);
    }
    const share = seen / waiting.features.length;
    waiting.most = Math.max(waiting.most, share);
    if (share >= BACK) waiting.back++;
    if (waiting.back >= 2 || this.frame - waiting.since >= WAIT) this.decide(waiting);
  }

  private decide(waiting: Waiting): void {
    this.waiting = null;
    const features = this.kept(waiting.features, WAIT + LONGEST_GAP);
    if (waiting.back > 0 || waiting.most >= SOME_LEFT) {
      this.live.push(...features);
      return;
    }
    this.end(features);
    // Where what is seen now began to be followed: else nothing has followed yet, as in a fade to black.
    const begun = this.live.filter((f) => f.timesSeen >= LASTING).map((f) => f.start);
    if (begun.length >= FEW) this.cuts.push(Math.max(waiting.since, Math.min(...begun)));
  }

  /** Those that go on; the others have ended, or sleep where they may. */
  private kept(features: readonly Feature[], gap: number, maySleep = false): Feature[] {
    for (const f of features) {
      if (f.missed < gap) continue;
      const goes = length(f.drift.x, f.drift.y) > GOES && f.timesSeen >= FAMILIAR;
      if (maySleep && goes && this.asleep.length < MOST_ASLEEP) this.asleep.push(f);
      else this.end([f]);
    }
    return features.filter((f) => f.missed < gap);
  }

  /** Of features that have ended their samples alone are kept: what they look like takes many times as much. */
  private end(features: readonly Feature[]): void {
    for (const f of features) this.ended.push(f.ended());
  }

  /** True where features have become few, or parts of the picture that had some have none. */
  private mustRenew(luma: Plane): boolean {
    const few = RENEW_BELOW * Math.min(FEATURES, this.chosen);
    if (this.chosen === 0 || this.live.length < few) return true;
    if (++this.sinceRenewal < RENEW_EVERY) return false;
    this.sinceRenewal = 0;
    return this.live.length < MOST_FEATURES && this.cells(luma).count < STILL_COVERED * this.covered;
  }

  /** The cells of the picture that have a feature, and the grid of them. */
  private cells({ width, height }: Plane): Cells {
    return new Cells(
      width,
      height,
      FEATURES,
      this.live.map((f) => f.last),
    );
  }

  private renew(picture: Pyramid): void {
    this.sinceRenewal = 0;
    const [plane] = picture.levels;
    const { width, height } = plane;
    // The gradient of two samples' noise has half its variance; a window's eigenvalue is near it.
    const least = Math.max(LEAST_STRENGTH, (ABOVE_NOISE * this.noise ** 2) / 2);
    const margin = FEATURE_PATCH + 4;
    const corners = cornersOf(plane, least).filter(
      ({ x, y }) => x > margin && y > margin && x < width - margin && y < height - margin,
    );
    const taken = this.live.map((f) => f.last);
    const spread = { width, height, wanted: FEATURES, apart: APART, more: MOST_FEATURES - FEATURES };
    for (const corner of spreadCorners(corners, taken, spread)) {
      const feature = new Feature(this.frame, picture, corner, this.turned);
      if (feature.holds) this.live.push(feature);
      if (this.live.length >= MOST_FEATURES) break;
    }
    this.chosen = this.live.length;
    this.covered = this.cells(plane).count;
  }
}

/** How well scouts correlate where a motion puts them, on average, at a quarter of the size. */
function likeness(picture: Pyramid, scouts: readonly Feature[], motion: Matrix3): number {
  let sum = 0;
  for (const scout of scouts) sum += scout.likenessAt(picture, apply(motion, scout.last.x, scout.last.y));
  return scouts.length > 0 ? sum / scouts.length : 0;
}
