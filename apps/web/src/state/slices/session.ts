import type { ClipInfo, ClipSummary } from '@lurn/model';

/** A note that is being written: of frames, and of one that is there where it has an id. */
export interface NoteDraft {
  readonly id: string | null;
  readonly from: number;
  readonly to: number;
  readonly text: string;
}

export type Saving = 'saved' | 'saving' | 'unsaved' | 'failed';

/** The open shot: its clip, and how it stands with the server. */
export interface SessionSlice {
  readonly clip: ClipSummary;
  readonly info: ClipInfo;
  readonly times: Float64Array;
  readonly saving: Saving;
  readonly savedRevision: number;
  readonly problem: { readonly code: string; readonly message: string } | null;
  /** Dialogs that are open. */
  readonly keySheet: boolean;
  readonly numbers: boolean;
  readonly importing: boolean;
  /** The note that is being written. */
  readonly noting: NoteDraft | null;
}

export const BLANK_SESSION = {
  saving: 'saved',
  savedRevision: 0,
  problem: null,
  keySheet: false,
  numbers: false,
  importing: false,
  noting: null,
} as const satisfies Partial<SessionSlice>;
