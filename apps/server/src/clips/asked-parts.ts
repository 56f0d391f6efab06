/** Parts that are asked for again so seldom are no longer waited for, in milliseconds. */
const PATIENCE_MS = 3000;

type Make = (signal: AbortSignal) => Promise<void>;

/**
 * Parts of copies that somebody looks at before their turn: made one at a time, the one asked for last first. Whoever
 * waits for one asks again and again; what nobody asks for any more is not begun.
 */
export class AskedParts {
  private readonly wanted = new Map<string, { readonly make: Make; asked: number }>();
  private making: string | null = null;

  /** @param onBusy  told when something is made, and when all is done */
  constructor(private readonly onBusy: (busy: boolean) => void) {}

  /** @param key  the file that is to be there afterwards */
  want(key: string, make: Make): void {
    if (this.making === key) return;
    this.wanted.delete(key); // the last asked for is the last in the map
    this.wanted.set(key, { make, asked: Date.now() });
    void this.work();
  }

  private async work(): Promise<void> {
    if (this.making !== null) return;
    this.making = '';
    this.onBusy(true);
    for (let next = this.next(); next; next = this.next()) {
      const [key, { make }] = next;
      this.making = key;
      this.wanted.delete(key);
      // What cannot be made out of turn comes in its turn, or tells there why it cannot.
      await make(AbortSignal.timeout(120_000)).catch(() => undefined);
    }
    this.making = null;
    this.onBusy(false);
  }

  private next() {
    const since = Date.now() - PATIENCE_MS;
    for (const [key, { asked }] of this.wanted) if (asked < since) this.wanted.delete(key);
    return [...this.wanted].at(-1);
  }
}
