import { Comlink } from './comlink';

/** A worker that is begun when it is first asked for something: a shot that is only looked at does without. */
export class LateWorker<Api> {
  private worker: Worker | null = null;
  private opened: Promise<Comlink.Remote<Api>> | null = null;

  constructor(
    private readonly make: () => Worker,
    private readonly open: (api: Comlink.Remote<Api>) => Promise<void>,
  ) {}

  get begun(): boolean {
    return this.opened !== null;
  }

  /** What it answers, once it is open. @throws what opening it threw */
  api(): Promise<Comlink.Remote<Api>> {
    this.opened ??= this.begin();
    return this.opened;
  }

  /** Nothing that it was asked is answered any more; asked again, another is begun. */
  end(): void {
    this.worker?.terminate();
    this.worker = this.opened = null;
  }

  private async begin(): Promise<Comlink.Remote<Api>> {
    this.worker = this.make();
    const api = Comlink.wrap<Api>(this.worker);
    await this.open(api);
    return api;
  }
}
