import type { AcceptedDoubt } from '@lurn/core/doubt';
import type {
  Amounts,
  CalmSettings,
  Easing,
  FramingRequest,
  Goal,
  GoalKey,
  GoalSettings,
  LockSettings,
} from '@lurn/core/plan';
import type { Measured } from '@lurn/core/track';
import type { EdgeMode } from '@lurn/core/warp';
import { DrawnArea, DrawnRegroup } from './area.js';
import {
  Colour,
  Even,
  Flag,
  Frame,
  Frames,
  Id,
  Label,
  ListOf,
  ListOfKinds,
  Of,
  OneOf,
  Optional,
  OrNull,
  Text,
  Whole,
  Within,
} from './checks.js';
import type { ClipScene } from './clip.js';
import { CHOICES, LIMITS } from './limits.js';
import { Asset, LAYERS, type Layer } from './layers/index.js';
import { Note } from './note.js';
import { Accepted, rulesOf, TRACKERS, type Tracker } from './trackers/index.js';
import { fittedShapes } from './trackers/tracker-rules.js';

/** One thing that moves as a whole, with the trackers that name it. */
export class Mover {
  @Id()
  readonly id!: string;
  /** Empty for the one that everything is on until told otherwise. */
  @Label(LIMITS.nameLength)
  readonly name!: string;
}

class FrameRange {
  @Frame()
  readonly from!: number;
  @Frame()
  readonly to!: number;
}

class Shares implements Amounts {
  @Within([0, 1])
  readonly x!: number;
  @Within([0, 1])
  readonly y!: number;
  @Within([0, 1])
  readonly rotation!: number;
  @Within([0, 1])
  readonly scale!: number;
}

class Smoothing implements Amounts {
  @Within(LIMITS.smoothing)
  readonly x!: number;
  @Within(LIMITS.smoothing)
  readonly y!: number;
  @Within(LIMITS.smoothing)
  readonly rotation!: number;
  @Within(LIMITS.smoothing)
  readonly scale!: number;
}

class Calm implements CalmSettings {
  @OneOf(CHOICES.method)
  readonly method!: CalmSettings['method'];
  @Of(() => Smoothing)
  readonly smoothing!: Amounts;
  @Within(LIMITS.maxZoom)
  readonly maxZoom!: number;
}

/** Far enough outside the picture, in pixels, for any place in which something may be held. */
const FAR = 1e5;

class Lock implements LockSettings {
  @OneOf(CHOICES.place)
  readonly place!: LockSettings['place'];
  @Within([-FAR, FAR])
  readonly x!: number;
  @Within([-FAR, FAR])
  readonly y!: number;
  @Within(LIMITS.tolerance)
  readonly tolerance!: number;
  @Within(LIMITS.ease)
  readonly easeIn!: number;
  @Within(LIMITS.ease)
  readonly easeOut!: number;
}

class Key implements GoalKey {
  @Frame()
  readonly frame!: number;
  @OneOf(CHOICES.goal)
  readonly goal!: Goal;
  @Of(() => Shares)
  readonly amounts!: Amounts;
  @OneOf(CHOICES.easing)
  readonly easing!: Easing;
}

class Aim implements GoalSettings {
  @OneOf(CHOICES.goal)
  readonly goal!: Goal;
  @Of(() => Shares)
  readonly amounts!: Amounts;
  @OneOf(CHOICES.pose)
  readonly pose!: GoalSettings['pose'];
  @Of(() => Calm)
  readonly calm!: CalmSettings;
  @Of(() => Lock)
  readonly lock!: LockSettings;
  @ListOf(() => Key, LIMITS.keys)
  readonly keys!: readonly GoalKey[];
}

/** What part of the steadied picture fills the frame. */
export class ShotFraming {
  @OneOf(CHOICES.zoom)
  readonly mode!: FramingRequest['mode'];
  @Within(LIMITS.zoom)
  readonly zoom!: number;
  @Within(LIMITS.rate)
  readonly rate!: number;
  @Within([-FAR, FAR])
  readonly shiftX!: number;
  @Within([-FAR, FAR])
  readonly shiftY!: number;
}

