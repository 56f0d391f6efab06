import { spotsOf, surfacesOf, surfaceTrackOf, trackOf, meshOf, softOf, softTrackOf } from '@lurn/model';
import { LateWorker } from '../workers/late-worker';
import { toast } from 'sonner';
import { judgeSoft, judgeSurfaces, type Doubt } from '@lurn/core/doubt';
import type { Point } from '@lurn/core/geometry';
import { PLAIN_EYE, type Eye } from '@lurn/core/picture';
import { rehearsed } from '@lurn/core/plan';
import { openTracks, type AnalysedScene, type MoverMasks } from '@lurn/core/solve';
import { defaultSettings, nearestPin, sampleAt, type SuggestRequest } from '@lurn/core/track';
import type { ClipFile } from '@lurn/media';
import type { Spot } from '@lurn/model';
import type { SpotQualityApi, Thumb } from '../workers/spot-quality.worker';
import { placeSpot } from './edit-spots';
import { bench, type BenchState, goTo, setBench, setDoubts, useBench } from './bench';
import { areasNow } from './areas';
import { heldPlace, sceneNow } from './scene';
import type { Followed } from './slices/selection';
import { beginGesture, endGesture, shotDocument, shotState, useShot } from './shot';

const JUDGE_AFTER_MS = 200;
const NOTHING_JUDGED = { doubts: [], residuals: {} };

/** Runs the worker that looks at pictures: grip, suggestions, doubts and the little strips of patches. */
export class SpotQuality {
  private readonly worker: LateWorker<SpotQualityApi>;
  private readonly known = new Map<string, string>();
  /** The scene that the worker has. */
  private scene: AnalysedScene | null = null;
  private reading = false;
  private judged: unknown = null;
  private readonly sent = new Map<string, unknown>();
  private given: readonly Doubt[] | null = null;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private readonly forget: (() => void)[] = [];

  constructor(file: ClipFile) {
    this.worker = new LateWorker(
      () => new Worker(new URL('../workers/spot-quality.worker.ts', import.meta.url), { type: 'module' }),
      (api) => api.open(file, bench().info.colour),
    );
    const keys: (keyof BenchState)[] = ['frame', 'selected', 'tracking', 'showMap'];
    this.forget.push(
      useShot.subscribe(() => this.changed()),
      useBench.subscribe((now, before) => {
        if (keys.some((k) => now[k] !== before[k])) this.changed();
      }),
    );
    this.changed();
  }

  close(): void {
    clearTimeout(this.timer);
    this.forget.forEach((f) => f());
    this.worker.end();
  }

  /** Pictures of a spot round some frames, for a doubt's strip. */
  async thumbs(places: readonly Thumb[], eye: Eye, size: number, scale: number): Promise<ImageData[]> {
    const api = await this.worker.api();
    const pictures = await api.thumbs(places, eye, size, scale);
    return pictures.map((p) => new ImageData(Uint8ClampedArray.from(p), size, size));
  }

  /** To which mover each part of a frame belongs. */
  async masks(scene: AnalysedScene, frame: number): Promise<MoverMasks> {
    const api = await this.worker.api();
    const known = this.scene === scene;
    this.scene = scene;
    return api.masks(known ? null : scene, frame);
  }

  /** Looks for the best features, in the whole picture or a rectangle of it, and shows them as suggestions. */
  async suggest(count: number, within: BenchState['rectangle']): Promise<void> {
    const { frame, info } = bench();
    const like = spotsOf(shotDocument()).find((s) => bench().selected.includes(s.id));
    const { patch, reach } = like ?? defaultSettings(info.height);
    const taken = spotsOf(shotDocument())
      .map((s) => sampleAt(trackOf(shotState(), s.id), frame))
      .filter((s) => s !== null)
      .map(({ x, y }) => ({ x, y }));
    const api = await this.worker.api();
    const eye = like?.eye ?? PLAIN_EYE;
    const request = { count, patch, reach, within, taken };
    const followed = await this.followed(frame, eye, request);
    const suggestions = followed.length > 0 ? followed : await api.suggest(frame, eye, request, areasNow());
    setBench({
      suggestions: suggestions.map((s) => ({ ...s, frame })),
      ...{ tool: { id: 'mark' }, rectangle: null },
    });
    if (suggestions.length === 0) {
      toast.info(
        within
          ? 'Nothing in the rectangle would hold. Draw it over corners with contrast, or try the tracker’s eye.'
          : 'Nothing in this picture would hold well. Raise local contrast in the tracker’s eye, or try another frame.',
      );
    }
  }

  /** Features of what is held that have been followed over the range already, with their grip; none where nothing has. */
  private async followed(
    frame: number,
    eye: Eye,
    { count, patch, reach, within, taken }: SuggestRequest,
  ): Promise<Followed[]> {
    const { steady } = bench();
    const scene = sceneNow();
    const { range, held } = shotDocument();
    const mover = scene ? heldPlace(scene, held ?? steady?.mover ?? null) : -1;
    if (!scene || mover < 0) return [];
    const open = { ...scene, tracks: openTracks(scene.tracks, areasNow()) };
    const places = rehearsed(open, {
      ...{ frame, ...range, mover, count, within, taken, patch: Math.max(...patch) },
    });
    const api = await this.worker.api();
    return Promise.all(
      places.map(async ({ x, y, life }) => {
        const grip = await api.grip(frame, eye, { x, y }, patch, reach);
        return { x, y, grip, life, of: range.to - range.from + 1 };
      }),
    );
  }

