import { useMemo } from 'react';
import { toast } from 'sonner';
import type { Fade } from '@lurn/core/scene';
import { toggleCut } from '@lurn/model';
import { bench, useBench } from './bench';
import { edit, shotDocument, useShot } from './shot';

/** Where a part of the clip begins that is smoothed by itself. */
export interface Cut {
  readonly frame: number;
  /** Set by hand; others were found in the picture. */
  readonly own: boolean;
  /** Where one picture passes into the other, when that takes longer than a frame. */
  readonly fade?: Fade;
}

const NONE: readonly never[] = [];

/** Cuts that were found and those set by hand, in their order. */
export function useCuts(): readonly Cut[] {
  const found = useBench((s) => s.clip.made?.scene?.cuts) ?? NONE;
  const fades = useBench((s) => s.clip.made?.scene?.fades) ?? NONE;
  const own = useShot((s) => s.state.document.cuts);
  return useMemo(() => joined(found, own, fades), [found, own, fades]);
}

export function joined(found: readonly number[], own: readonly number[], fades: readonly Fade[] = []): Cut[] {
  const all = [
    ...found.map((frame) => {
      const fade = fades.find((f) => f.at === frame);
      return { frame, own: false, ...(fade && { fade }) };
    }),
    ...own.filter((c) => !found.includes(c)).map((frame) => ({ frame, own: true })),
  ];
  return all.sort((a, b) => a.frame - b.frame);
}

/** Cuts on the frame that is shown, or takes the cut there away. */
export function cutHere(): void {
  const { frame, clip } = bench();
  if (clip.made?.scene?.cuts.includes(frame) && !shotDocument().cuts.includes(frame)) {
    toast.info(`A cut was found on frame ${frame} already.`, { id: 'cut' });
    return;
  }
  if (frame === 0) {
    toast.info('A cut begins another part: go to the first frame after it.', { id: 'cut' });
    return;
  }
  edit((s) => toggleCut(s, frame));
}
