import type { ClipSummary } from '@lurn/model';
import { arranged, stageOf } from './shot-list';

const clip = (name: string, more: Partial<ClipSummary> = {}) =>
  ({
    ...{ id: name, name, status: 'ready', createdAt: '2026-01-01', shakiness: null, renders: [] },
    work: { trackers: {}, trackedFrames: 0 },
    ...more,
  }) as unknown as ClipSummary;
const names = (clips: readonly ClipSummary[]) => clips.map((c) => c.name);

describe('the list of shots', () => {
  const clips = [
    clip('Gondola 10', { createdAt: '2026-02-03', shakiness: 4 }),
    clip('gondola 9', { createdAt: '2026-02-01' }),
    clip('Télésiège', { createdAt: '2026-02-02', shakiness: 9 }),
  ];

  it('is searched word by word, whatever the case and the accents', () => {
    expect(names(arranged(clips, 'GOND 1', 'name', false))).toEqual(['Gondola 10']);
    expect(names(arranged(clips, 'telesiege', 'name', false))).toEqual(['Télésiège']);
    expect(arranged(clips, 'cable', 'name', false)).toEqual([]);
    expect(arranged(clips, '  ', 'name', false)).toHaveLength(3);
  });

  it('is sorted by name as people count, by date and by shake, both ways', () => {
    expect(names(arranged(clips, '', 'name', false))).toEqual(['gondola 9', 'Gondola 10', 'Télésiège']);
    expect(names(arranged(clips, '', 'date', true))).toEqual(['Gondola 10', 'Télésiège', 'gondola 9']);
    expect(names(arranged(clips, '', 'shake', true))).toEqual(['Télésiège', 'Gondola 10', 'gondola 9']);
  });

  it('is sorted by how far the work has come', () => {
    const stages = [
      clip('file', { renders: [{ status: 'done' }] as unknown as ClipSummary['renders'] }),
      clip('tracked', { work: { trackers: { spot: 2 }, trackedFrames: 90 } }),
      clip('marked', { work: { trackers: { surface: 1 }, trackedFrames: 1 } }),
      clip('new'),
      clip('reading', { status: 'reading' }),
      clip('failed', { status: 'failed' }),
    ];
    expect(stages.map(stageOf)).toEqual([5, 4, 3, 2, 1, 0]);
    expect(names(arranged(stages, '', 'state', false))[0]).toBe('failed');
  });
});
