/** What lies on the pictures at a station, and what hands do there. */
export interface Shows {
  /** Trackers are marked and moved on the picture. */
  readonly marks?: true;
  /** New ones are placed, and what was drawn has handles: the source alone fills the view. */
  readonly places?: true;
  /** A quad that is moved puts its surface right there. */
  readonly pins?: true;
  readonly spots?: true;
  readonly surfaces?: true;
  /** With their lines and points, or the border alone. */
  readonly meshes?: 'whole' | 'border';
  readonly grid?: true;
  /** What is wanted, and how the rest moves against it. */
  readonly goals?: true;
  /** What else might be held is worked out while it is open. */
  readonly candidates?: true;
  /** What framing costs is worked out while it is open. */
  readonly costs?: true;
  readonly layers?: true;
}

const TRACKERS = { spots: true, surfaces: true, meshes: 'whole', grid: true } as const;

/** The stations of the work, in order. What each offers is in `pages/bench/stations`. */
export const STATIONS = [
  { id: 'mark', name: 'Mark', shows: { ...TRACKERS, marks: true, places: true } },
  { id: 'track', name: 'Track', shows: { ...TRACKERS, marks: true } },
  { id: 'repair', name: 'Repair', shows: { ...TRACKERS, marks: true, pins: true } },
  { id: 'steady', name: 'Steady', shows: { ...TRACKERS, goals: true, costs: true, candidates: true } },
  { id: 'frame', name: 'Frame', shows: { spots: true, surfaces: true, costs: true } },
  { id: 'layers', name: 'Layers', shows: { meshes: 'border', layers: true, grid: true } },
  { id: 'handOver', name: 'Hand over', shows: { surfaces: true } },
] as const;

export type StationId = (typeof STATIONS)[number]['id'];

/** What is shown and done at a station. */
export const showsAt = (id: StationId): Shows => STATIONS.find((s) => s.id === id)!.shows;
