/** Where a run prints, and what may stop it. */
export interface Surroundings {
  readonly signal: AbortSignal;
  readonly out: (text: string) => void;
  readonly err: (text: string) => void;
  /** True where progress on the error stream is welcome. */
  readonly progress: boolean;
}

/** Prints progress in place, a few times a second at the most. */
export function progressLine(io: Surroundings, what: string): (done: number, total: number) => void {
  let last = 0;
  return (done, total) => {
    const now = Date.now();
    if (!io.progress || (now - last < 200 && done < total)) return;
    last = now;
    io.err(`\r${what}: ${done} of ${total} frames${done === total ? '\n' : ''}`);
  };
}
