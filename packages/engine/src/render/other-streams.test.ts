import { writeFile } from 'node:fs/promises';

import { ClipFolder, indexed, picture, renderPlain, run, streams, x264 } from '../testing/clips.js';
import { ffprobePath } from '../index.js';
import { timecodeAfter } from './other-streams.js';

/** What a clip has besides its pictures comes along: every sound track, subtitles, chapters, time code, language, title. */

let clips: ClipFolder;
beforeAll(async () => {
  clips = await ClipFolder.open();
  await writeFile(clips.at('words.srt'), '1\n00:00:00,500 --> 00:00:01,500\nThe last gondola\n\n2\n00:00:03,000 --> 00:00:03,800\nof the evening\n'); // prettier-ignore
  await writeFile(clips.at('marks.txt'), ';FFMETADATA1\ntitle=Valley station\n[CHAPTER]\nTIMEBASE=1/1000\nSTART=0\nEND=2000\ntitle=Below\n[CHAPTER]\nTIMEBASE=1/1000\nSTART=2000\nEND=4000\ntitle=Above\n'); // prettier-ignore
  const tones = [440, 880].flatMap((f) => ['-f', 'lavfi', '-i', `sine=frequency=${f}:duration=4`]);
  await clips.make(
    'all.mov',
    ...[...picture('320x180', 4), ...tones, '-i', clips.at('words.srt'), '-i', clips.at('marks.txt')],
    ...['-map', '0:v', '-map', '1:a', '-map', '2:a', '-map', '3:s', '-map_metadata', '4', ...x264],
    ...['-c:a:0', 'aac', '-c:a:1', 'pcm_s16le', '-c:s', 'mov_text', '-timecode', '10:00:00:00'],
    ...['-metadata:s:a:0', 'language=ger', '-metadata:s:a:1', 'language=ita'],
  );
}, 60_000);
afterAll(() => clips.remove());

it.each([
  ['h264-mp4', 'mp4', ['aac', 'aac'], 'mov_text'],
  ['prores-422-mov', 'mov', ['pcm_s24le', 'pcm_s16le'], 'mov_text'],
  ['ffv1-mkv', 'mkv', ['flac', 'pcm_s16le'], 'subrip'],
  ['vp9-webm', 'webm', ['opus', 'opus'], 'webvtt'],
])('%s', async (format, extension, sounds, subtitles) => {
  const clip = await indexed(clips.at('all.mov'));
  const out = clips.at(`all.${format}.${extension}`);
  await renderPlain(clips.at('all.mov'), clip, out, { format, from: 30 });
  const made = (await streams(out)) as unknown as { codec_type: string; codec_name: string; tags?: Record<string, string> }[]; // prettier-ignore
  const of = (type: string) => made.filter((s) => s.codec_type === type);
  expect(of('audio').map((s) => s.codec_name)).toEqual(sounds);
  expect(of('audio').map((s) => s.tags?.language ?? s.tags?.LANGUAGE)).toEqual(['ger', 'ita']);
  expect(of('subtitle').map((s) => s.codec_name)).toEqual([subtitles]);
  const { stdout } = await run(await ffprobePath(), ['-v', 'error', '-show_chapters', '-show_format', '-show_streams', '-of', 'json', out]); // prettier-ignore
  const told = JSON.parse(stdout) as { chapters: { start_time: string; tags: { title: string } }[]; format: { tags: Record<string, string> }; streams: { tags?: Record<string, string> }[] }; // prettier-ignore
  expect(told.chapters.map((c) => c.tags.title)).toEqual(['Below', 'Above']);
  // The range begins 1.2 s later.
  expect(Number(told.chapters[1].start_time)).toBeCloseTo(0.8, 1);
  expect(told.format.tags.title).toBe('Valley station');
  if (/mp4|mov/.test(extension))
    expect(told.streams.some((s) => s.tags?.timecode === '10:00:01:05')).toBe(true);
});

it('time codes go on, dropped numbers left out', () => {
  expect(timecodeAfter('01:00:00:00', 30, 25)).toBe('01:00:01:05');
  expect(timecodeAfter('00:00:59;29', 1, 30000 / 1001)).toBe('00:01:00;02');
  expect(timecodeAfter('00:09:59;29', 1, 30000 / 1001)).toBe('00:10:00;00');
  expect(timecodeAfter('23:59:59:24', 1, 25)).toBe('00:00:00:00');
});
