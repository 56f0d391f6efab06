import * as Comlink from 'comlink';
import { toast } from 'sonner';
import { withoutSamples, withSamples, type SpotStop, type Track, type TrackStep } from '@lurn/core';
import { setTracks } from '@lurn/model';
import type { ClipFile } from '@lurn/media';
import type { TrackApi } from '../workers/track.worker';
import { bench, setBench } from './bench';
import { beginGesture, edit, endGesture, shotDocument, shotState } from './shot';
import { spotsToTrack } from './acts';

export type TrackWay = 'end' | 'start' | 'next' | 'previous';

/** Runs the tracker's worker for the open Bench. */
export class Tracker {
  private readonly worker = new Worker(new URL('../workers/track.worker.ts', import.meta.url), {
    type: 'module',
  });
  private readonly api = Comlink.wrap<TrackApi>(this.worker);
  private readonly ready: Promise<void>;

  constructor(file: ClipFile) {
    this.ready = this.api.open(file);
    this.ready.catch(() => undefined);
  }

  /** Tracks from the present frame; what was measured before a stop is kept. One step of undo. */
  async run(way: TrackWay): Promise<void> {
    if (bench().tracking) return;
    const from = bench().frame;
    const to = this.target(way, from);
    const spots = spotsToTrack();
    if (spots.length === 0) {
      toast.warning(
        shotDocument().spots.length === 0
          ? 'There is no spot yet. Press on the picture to place one.'
          : `No spot has a sample on frame ${from}. Go to a frame where one has, or place it here.`,
        { id: 'track' },
      );
      return;
    }
    if (to === from) {
      toast.info(
        `This is the ${way === 'end' || way === 'next' ? 'last' : 'first'} frame; there is nothing further to track.`,
        { id: 'track' },
      );
      return;
    }
    const { tracks } = shotState();
    const request = {
      from,
      to,
      spots: spots.map(({ id, name, patch, reach, minConfidence }) => ({
        id,
        name,
        settings: { patch, reach, minConfidence },
        track: tracks[id],
      })),
    };
    setBench({
      playing: false,
      tracking: { from, to, frame: from, done: 0, total: Math.abs(to - from), startedAt: Date.now() },
    });
    beginGesture();
    const stops: SpotStop[] = [];
    try {
      await this.ready;
      const outcome = await this.api.track(
        request,
        Comlink.proxy((steps: TrackStep[]) => {
          stops.push(...steps.flatMap((s) => s.stopped));
          this.take(steps, to);
        }),
      );
      if (outcome.ended === 'failed') toast.error(`Tracking failed: ${outcome.message}`, { id: 'track' });
    } catch (error) {
      toast.error(`Tracking failed: ${(error as Error).message}`, { id: 'track' });
    } finally {
      endGesture();
      setBench({ tracking: null });
    }
    if (stops.length > 0) {
      toast.warning(stops.map((s) => s.message).join('\n'), {
        id: 'track',
        duration: 8000,
        style: { whiteSpace: 'pre-line' },
      });
    }
  }

  stop(): void {
    void this.api.stop();
  }

  close(): void {
    this.worker.terminate();
  }

  private target(way: TrackWay, from: number): number {
    const last = bench().info.frames - 1;
    const { range } = shotDocument();
    switch (way) {
      case 'end':
        return from < range.to ? range.to : last;
      case 'start':
        return from > range.from ? range.from : 0;
      case 'next':
        return Math.min(last, from + 1);
      case 'previous':
        return Math.max(0, from - 1);
    }
  }

  /** Takes a batch of measured frames over; a spot that stopped loses what was tracked beyond by an earlier run. */
  private take(steps: readonly TrackStep[], to: number): void {
    edit((state) => {
      const changed: Record<string, Track> = {};
      const of = (id: string) => changed[id] ?? state.tracks[id];
      const fresh = new Map<string, Parameters<typeof withSamples>[1][number][]>();
      for (const step of steps) {
        for (const { id, sample } of step.samples) fresh.set(id, [...(fresh.get(id) ?? []), sample]);
      }
      for (const [id, samples] of fresh) if (of(id)) changed[id] = withSamples(of(id), samples);
      for (const { id, frame } of steps.flatMap((s) => s.stopped)) {
        const [a, b] = frame <= to ? [frame, to] : [to, frame];
        if (of(id)) changed[id] = withoutSamples(of(id), a, b, (s) => s !== 'pinned');
      }
      return setTracks(state, changed);
    });
    const last = steps[steps.length - 1];
    const { tracking } = bench();
    if (tracking)
      setBench({ frame: last.frame, tracking: { ...tracking, frame: last.frame, done: last.done } });
  }
}
