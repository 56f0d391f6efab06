/**
 * An error meant for a person: a stable `code` that programs can rely on, and a sentence that says what
 * happened, where, and what to do. It crosses worker and HTTP borders as `{ code, message, details }`.
 */
export class LurnError extends Error {
  constructor(
    readonly code: string,
    message: string,
    readonly details: Readonly<Record<string, unknown>> = {},
  ) {
    super(message);
    this.name = 'LurnError';
  }

  toJSON(): { code: string; message: string; details: Readonly<Record<string, unknown>> } {
    return { code: this.code, message: this.message, details: this.details };
  }
}

/** The error that an aborted `AbortSignal` leads to; `code` is `stopped`. */
export function stoppedError(what = 'The work'): LurnError {
  return new LurnError('stopped', `${what} was stopped.`);
}

/** What long work needs of an `AbortSignal`; this package knows neither DOM nor Node. */
export interface AbortSignalLike {
  readonly aborted: boolean;
}
