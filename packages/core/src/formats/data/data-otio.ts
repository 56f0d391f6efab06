import { OUR_CHOICES, rateOf } from './choices.js';
import type { DataExport } from './data-export.js';
import { plainData } from './data-json.js';
import { spanOf, type MovingData } from './moving-data.js';

/** Confidence below which a frame is marked. */
const DOUBTED = 0.3;

/**
 * A timeline with one clip: its range, a marker for every cut and every doubtful stretch, and the data itself, as JSON has
 * it, in the clip's metadata under `lurn` (OpenTimelineIO, schema `Timeline.1`).
 */
export const otioExport: DataExport = {
  ...{ id: 'otio', name: 'OpenTimelineIO', extension: 'otio' },
  of: ['tracks', 'corners', 'motion', 'movers'],
  heeds: [],
  *files(data) {
    yield { name: 'data.otio', content: `${JSON.stringify(timeline(data), null, 1)}\n` };
  },
};

function timeline(data: MovingData): object {
  const rate = rateOf(data);
  const time = (value: number) => ({ OTIO_SCHEMA: 'RationalTime.1', rate, value });
  const range = (from: number, length: number) => ({
    OTIO_SCHEMA: 'TimeRange.1',
    start_time: time(from),
    duration: time(length),
  });
  const { from, to } = spanOf(data);
  const marker = (name: string, color: string, at: number, length: number) => ({
    ...{ OTIO_SCHEMA: 'Marker.2', name, color, marked_range: range(at, length), metadata: {} },
  });
  const name = data.things[0]?.name ?? data.kind;
  const whole = data.clip.frames ?? to + 1;
  const clip = {
    ...{ OTIO_SCHEMA: 'Clip.1', name, effects: [], metadata: { lurn: plainData(data, OUR_CHOICES) } },
    source_range: range(from, to - from + 1),
    media_reference: {
      ...{ OTIO_SCHEMA: 'MissingReference.1', name: '', metadata: {} },
      available_range: range(0, whole),
    },
    markers: [
      ...(data.solved?.cuts ?? []).map((c) => marker('cut', 'CYAN', c, 0)),
      ...doubtful(data).map(({ thing, first, last }) => marker(`${thing}: doubtful`, 'YELLOW', first, last - first + 1)), // prettier-ignore
    ],
  };
  const track = {
    ...{ OTIO_SCHEMA: 'Track.1', name: 'picture', kind: 'Video', source_range: null },
    ...{ children: [clip], effects: [], markers: [], metadata: {} },
  };
  const stack = {
    ...{ OTIO_SCHEMA: 'Stack.1', name: 'tracks', source_range: null },
    ...{ children: [track], effects: [], markers: [], metadata: {} },
  };
  return { OTIO_SCHEMA: 'Timeline.1', name, global_start_time: null, tracks: stack, metadata: {} };
}

/** Stretches of frames that are measured badly or not at all. */
function doubtful({ things }: MovingData): { thing: string; first: number; last: number }[] {
  const out: { thing: string; first: number; last: number }[] = [];
  for (const { name, frames } of things) {
    for (const { frame, confidence } of frames) {
      if (confidence === undefined || confidence >= DOUBTED) continue;
      const last = out[out.length - 1];
      if (last?.thing === name && last.last === frame - 1) last.last = frame;
      else out.push({ thing: name, first: frame, last: frame });
    }
  }
  return out;
}
