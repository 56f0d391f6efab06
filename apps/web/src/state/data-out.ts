import {
  dataOfMovers,
  dataOfPlan,
  dataOfSurfaces,
  dataOfTracks,
  DATA_CHOICES,
  DATA_EXPORTS,
  OUR_CHOICES,
  tableColumns,
  tableRows,
  type DataChoices,
  dataOfMeshes,
  type DataKind,
  type MovingData,
} from '@lurn/core/formats';
import type { Plan } from '@lurn/core/plan';
import type { AnalysedScene } from '@lurn/core/solve';
import {
  moverName,
  quadOf,
  measuredOf,
  meshOf,
  spotsOf,
  trackersOf,
  surfacesOf,
  surfaceTrackOf,
  trackOf,
  type ClipInfo,
  type ShotState,
} from '@lurn/model';

/** What data is made of. */
export interface DataSource {
  readonly state: ShotState;
  readonly info: ClipInfo;
  readonly times: ArrayLike<number>;
  readonly plan: Plan | null;
  /** Of what is held of the scene, where nothing is tracked. */
  readonly heldName: string | null;
  readonly cuts: readonly number[];
  /** What is known of the whole picture; null while that is not there. */
  readonly scene: AnalysedScene | null;
}

/** What there is to hand over, of each kind that there is anything of. */
export function dataNow(source: DataSource): Partial<Record<DataKind, () => MovingData>> {
  const { state, info, times, plan, heldName, cuts, scene } = source;
  const { document } = state;
  const clip = { width: info.width, height: info.height, frames: info.frames, fps: info.fps };
  const spots = spotsOf(document).filter((s) => state.measured[s.id]);
  const surfaces = surfacesOf(document).filter((s) => state.measured[s.id]);
  const cloths = trackersOf(document, 'soft').filter((s) => state.measured[s.id]);
  const own = [...document.trackers, ...document.movers].find((t) => t.id === plan?.held)?.name;
  const movers = (scene?.movers ?? []).flatMap(({ id, name }, m) => {
    const motion = scene!.motions[m];
    return motion ? [{ name: moverName(document, id) || name, motion }] : [];
  });
  const held = heldName || own || 'motion';
  return {
    ...(plan && {
      motion: () => dataOfPlan(plan, document.range, { held, ref: document.ref, cuts }, times, clip),
    }),
    ...(spots.length > 0 && {
      tracks: () => dataOfTracks(spots.map((s) => ({ name: s.name, track: trackOf(state, s.id) })), times, clip), // prettier-ignore
    }),
    ...(surfaces.length > 0 && {
      corners: () =>
        dataOfSurfaces(
          surfaces.map((s) => ({
            ...{ name: s.name, base: quadOf(s.base), quad: quadOf(s.quad) },
            track: surfaceTrackOf(state, s.id),
          })),
          times,
          clip,
        ),
    }),
    ...(cloths.length > 0 && {
      meshes: () =>
        dataOfMeshes(
          cloths.map((s) => ({
            ...{ name: s.name, frame: s.frame, mesh: meshOf(s) },
            track: measuredOf(state, 'soft', s.id),
          })),
          times,
          clip,
        ),
    }),
    ...(movers.length > 0 && { movers: () => dataOfMovers(movers, times, clip) }),
  };
}

/** Rows under their columns, tabs between: what a spreadsheet takes. */
export function asTable(data: MovingData, choices: DataChoices): string {
  return [tableColumns(data, choices), ...tableRows(data, choices)].map((r) => r.join('\t')).join('\n');
}

/** A row for every number of every thing: its name, then its values frame by frame. */
export function asValuesOverTime(data: MovingData, choices: DataChoices): string {
  const columns = tableColumns(data, choices);
  return data.things
    .map((thing) => {
      const rows = [...tableRows({ ...data, things: [thing] }, choices)];
      return columns
        .slice(1)
        .map((name, k) => [`${thing.name} ${name}`, ...rows.map((r) => r[k + 1])].join('\t'))
        .join('\n');
    })
    .join('\n');
}

/** How one other program wants its data, by the editor's own name for it. */
export interface DataTarget {
  readonly name: string;
  readonly as: string;
  readonly choices: DataChoices;
}

const KEY = 'lurn.targets';

/** The targets that were kept in this browser; what cannot be read is passed over. */
export function keptTargets(): DataTarget[] {
  try {
    const list: unknown = JSON.parse(localStorage.getItem(KEY) ?? '[]');
    // Those that were kept before a choice was there have it as it is by itself.
    return Array.isArray(list)
      ? list.filter(isTarget).map((t) => ({ ...t, choices: { ...OUR_CHOICES, ...t.choices } }))
      : [];
  } catch {
    return [];
  }
}

function isTarget(value: unknown): value is DataTarget {
  const { name, as, choices } = (value ?? {}) as Partial<DataTarget>;
  const { origin, y, unit, time, first, numbers = OUR_CHOICES.numbers } = choices ?? {};
  return (
    typeof name === 'string' &&
    DATA_EXPORTS.some((e) => e.id === as) &&
    Number.isInteger(first) &&
    Object.entries({ origin, y, unit, time, numbers }).every(([key, v]) =>
      (DATA_CHOICES[key as keyof typeof DATA_CHOICES] as readonly unknown[]).includes(v),
    )
  );
}

/** Keeps a target, in place of one of the same name. @returns all */
export function keepTarget(target: DataTarget): DataTarget[] {
  const list = [...keptTargets().filter((t) => t.name !== target.name), target];
  list.sort((a, b) => a.name.localeCompare(b.name));
  localStorage.setItem(KEY, JSON.stringify(list));
  return list;
}

/** @returns those that are left */
export function forgetTarget(name: string): DataTarget[] {
  const list = keptTargets().filter((t) => t.name !== name);
  localStorage.setItem(KEY, JSON.stringify(list));
  return list;
}

export const FIRST_TARGET: Omit<DataTarget, 'name'> = { as: 'csv', choices: OUR_CHOICES };