export class Edges {
  @OneOf(CHOICES.edges)
  readonly mode!: EdgeMode;
  /** `#rrggbb`: the colour, and what stands where nothing can be borrowed. */
  @Colour()
  readonly colour!: string;
}

class DeliveredSize {
  @Even(LIMITS.delivery)
  readonly width!: number;
  @Even(LIMITS.delivery)
  readonly height!: number;
}

class DeliverySettings {
  /** Constant rate factor of formats that have one. */
  @Whole(LIMITS.crf)
  readonly crf!: number;
}

/** What leaves the program. */
export class Delivery {
  @Id()
  readonly id!: string;
  @Text(LIMITS.nameLength)
  readonly name!: string;
  @OneOf(CHOICES.picture)
  readonly picture!: 'steadied' | 'as-shot';
  /** False: the layers alone. */
  @Flag()
  readonly base!: boolean;
  /** The id of a format. Where the picture is left open beyond its edges, one with alpha stands in for it. */
  @Id()
  readonly format!: string;
  /** Shows the picture as shot in the same file; missing where it does not. */
  @Optional()
  @OneOf(CHOICES.compare)
  readonly compare?: (typeof CHOICES.compare)[number];
  /** Writes "Before" and "After" into it; missing where it does not. */
  @Optional()
  @Flag()
  readonly labels?: boolean;
  /** null: the source's. */
  @OrNull(Of(() => DeliveredSize))
  readonly size!: DeliveredSize | null;
  @Of(() => DeliverySettings)
  readonly settings!: DeliverySettings;
}

/** Everything about a shot that the editor decides; what is measured lies beside it. */
export class ShotDocument {
  @OneOf([10])
  readonly version!: 10;
  @ListOf(() => Mover, LIMITS.movers)
  readonly movers!: readonly Mover[];
  /** The id of the mover that is held; null: what most of the trackers tell. */
  @OrNull(Id())
  readonly held!: string | null;
  @ListOfKinds(() => TRACKERS, LIMITS.trackers)
  readonly trackers!: readonly Tracker[];
  /** Drawn shapes: what of the picture is never measured, or the only part that is. */
  @ListOf(() => DrawnArea, LIMITS.areas)
  readonly areas!: readonly DrawnArea[];
  /** Which features go together where the picture was read otherwise, in the order in which it was said. */
  @ListOf(() => DrawnRegroup, LIMITS.areas)
  readonly regroups!: readonly DrawnRegroup[];
  /** Doubts that the editor has looked at and found to be fine. */
  @ListOf(() => Accepted, LIMITS.accepted)
  readonly accepted!: readonly AcceptedDoubt[];
  /** What the editor wrote about frames. */
  @ListOf(() => Note, LIMITS.notes)
  readonly notes!: readonly Note[];
  /** First frames of parts that are smoothed by themselves, beside those that were found in the picture. */
  @Frames(LIMITS.cuts)
  readonly cuts!: readonly number[];
  /** Puts the rows of the pictures straight, where it is known how they lie. */
  @Flag()
  readonly rowByRow!: boolean;
  /** In and out point: first and last frame, both included. */
  @Of(() => FrameRange)
  readonly range!: FrameRange;
  /** The reference frame: it stays as it was shot. */
  @Frame()
  readonly ref!: number;
  @Of(() => Aim)
  readonly goal!: GoalSettings;
  @Of(() => ShotFraming)
  readonly framing!: ShotFraming;
  /** What is shown beyond the picture. */
  @Of(() => Edges)
  readonly edges!: Edges;
  /** Work that rides, from the lowest to the topmost. */
  @ListOfKinds(() => LAYERS, LIMITS.layers)
  readonly layers!: readonly Layer[];
  /** The files that layers show. */
  @ListOf(() => Asset, LIMITS.assets)
  readonly assets!: readonly Asset[];
  /** The first is what the Bench shows. */
  @ListOf(() => Delivery, LIMITS.deliveries)
  readonly deliveries!: readonly Delivery[];
}

/** A document with what was measured, by the trackers' ids: what undo goes back through and what is saved. */
export interface ShotState {
  readonly document: ShotDocument;
  readonly measured: Readonly<Record<string, Measured>>;
}

