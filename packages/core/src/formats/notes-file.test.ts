import fc from 'fast-check';
import { notesAsCsv, readNotes, type NotesClock } from './notes-file.js';

const clock: NotesClock = { fps: 25, times: Array.from({ length: 100 }, (_, i) => i / 25) };

it('a timeline of very many clips, one nested without end, and a note of angle brackets alone are taken or refused in words', () => {
  const clock = { times: Float64Array.from({ length: 100 }, (_, i) => i / 25), fps: 25 };
  const range = (from: number) => ({
    start_time: { OTIO_SCHEMA: 'RationalTime.1', value: from, rate: 25 },
    duration: { OTIO_SCHEMA: 'RationalTime.1', value: 5, rate: 25 },
  });
  const clip = (from: number) => ({ OTIO_SCHEMA: 'Clip.1', source_range: range(from) });
  const children = Array.from({ length: 150_000 }, (_, i) => clip(i % 90));
  const timeline = { OTIO_SCHEMA: 'Track.1', kind: 'Video', children };
  expect(readNotes(JSON.stringify(timeline), clock).range).toEqual({ from: 0, to: 93 });
  const deep = '{"OTIO_SCHEMA":"Stack.1","children":['.repeat(4000) + ']}'.repeat(4000);
  expect(() => readNotes(deep, clock)).toThrow(expect.objectContaining({ code: 'bad-notes' }));
  const brackets = `1\n00:00:01,000 --> 00:00:02,000\n${'<'.repeat(40_000)}x\n`;
  expect(readNotes(brackets, clock).notes).toHaveLength(1);
});

describe('notes', () => {
  it('of subtitles lie on the frames that are shown while they stand', () => {
    const srt = [
      '1\r\n00:00:00,000 --> 00:00:00,400\r\nrope crosses\r\n',
      '2\r\n00:00:01,000 --> 00:00:02,000\r\n<i>sign</i> is\r\nhidden\r\n',
      '3\r\n00:00:03,960 --> 00:00:09,000\r\nto the end',
    ].join('\r\n');
    expect(readNotes(srt, clock).notes).toEqual([
      { from: 0, to: 9, text: 'rope crosses' },
      { from: 25, to: 49, text: 'sign is hidden' },
      { from: 99, to: 99, text: 'to the end' },
    ]);
    const vtt = 'WEBVTT\n\n00:02.000 --> 00:02.040\ngondola';
    expect(readNotes(vtt, clock).notes).toEqual([{ from: 50, to: 50, text: 'gondola' }]);
  });

  it('of a table are told by frame, by seconds, or by time code, in any separator', () => {
    expect(readNotes('Frame,Note\n12,"far, but sharp"\n3,near\n', clock).notes).toEqual([
      { from: 3, to: 3, text: 'near' },
      { from: 12, to: 12, text: 'far, but sharp' },
    ]);
    expect(readNotes('time;end;comment\n1,5;2;blur\n', clock).notes).toEqual([
      { from: 37, to: 49, text: 'blur' },
    ]);
    expect(readNotes('Position\tName\n00:00:01:05\there\n', clock).notes).toEqual([
      { from: 30, to: 30, text: 'here' },
    ]);
  });

  it('where frames come at uneven times lie on the one that is shown then', () => {
    const uneven = { fps: 10, times: [0, 0.1, 0.5, 0.6] };
    expect(readNotes('time,note\n0.49,long\n0.5,next\n', uneven).notes.map((n) => n.from)).toEqual([1, 2]);
  });

  it('come back from a table as they went out', () => {
    const note = fc
      .tuple(fc.nat(99), fc.nat(20), fc.string({ minLength: 1, maxLength: 20 }))
      .filter(([, , text]) => text.trim() === text && text !== '')
      .map(([from, more, text]) => ({ from, to: Math.min(99, from + more), text }));
    fc.assert(
      fc.property(fc.array(note, { minLength: 1, maxLength: 9 }), (notes) => {
        const sorted = [...notes].sort((a, b) => a.from - b.from || a.to - b.to);
        expect(readNotes(notesAsCsv(sorted, clock), clock).notes).toEqual(sorted);
      }),
    );
  });

  it('of a timeline are its markers and where its clips meet, and it tells the range', () => {
    const time = (value: number, rate = 25) => ({ OTIO_SCHEMA: 'RationalTime.1', rate, value });
    const range = (from: number, length: number) => ({ start_time: time(from), duration: time(length) });
    const media = { available_range: { start_time: time(90000), duration: time(100) } };
    const clip = (from: number, length: number, markers: object[] = []) => ({
      ...{ OTIO_SCHEMA: 'Clip.2', name: 'valley', source_range: range(90000 + from, length), markers },
      media_reference: media,
    });
    const marker = { name: 'rope', comment: 'thin', marked_range: range(90012, 3) };
    const tracks = {
      OTIO_SCHEMA: 'Stack.1',
      children: [{ OTIO_SCHEMA: 'Track.1', kind: 'Video', children: [clip(10, 20, [marker]), clip(50, 10)] }],
    };
    const {
      notes,
      range: shown,
      cuts,
    } = readNotes(JSON.stringify({ OTIO_SCHEMA: 'Timeline.1', tracks }), clock);
    expect(shown).toEqual({ from: 10, to: 59 });
    expect(notes).toEqual([{ from: 12, to: 14, text: 'rope: thin' }]);
    expect(cuts).toEqual([50]);
  });

  it.each([
    ['', 'the file is empty'],
    ['a,b\n1,2\n', 'where a "frame" or a "time", and a "note" are due'],
    ['frame,note\nx,here\n', 'line 2: column frame: "x" is no frame'],
    ['time,note\n1:2:3:4:5,here\n', 'is neither seconds nor a time code'],
    ['frame,note\n"1,here\n', 'line 2: a quotation mark is not closed'],
    ['1\n00:00:02,000 --> 00:00:01,000\nback', 'ends before it begins'],
    ['1\n00:00 --> 1\nx', 'is no pair of times'],
    ['frame,note\n500,late\n', 'all of them lie beyond the end of the clip'],
    ['{"a": 1}', 'it is no OpenTimelineIO timeline'],
    ['{', 'it is no JSON'],
  ])('of %j are refused with the reason', (text, why) => {
    expect(() => readNotes(text, clock)).toThrow(why);
  });
});
