import type { MeasuredJson } from '@lurn/core/formats';
import type { MeasuredKind } from '@lurn/core/track';
import type { ClipInfo, ClipMade, KeptSound } from './clip.js';
import type { ShotDocument, ShotState } from './document.js';

/** What server and web exchange. */

export type ClipStatus = 'reading' | 'copying' | 'ready' | 'failed';

export interface ApiError {
  readonly code: string;
  readonly message: string;
  readonly details?: Readonly<Record<string, unknown>>;
}

export interface ClipSummary {
  readonly id: string;
  readonly name: string;
  readonly status: ClipStatus;
  /** Frames done while it is being read or copied. */
  readonly progress: number;
  /** Of about how many frames; null while that is not known. */
  readonly expected: number | null;
  /** Seconds that are left, by the pace so far; null while unknown. */
  readonly secondsLeft: number | null;
  /** Frames of a long clip whose whole picture has been looked at so far; null while it is not. */
  readonly looked: number | null;
  readonly error: ApiError | null;
  readonly bytes: number;
  readonly createdAt: string;
  /** null until it is known what the clip is; from then on it can be worked on, though it may still be being read. */
  readonly info: ClipInfo | null;
  /** Root mean square shake in source pixels; null until measured. */
  readonly shakiness: number | null;
  /** True when the page plays a working copy, not the original. */
  readonly usesCopy: boolean;
  /** What the page shows besides; null for clips read before it was made: their copy is one whole file. */
  readonly made: ClipMade | null;
  /** Frames from the first on that have been read, and copied where they have to be: the rest is still coming. */
  readonly there: number;
  /** What has been done on the Bench. */
  readonly work: {
    /** How many trackers of each kind there are. */
    readonly trackers: Readonly<Partial<Record<MeasuredKind, number>>>;
    readonly trackedFrames: number;
  };
  readonly renders: readonly RenderSummary[];
}

/** A saved shot as other programs are told it; pages take the same in fewer bytes (`shot-body.ts`). */
export interface SavedShot {
  readonly revision: number;
  readonly document: ShotDocument;
  readonly measured: Readonly<Record<string, MeasuredJson>>;
}

/** A state of a shot with its number on the server. To be saved it has the number that it is based on, and of what was measured what changed. */
export interface RevisedShot extends ShotState {
  readonly revision: number;
}

/** A kind of file that can be written. */
export interface FormatSummary {
  readonly id: string;
  readonly name: string;
  /** What it is for, in a few words. */
  readonly use: string;
  readonly extension: string;
  readonly depths: readonly number[];
  readonly alpha: boolean;
  /** Sound that it carries as it is, and what other sound becomes; null where it holds pictures alone. */
  readonly sound: (KeptSound & { readonly anew: string }) | null;
  /** True where a browser plays it. */
  readonly plays: boolean;
  readonly settings: readonly string[];
}

export type RenderStatus = 'waiting' | 'running' | 'done' | 'failed' | 'stopped';

export interface RenderSummary {
  readonly id: string;
  readonly clipId: string;
  readonly status: RenderStatus;
  readonly done: number;
  readonly total: number;
  /** Seconds that are left, by the pace so far; null while unknown. */
  readonly secondsLeft: number | null;
  readonly from: number;
  readonly to: number;
  /** The largest zoom that is applied; null until it is planned. */
  readonly zoom: number | null;
  /** The name of the delivery that it is. */
  readonly delivery: string;
  /** The name of the format that is written, and whether a browser plays it. */
  readonly format: string;
  readonly plays: boolean;
  readonly crf: number;
  readonly bytes: number | null;
  readonly error: ApiError | null;
  /** What the editor should know of the file, such as sound that had to be encoded anew. */
  readonly note: string | null;
  readonly createdAt: string;
}

/** A render as the queue of all clips shows it. */
export interface QueuedRender extends RenderSummary {
  /** The name of its clip. */
  readonly clip: string;
}

/** A machine that renders parts. */
export interface WorkerSummary {
  readonly id: string;
  readonly name: string;
  readonly threads: number;
  readonly doing: { readonly render: string; readonly part: number; readonly frames: number } | null;
  /** Parts that it has made. */
  readonly done: number;
  /** What went wrong last; null where nothing did since. */
  readonly error: string | null;
  /** Seconds since it was heard of. */
  readonly silent: number;
  readonly gone: boolean;
}

export interface QueueSummary {
  /** What runs, what waits, and what has ended of late. */
  readonly renders: readonly QueuedRender[];
  /** True where other machines may render. */
  readonly shared: boolean;
  /** True while the queue that they share does not answer. */
  readonly away: boolean;
  readonly workers: readonly WorkerSummary[];
}

export type ServerEvent =
  | { readonly kind: 'workers' }
  | { readonly kind: 'clip'; readonly id: string }
  | { readonly kind: 'render'; readonly render: RenderSummary }
  | { readonly kind: 'shot'; readonly id: string; readonly revision: number };