  private changed(): void {
    void this.readGrips();
    void this.readMap();
    clearTimeout(this.timer);
    if (!bench().tracking) this.timer = setTimeout(() => void this.judge(), JUDGE_AFTER_MS);
  }

  private async judge(): Promise<void> {
    // The list may have been shortened ahead of the judgement, and an undo brings back the very same state.
    if (this.judged === shotState() && this.given === bench().spotDoubts) return;
    const state = shotState();
    this.judged = state;
    const spots = spotsOf(state.document).filter((s) => state.measured[s.id]);
    const { width, height } = bench().info;
    // Only what the worker does not have yet is sent: the tracks of a long shot are large.
    const ids = new Set(spots.map((s) => s.id));
    for (const id of this.sent.keys()) if (!ids.has(id)) this.sent.delete(id);
    const fresh = spots.filter((s) => this.sent.get(s.id) !== trackOf(state, s.id));
    for (const { id } of fresh) this.sent.set(id, trackOf(state, id));
    const { doubts, residuals } =
      spots.length === 0
        ? NOTHING_JUDGED
        : await (
            await this.worker.api()
          ).judge(
            spots.map(({ id, name, mover, patch }) => ({ id, name, mover, patch })),
            Object.fromEntries(fresh.map((s) => [s.id, trackOf(state, s.id)])),
            { width, height },
            state.document.accepted,
          );
    const surfaces = surfacesOf(state.document).filter((s) => state.measured[s.id]);
    const others = judgeSurfaces(
      surfaces.map(({ id }) => ({ id, track: surfaceTrackOf(state, id) })),
      state.document.accepted,
    );
    const cloths = softOf(state.document).filter((s) => state.measured[s.id]);
    const meshes = judgeSoft(
      cloths.map((s) => ({ id: s.id, mesh: meshOf(s), track: softTrackOf(state, s.id) })),
      state.document.accepted,
    );
    const more = [...others, ...meshes];
    this.given = more.length > 0 ? [...doubts, ...more].sort((a, b) => b.severity - a.severity) : doubts;
    setBench({ residuals });
    setDoubts({ spotDoubts: this.given });
  }

  /** Reads the grip of spots where they are now, one after the other; what has not moved is not read again. */
  private async readGrips(): Promise<void> {
    if (this.reading || bench().tracking) return;
    this.reading = true;
    for (let next = this.unread(); next; next = this.unread()) {
      const { spot, frame, at, key } = next;
      this.known.set(spot.id, key);
      try {
        const api = await this.worker.api();
        const grip = await api.grip(frame, spot.eye, at, spot.patch, spot.reach);
        setBench({ grips: { ...bench().grips, [spot.id]: grip } });
      } catch {
        break; // the picture's own worker tells what is wrong with the clip
      }
    }
    this.reading = false;
  }

  private unread(): { spot: Spot; frame: number; at: Point; key: string } | null {
    const { selected, frame: present, tracking, playing } = bench();
    if (tracking || playing) return null;
    const state = shotState();
    const inOrder = [...spotsOf(state.document)].sort(
      (a, b) => Number(selected.includes(b.id)) - Number(selected.includes(a.id)),
    );
    for (const spot of inOrder) {
      const track = trackOf(state, spot.id);
      const here = selected.includes(spot.id) ? sampleAt(track, present) : null;
      const pin = here ? { ...here, frame: present } : nearestPin(track, 0);
      if (!pin) continue;
      const at = { x: pin.x, y: pin.y };
      const key = JSON.stringify([pin.frame, at, spot.patch, spot.reach, spot.eye]);
      if (this.known.get(spot.id) !== key) return { spot, frame: pin.frame, at, key };
    }
    return null;
  }

  private mapKey = '';

  private async readMap(): Promise<void> {
    const { showMap, frame, info, selected, tracking, playing } = bench();
    if (!showMap || tracking || playing) {
      if (bench().map && !showMap) {
        this.mapKey = '';
        setBench({ map: null });
      }
      return;
    }
    const spot = spotsOf(shotDocument()).find((s) => selected.includes(s.id));
    const { patch, eye } = spot ?? { ...defaultSettings(info.height) };
    const key = JSON.stringify([frame, patch, eye]);
    if (key === this.mapKey) return;
    this.mapKey = key;
    const api = await this.worker.api();
    const map = await api.map(frame, eye, patch);
    if (this.mapKey === key) setBench({ map });
  }
}

/** Places a suggestion as a spot, or all of them, on the frame that they were looked for on. One step of undo. */
export function takeSuggestions(which: BenchState['suggestions']): void {
  if (which.length > 0) goTo(which[0].frame);
  beginGesture();
  const ids = which.map((p) => placeSpot({ x: p.x, y: p.y }));
  endGesture();
  setBench({
    suggestions: bench().suggestions.filter((s) => !which.some((p) => p.x === s.x && p.y === s.y)),
    selected: ids.slice(-1),
  });
}
