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

/** An error as it crosses a border - a worker's, a thread's, HTTP - and comes out on the other side as it went in. */
export interface WireError {
  readonly code: string;
  readonly message: string;
  readonly details?: Readonly<Record<string, unknown>>;
}

/** Any error on its way across; what is not meant for a person has the code `fault`. */
export function toWire(error: unknown): WireError {
  if (error instanceof LurnError) return error.toJSON();
  return { code: 'fault', message: error instanceof Error ? error.message : String(error) };
}

/** The error that came across. */
export function fromWire({ code, message, details }: WireError): LurnError {
  return new LurnError(code, message, details);
}

/** The error that an aborted `AbortSignal` leads to; `code` is `stopped`. */
export function stoppedError(what = 'The work'): LurnError {
  return new LurnError('stopped', `${what} was stopped.`);
}

/** What long work needs of an `AbortSignal`; this package knows neither DOM nor Node. */
export interface AbortSignalLike {
  readonly aborted: boolean;
}
