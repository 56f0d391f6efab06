import { streamOf } from './decode.js';
import { asFile, ffmpegPath, LOCAL_ONLY, runTool } from './tools.js';
import type { probeFile } from './probe.js';

/** Pictures that are looked at, and how many there have to be. */
const [LOOKED_AT, FEWEST] = [400, 40];
/** Of two and three fields a picture every fifth one repeats its upper field, and every fifth its lower one: so much of all at least, and at most. */
const [LEAST, MOST] = [0.12, 0.28];

type Facts = Pick<Awaited<ReturnType<typeof probeFile>>, 'stream'>;

/**
 * True for film that was spread over the fields of video, two and three fields a picture in turn: then its fields are no
 * moments of their own, and four whole pictures can be had of five. Told by the fields that are there twice (ffmpeg's idet).
 */
export async function isTelecined(path: string, facts: Facts, signal?: AbortSignal): Promise<boolean> {
  const look = ['-map', streamOf(facts), '-frames:v', String(LOOKED_AT), '-vf', 'idet', '-f', 'null', '-'];
  const args = ['-hide_banner', '-nostats', ...LOCAL_ONLY, '-i', asFile(path), ...look];
  const { stderr } = await runTool(ffmpegPath(), args, { seconds: 300, signal });
  const said = /Repeated Fields: Neither:\s*(\d+)\s*Top:\s*(\d+)\s*Bottom:\s*(\d+)/g;
  const last = [...stderr.matchAll(said)].pop();
  if (!last) return false;
  const [neither, top, bottom] = last.slice(1).map(Number);
  const all = neither + top + bottom;
  return all >= FEWEST && [top, bottom].every((n) => n >= LEAST * all && n <= MOST * all);
}

/** Filters that put the film's pictures together again, and take out the one of five that is there twice. */
export function untelecined(first: 'top' | 'bottom'): string[] {
  const order = first === 'top' ? 'tff' : 'bff';
  return [
    `fieldmatch=order=${order}:combmatch=full`,
    // Where the cadence breaks, at a cut, what still is of two moments.
    `bwdif=mode=send_frame:parity=${order}:deint=interlaced`,
    'decimate',
  ];
}
