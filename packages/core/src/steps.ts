/**
 * Long work in steps of some milliseconds: whoever runs it may pause between them, or leave it. What the generator
 * returns is the result.
 */
export type Steps<T> = Generator<undefined, T, undefined>;

/** Runs work to its end without a pause. */
export function inOneGo<T>(steps: Steps<T>): T {
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
  }
}