/** The facts of a clip that a document has to agree with. */
export interface ClipBounds {
  readonly width: number;
  readonly height: number;
  readonly frames: number;
}

/** What a new shot is steadied towards until told otherwise. */
export const NEW_GOAL: GoalSettings = {
  goal: 'still',
  amounts: { x: 1, y: 1, rotation: 1, scale: 1 },
  pose: 'frame',
  calm: { method: 'gaussian', smoothing: { x: 1, y: 1, rotation: 1, scale: 1 }, maxZoom: 1.15 },
  lock: { place: 'reference', x: 0, y: 0, tolerance: 0, easeIn: 0, easeOut: 0 },
  keys: [],
};

export const NEW_FRAMING: ShotFraming = { mode: 'fit', zoom: 1, rate: 0.05, shiftX: 0, shiftY: 0 };

export const NEW_EDGES: Edges = { mode: 'colour', colour: '#000000' };

export const NEW_DELIVERY: Delivery = {
  id: 'steadied',
  name: 'Steadied',
  picture: 'steadied',
  base: true,
  format: 'h264-mp4',
  size: null,
  settings: { crf: 18 },
};

/** The mover that trackers are on until told otherwise. */
export const FIRST_MOVER: Mover = { id: 'mover-1', name: '' };

/**
 * What a new shot begins with.
 *
 * @param scene  what is known of the whole picture: it tells whether the camera stands or means to move
 */
export function newDocument(clip: ClipBounds, scene?: ClipScene | null): ShotDocument {
  const { goal, smoothing: s } = scene?.first ?? { goal: NEW_GOAL.goal, smoothing: 1 };
  const smoothing = { x: s, y: s, rotation: s, scale: s };
  return {
    version: 10,
    movers: [FIRST_MOVER],
    held: null,
    trackers: [],
    areas: [],
    accepted: [],
    notes: [],
    cuts: [],
    rowByRow: false,
    regroups: [],
    range: { from: 0, to: clip.frames - 1 },
    ref: 0,
    goal: { ...NEW_GOAL, goal, calm: { ...NEW_GOAL.calm, smoothing } },
    framing: NEW_FRAMING,
    edges: NEW_EDGES,
    layers: [],
    assets: [],
    deliveries: [NEW_DELIVERY],
  };
}

/** A document of a clip that turned out to have fewer frames than it was made for: what lies beyond them is left out. */
export function fittedTo(document: ShotDocument, frames: number): ShotDocument {
  const within = (frame: number) => Math.min(frame, frames - 1);
  const { range, ref, goal, accepted, notes, cuts, areas, regroups, trackers, layers } = document;
  return {
    ...document,
    range: { from: within(range.from), to: within(range.to) },
    ref: within(ref),
    goal: { ...goal, keys: goal.keys.filter((key) => key.frame < frames) },
    accepted: accepted.filter((doubt) => doubt.to < frames),
    notes: notes.flatMap((n) => (n.from < frames ? [{ ...n, to: within(n.to) }] : [])),
    cuts: cuts.filter((cut) => cut < frames),
    regroups: regroups.filter((word) => word.frame < frames),
    trackers: trackers.map((t) => rulesOf(t).fitted(t, frames)).filter((t) => t !== null),
    layers: layers.flatMap((layer) => fittedLayer(layer, frames) ?? []),
    areas: fittedShapes(areas, frames),
  };
}

/** A layer of a clip that has fewer frames; null where it was made on one of those that are gone. */
function fittedLayer(layer: Layer, frames: number): Layer | null {
  if (layer.frame >= frames) return null;
  const { range } = layer;
  return {
    ...layer,
    keys: layer.keys.filter((key) => key.frame < frames),
    range: range && { from: Math.min(range.from, frames - 1), to: Math.min(range.to, frames - 1) },
  };
}

/** The name of a mover; empty for one that has none. */
export function moverName({ movers }: Pick<ShotDocument, 'movers'>, id: string): string {
  return movers.find((m) => m.id === id)?.name ?? '';
}
