import { ffmpegPath, runTool } from './tools.js';

/**
 * What has to be said differently to older tools. The builds inside the npm packages are of ffmpeg 4.1; no package on the
 * registry was found that brings current ones without downloading them at install.
 */

let version: Promise<number> | null = null;

/** The major version of ffmpeg; 0 when its first line does not tell. */
function ffmpegMajor(): Promise<number> {
  version ??= runTool(ffmpegPath(), ['-version'], { seconds: 20 }).then(({ stdout }) =>
    Number(/^ffmpeg version n?(\d+)\./.exec(stdout)?.[1] ?? 0),
  );
  return version;
}

/** "Pass every decoded frame on once", in the words that this ffmpeg knows. */
export async function everyFrame(): Promise<string[]> {
  return (await ffmpegMajor()) >= 6 ? ['-fps_mode', 'passthrough'] : ['-vsync', 'passthrough'];
}

/** Options of input and output that flag a copied file as turned by so many degrees counter-clockwise. */
export async function turnedBy(
  degrees: number,
): Promise<{ readonly input: string[]; readonly output: string[] }> {
  return (await ffmpegMajor()) >= 6
    ? { input: ['-display_rotation:v:0', String(degrees)], output: [] }
    : { input: [], output: ['-metadata:s:v:0', `rotate=${degrees}`] };
}

/**
 * Options that keep the stamps of a varying rate while pictures are encoded. The muxer of ffmpeg 4 gives the last picture
 * no duration, and its edit list then cuts that picture off: without B-frames no edit list is needed.
 */
export async function varyingRate(): Promise<string[]> {
  const stamps = [...(await everyFrame()), '-enc_time_base', '1:90000', ...VARYING_RATE_MUXED];
  return (await ffmpegMajor()) < 5 ? [...stamps, '-bf', '0', '-use_editlist', '0'] : stamps;
}

/** The same of what is only put into a file: there the edit list tells what of the sound comes before the first picture. */
export const VARYING_RATE_MUXED = ['-video_track_timescale', '90000'];

/** Seconds that libopus needs before the first sample: 312 at 48 kHz. */
const OPUS_LEAD = 312 / 48_000;

/**
 * By how much Opus has to be moved, in seconds, on its way into WebM. What comes before the first sample is told in the
 * file, but the muxer of ffmpeg 4 moves the pictures by it.
 */
export async function opusLead(): Promise<number> {
  return (await ffmpegMajor()) < 5 ? OPUS_LEAD : 0;
}
