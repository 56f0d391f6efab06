import type { Region } from '@lurn/core/geometry';
import { bench, setBench } from '../../../../state/bench';
import { LIKE, likeAt } from '../../../../state/picking';
import { drawSoft } from '../../../../state/soft/soft';
import { asShotPlace } from '../as-shot';
import { common } from '../mark';
import { Tool, type Drag, type PointerAt, type Press } from '../tool';

/** Dragging so far, in screen pixels, takes in colours of a whole range more. */
const FULL = 500;

/** What hangs together by its colour becomes a soft surface: pressed on, and more or less of it taken in by dragging. */
export class ByColourTool extends Tool {
  hint(): string {
    return 'Press on its colour; drag right to take in more, left for less. Esc ends.';
  }

  protected press(press: Press): Drag | null {
    const { at, pane, pans } = press;
    const taken = pans ? common(press) : null;
    if (taken) return taken;
    const { frame } = bench();
    const asked = new Asked(asShotPlace(at, pane));
    return {
      move: (to) => asked.widen(to),
      up: () => void asked.found().then((region) => this.take(region, frame)),
      cancel: () => asked.end(),
    };
  }

  override exit(): void {
    super.exit();
    setBench({ drawing: [] });
  }

  /** @param frame  on which it was pressed: what was found there is of no use on another */
  private take(region: Region | null | undefined, frame: number): void {
    setBench({ drawing: [] });
    if (!region || bench().frame !== frame || bench().tool.id !== 'by-colour') return;
    setBench({ tool: { id: 'mark' } });
    drawSoft(region.outline, false, region.holes);
  }
}

/** One press: the region is looked for while the pointer moves, one question at a time, the last one answered. */
class Asked {
  private reach: number = LIKE;
  private ended = false;
  private asking: Promise<Region | null | undefined>;
  private waiting = false;

  constructor(private readonly from: PointerAt) {
    this.asking = this.ask();
  }

  widen({ screen }: PointerAt): void {
    this.reach = Math.min(1, Math.max(0.01, LIKE + (screen.x - this.from.screen.x) / FULL));
    if (this.waiting) return;
    this.waiting = true;
    this.asking = this.asking.then(() => {
      this.waiting = false;
      return this.ask();
    });
  }

  /** What the last question found: null for nothing, undefined once it was given up. */
  found(): Promise<Region | null | undefined> {
    return this.asking;
  }

  end(): void {
    this.ended = true;
    setBench({ drawing: [] });
  }

  private async ask(): Promise<Region | null | undefined> {
    if (this.ended) return undefined;
    const region = await likeAt(this.from.picture, this.reach);
    if (this.ended) return undefined;
    setBench({ drawing: region?.outline ?? [] });
    return region;
  }
}
