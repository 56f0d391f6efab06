import type { Remote } from 'comlink';
import type { Size } from '@lurn/core/plan';
import { bench } from '../../../state/bench';
import { shotState } from '../../../state/shot';
import type { PictureApi } from '../../../workers/picture.worker';
import { viewOf } from './view-of';

/** A picture that takes longer to draw exactly is drafted first. */
const SLOW_MS = 30;
const SETTLE_MS = 150;
/** The exact picture waits so many times as long for what will draw it anew. */
const MOST_WAITS = 20;
/** Views that are with the worker while it plays, at the most. */
const AHEAD = 2;

/**
 * One view at a time: while the worker draws, only the newest is kept for afterwards. While it plays the next one is
 * sent ahead, so that the worker never waits for the page. Where drawing is slow (no graphics card), a quick draft comes
 * first and the exact picture once nothing has changed for a moment.
 */
export class DrawQueue {
  /** In CSS pixels; nothing is drawn while it is empty. */
  size: Size = { width: 0, height: 0 };
  /** The exact picture takes its time here; taken for so until it is known. */
  drafting = true;
  /** ... and so it did the last time. */
  private slow = false;
  private queued = 0;
  private drawing = 0;
  private stale = false;
  private settle: ReturnType<typeof setTimeout> | undefined;

  constructor(private readonly api: Remote<PictureApi>) {}

  /** Something has changed: draws it as soon as its turn comes. */
  readonly show = (): void => {
    this.stale = true;
    clearTimeout(this.settle);
    if (this.queued || this.drawing >= (bench().playing ? AHEAD : 1)) return;
    // What plays is in step with the page already.
    if (bench().playing) this.draw(true);
    else this.queued = requestAnimationFrame(() => this.draw(this.drafting || this.slow || isMoving()));
  };

  close(): void {
    cancelAnimationFrame(this.queued);
    clearTimeout(this.settle);
  }

  private draw(draft: boolean): void {
    this.queued = 0;
    clearTimeout(this.settle);
    if (this.size.width === 0) return;
    this.stale = false;
    this.drawing++;
    this.api
      .show(viewOf(this.size, draft))
      .then((took) => {
        if (!draft && took > 0) this.slow = took > SLOW_MS;
        if (draft && !isMoving()) this.rest();
      })
      .catch(() => undefined)
      .finally(() => {
        this.drawing--;
        if (this.stale) this.show();
      });
  }

  /** Draws exactly once nothing changes any more, and not just before what is being worked out would have it drawn again. */
  private rest(waits = 0): void {
    this.settle = setTimeout(() => {
      if (this.drawing > 0) return;
      if (isAwaited() && waits < MOST_WAITS) this.rest(waits + 1);
      else this.draw(false);
    }, SETTLE_MS);
  }
}

/** What is known of the whole clip, or the motion of what is set, is on its way. */
const isAwaited = () => {
  const { scene, clip, steadyOf } = bench();
  return (scene === null && Boolean(clip.made?.scene)) || steadyOf !== shotState();
};

const isMoving = () => bench().playing || bench().tracking !== null;
