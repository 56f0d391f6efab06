import {
  framingMatrix,
  LurnError,
  motionMatrix,
  pictureMatrix,
  steady,
  writeMotion,
  type MotionFrame,
} from '@lurn/core';
import { render } from '@lurn/engine';
import type { SteadyArguments } from './arguments.js';
import { openClip, openSpots, openTracks } from './inputs.js';
import { progressLine, type Surroundings } from './run.js';
import { trackEntries, writeOut } from './track.js';

export async function steadyCommand(args: SteadyArguments, io: Surroundings): Promise<object> {
  const clip = await openClip(args.clip, io.signal);
  const { info, times } = clip;
  const last = info.frames - 1;
  if (args.ref > last)
    throw new LurnError('bad-range', `--ref ${args.ref} is past the clip's last frame, ${last}.`);
  const range = { from: args.from ?? 0, to: args.to ?? last };
  if (range.to > last || range.from > range.to) {
    throw new LurnError(
      'bad-range',
      `--from ${range.from} --to ${range.to} is not a range of frames 0 to ${last}.`,
    );
  }
  const tracks = args.tracks
    ? await openTracks(args.tracks, clip)
    : (await trackEntries(args.clip, clip, await openSpots(args.spots!, clip), range, io)).tracks;
  const plan = steady({
    size: info,
    frames: info.frames,
    pixelAspect: info.pixelAspect,
    tracks: tracks.map((t) => t.track),
    ref: args.ref,
    ...range,
    use: args.use,
    framing: { mode: args.fitZoom ? 'fit' : 'hand', zoom: 1, shiftX: 0, shiftY: 0 },
  });
  if (!plan) throw new LurnError('no-samples', 'There is no sample to solve the motion from.');
  if (args.fitZoom && !Number.isFinite(plan.fit.zoom)) {
    throw new LurnError(
      'no-fit',
      `No zoom hides the edges: on frame ${plan.fit.frame} the picture has left the frame.`,
    );
  }
  if (args.motion) {
    const framing = framingMatrix(plan.framing, info);
    const frames = plan.corrections.map((correction, frame): MotionFrame => ({
      frame,
      motion: motionMatrix(plan.motion, frame, args.use),
      correction,
      framing,
      residual: plan.motion.residual[frame],
    }));
    const head = { width: info.width, height: info.height, frames: info.frames, fps: info.fps };
    await writeOut(args.motion, writeMotion(head, args.ref, plan.framing.zoom, frames));
  }
  if (args.out) {
    await render({
      source: args.clip,
      info,
      times,
      file: args.out,
      ...range,
      picture: (frame) => pictureMatrix(plan, frame, info),
      crf: args.crf,
      signal: io.signal,
      onProgress: progressLine(io, 'Rendering'),
    });
  }
  return {
    out: args.out,
    motion: args.motion,
    zoom: plan.framing.zoom,
    fit_zoom: Number.isFinite(plan.fit.zoom) ? plan.fit.zoom : null,
    fit_zoom_frame: plan.fit.frame,
    edge_frames: plan.edgeFrames.length,
    shake_before_px: plan.measure.before,
    shake_after_px: plan.measure.after,
  };
}
