export interface Tracking {
  readonly from: number;
  readonly to: number;
  readonly frame: number;
  readonly done: number;
  readonly total: number;
  readonly startedAt: number;
}

/** Long work under way in this page. */
export interface JobsSlice {
  /** Faces are being looked for. */
  readonly facing: boolean;
  readonly tracking: Tracking | null;
  /** Why tracking is slower in this browser than it could be, as a sentence; null where it is not. */
  readonly slower: string | null;
  /** A plan is being worked out, and takes a while. */
  readonly planning: boolean;
  readonly measuring: { readonly done: number; readonly total: number } | null;
  /** A clean plate is being made. */
  readonly plating: { readonly done: number; readonly total: number } | null;
  /** The masks of something that moves are being made. */
  readonly masking: {
    readonly name: string;
    readonly done: number;
    readonly total: number;
    readonly stop: () => void;
  } | null;
}

export const BLANK_JOBS = {
  facing: false,
  tracking: null,
  slower: null,
  planning: false,
  measuring: null,
  plating: null,
  masking: null,
} as const satisfies JobsSlice;
