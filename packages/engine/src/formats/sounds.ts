import { soundStays } from '@lurn/model';
import type { SoundRule } from './format.js';

const AAC = {
  as: 'AAC at 320 kbit/s',
  args: ['-c:a', 'aac', '-b:a', '320k'],
  loses: true,
};

/** MP4 carries most of what is coded. */
export const MP4_SOUND: SoundRule = {
  keeps: ['aac', 'mp3', 'ac3', 'eac3', 'alac', 'opus', 'flac', 'mp2'],
  anew: AAC,
};

/** QuickTime less, and whole samples. */
export const MOV_SOUND: SoundRule = { keeps: ['aac', 'mp3', 'ac3', 'alac', 'pcm'], anew: AAC };

/** QuickTime to cut with: whole samples, as fine as the source's. */
export const WHOLE_SOUND: SoundRule = {
  keeps: ['pcm'],
  anew: { as: 'whole samples (PCM)', args: ['-c:a', 'pcm_s24le'], loses: false },
};

/** WebM carries Opus and Vorbis. */
export const WEBM_SOUND: SoundRule = {
  keeps: ['opus', 'vorbis'],
  anew: { as: 'Opus at 192 kbit/s', args: ['-c:a', 'libopus', '-b:a', '192k'], loses: true },
};

/**
 * Matroska, to keep: whole samples. What is only copied there is cut between packets, and what an encoder put before the
 * first sample is not told.
 */
export const KEPT_SOUND: SoundRule = {
  keeps: ['pcm'],
  anewToo: true,
  anew: { as: 'whole samples (FLAC)', args: ['-c:a', 'flac', '-sample_fmt', 's32'], loses: false },
};

/** Options for a track of such a codec. */
export function soundArgs(rule: SoundRule, codec: string): readonly string[] {
  if (!soundStays(rule, codec)) return rule.anew.args;
  return ['-c:a', rule.anewToo ? codec : 'copy'];
}

/** As what such a track is coded anew, losing something; null where nothing is lost. */
export function soundLost(rule: SoundRule | null, codec: string): string | null {
  return rule && !soundStays(rule, codec) && rule.anew.loses ? rule.anew.as : null;
}
