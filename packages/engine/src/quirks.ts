import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { asFile, ffmpegPath, ffprobePath, runTool } from './tools.js';

/**
 * What has to be said differently to some tools: by their version where words have changed, by a trial where it is what
 * they do. The builds inside the npm packages are of ffmpeg 4.1; no package on the registry was found that brings current
 * ones without downloading them at install. Debian's is of 5.1; tests run with both.
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

let lead: Promise<number> | null = null;

/**
 * By how much Opus has to be moved, in seconds, on its way into WebM. What comes before the first sample is told in the
 * file, but some muxers (those of ffmpeg 4 and 5.1 do) move the pictures by it: tried once.
 */
export function opusLead(): Promise<number> {
  return (lead ??= picturesMoved().then((moved) => (moved ? OPUS_LEAD : 0)));
}

/** Whether pictures that begin at 0 do not any more in a WebM file with Opus beside them. */
async function picturesMoved(): Promise<boolean> {
  const folder = await mkdtemp(join(tmpdir(), 'lurn-trial-'));
  try {
    const file = asFile(join(folder, 'trial.webm'));
    const sources = ['color=size=16x16:rate=25:duration=0.2', 'anullsrc=sample_rate=48000'];
    const made = await runTool(
      ffmpegPath(),
      [
        ...['-v', 'error', ...sources.flatMap((s) => ['-f', 'lavfi', '-i', s]), '-t', '0.2'],
        ...['-c:v', 'libvpx-vp9', '-deadline', 'realtime', '-c:a', 'libopus', '-f', 'webm', file],
      ],
      { seconds: 20 },
    );
    const asked = [
      '-v',
      'error',
      '-select_streams',
      'v:0',
      '-show_entries',
      'stream=start_time',
      '-of',
      'csv=p=0',
    ];
    const { stdout } = await runTool(ffprobePath(), [...asked, file], { seconds: 20 });
    return made.status === 0 && Number(stdout.trim()) > OPUS_LEAD / 2;
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
