import { soundIsCopied, type ClipInfo } from '@lurn/model';
import type { Sound } from './format.js';

/** No sound at all. */
export const silent = (): Sound => ({ args: ['-an'], coded: null });

const copied: Sound = { args: ['-c:a', 'copy'], coded: null };

/** MP4 and QuickTime: as it is where they carry it. */
export function mp4Sound(info: ClipInfo): Sound {
  return soundIsCopied(info) ? copied : { args: ['-c:a', 'aac', '-b:a', '320k'], coded: 'AAC at 320 kbit/s' };
}

/** QuickTime to cut with: whole samples, as fine as the source's. */
export function wholeSound({ audio }: ClipInfo): Sound {
  if (audio && /^pcm_/.test(audio.codec)) return copied;
  return { args: ['-c:a', 'pcm_s24le'], coded: null };
}

/** WebM carries Opus and Vorbis. */
export function webmSound({ audio }: ClipInfo): Sound {
  if (audio && ['opus', 'vorbis'].includes(audio.codec)) return copied;
  return { args: ['-c:a', 'libopus', '-b:a', '192k'], coded: 'Opus at 192 kbit/s' };
}

/**
 * Matroska, to keep: whole samples. What is only copied there is cut between packets, and what an encoder put before the
 * first sample is not told.
 */
export function keptSound({ audio }: ClipInfo): Sound {
  if (audio && /^pcm_/.test(audio.codec)) return { args: ['-c:a', audio.codec], coded: null };
  return { args: ['-c:a', 'flac', '-sample_fmt', 's32'], coded: null };
}
