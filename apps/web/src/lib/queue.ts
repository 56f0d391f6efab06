import type { ClipSummary, QueuedRender, QueueSummary, RenderSummary } from '@lurn/model';

/** A list of clips with what has been told of one render; null where that render is not in it yet. */
export function clipsWith(clips: readonly ClipSummary[], render: RenderSummary): ClipSummary[] | null {
  const at = clips.findIndex((c) => c.id === render.clipId);
  const clip = clips[at];
  if (!clip?.renders.some((r) => r.id === render.id)) return null;
  // What was done has changed on the clip's card too: that is asked for.
  if (clip.renders.find((r) => r.id === render.id)!.status !== render.status) return null;
  const renders = clip.renders.map((r) => (r.id === render.id ? render : r));
  return clips.map((c, i) => (i === at ? { ...c, renders } : c));
}

/** A queue with what has been told of one render; null where its order changes by that. */
export function queueWith(queue: QueueSummary, render: RenderSummary): QueueSummary | null {
  const known = queue.renders.find((r) => r.id === render.id);
  if (known?.status !== render.status) return null;
  const renders = queue.renders.map((r) => (r === known ? { ...r, ...render } : r));
  return { ...queue, renders };
}

/** Waiting renders as they stand when one is put before another, or last where that is null. */
export function movedBefore(waiting: readonly QueuedRender[], id: string, before: string | null): string[] {
  const others = waiting.map((r) => r.id).filter((other) => other !== id);
  const at = before === null ? others.length : others.indexOf(before);
  return at < 0 ? waiting.map((r) => r.id) : [...others.slice(0, at), id, ...others.slice(at)];
}

/** Frames a second, and seconds that all that runs and waits will take at that; null while that is not known. */
export function allSecondsLeft(renders: readonly QueuedRender[]): number | null {
  const running = renders.filter((r) => r.status === 'running');
  const paces = running.flatMap((r) =>
    r.secondsLeft !== null && r.total > r.done ? [(r.total - r.done) / r.secondsLeft] : [],
  );
  const pace = paces.reduce((a, b) => a + b, 0);
  if (!(pace > 0)) return null;
  const frames = renders
    .filter((r) => r.status === 'running' || r.status === 'waiting')
    .reduce((n, r) => n + r.total - r.done, 0);
  return frames / pace;
}
