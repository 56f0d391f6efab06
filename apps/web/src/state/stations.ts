/** The stations of the work, in order. What each shows is in `pages/bench/stations`. */
export const STATIONS = [
  { id: 'mark', name: 'Mark' },
  { id: 'track', name: 'Track' },
  { id: 'repair', name: 'Repair' },
  { id: 'steady', name: 'Steady' },
  { id: 'frame', name: 'Frame' },
  { id: 'layers', name: 'Layers' },
  { id: 'handOver', name: 'Hand over' },
] as const;

export type StationId = (typeof STATIONS)[number]['id'];
