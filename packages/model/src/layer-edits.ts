import { changeDocument } from './edits.js';
import type { ShotState } from './document.js';
import type { Asset, Layer, LayerKeyframe, LayerMatte, PaintStroke } from './layers/index.js';

/** Edits of layers: each takes a state and gives a new one that shares all that did not change. */

/** Puts a layer on top. */
export function addLayer(state: ShotState, layer: Layer): ShotState {
  return changeDocument(state, { layers: [...state.document.layers, layer] });
}

/** Changes of a layer that keep its kind. */
export type LayerChange = Partial<Omit<Layer, 'id' | 'kind'>> & Readonly<Record<string, unknown>>;

export function changeLayer(state: ShotState, id: string, change: LayerChange): ShotState {
  const layers = state.document.layers.map((l) => (l.id === id ? ({ ...l, ...change } as Layer) : l));
  return changeDocument(state, { layers });
}

export function removeLayers(state: ShotState, ids: readonly string[]): ShotState {
  return changeDocument(state, { layers: state.document.layers.filter((l) => !ids.includes(l.id)) });
}

/** Moves a layer in the order; 0 is the lowest. */
export function moveLayer(state: ShotState, id: string, to: number): ShotState {
  const { layers } = state.document;
  const layer = layers.find((l) => l.id === id);
  if (!layer) return state;
  const others = layers.filter((l) => l.id !== id);
  const at = Math.min(others.length, Math.max(0, to));
  return changeDocument(state, { layers: [...others.slice(0, at), layer, ...others.slice(at)] });
}

/** Lists a file that layers show; one that is there stays. */
export function addAsset(state: ShotState, asset: Asset): ShotState {
  const { assets } = state.document;
  return assets.some((a) => a.hash === asset.hash)
    ? state
    : changeDocument(state, { assets: [...assets, asset] });
}

/** Keys a layer on a frame; a key that stands there gives way. */
export function setLayerKey(state: ShotState, id: string, key: LayerKeyframe): ShotState {
  const layer = layerById(state, id);
  if (!layer) return state;
  const others = layer.keys.filter((k) => k.frame !== key.frame);
  return changeLayer(state, id, { keys: [...others, key].sort((a, b) => a.frame - b.frame) });
}

/** Without its last key a layer goes on as that one had it. */
export function removeLayerKey(state: ShotState, id: string, frame: number): ShotState {
  const layer = layerById(state, id);
  const gone = layer?.keys.find((k) => k.frame === frame);
  if (!layer || !gone) return state;
  const keys = layer.keys.filter((k) => k !== gone);
  return changeLayer(state, id, keys.length > 0 ? { keys } : { keys, opacity: gone.opacity });
}

export function addMatte(state: ShotState, id: string, matte: LayerMatte): ShotState {
  const layer = layerById(state, id);
  return layer ? changeLayer(state, id, { mattes: [...layer.mattes, matte] }) : state;
}

export function changeMatte(
  state: ShotState,
  id: string,
  matte: string,
  change: Readonly<Record<string, unknown>>,
): ShotState {
  const layer = layerById(state, id);
  if (!layer) return state;
  const mattes = layer.mattes.map((m) => (m.id === matte ? ({ ...m, ...change } as LayerMatte) : m));
  return changeLayer(state, id, { mattes });
}

export function removeMatte(state: ShotState, id: string, matte: string): ShotState {
  const layer = layerById(state, id);
  return layer ? changeLayer(state, id, { mattes: layer.mattes.filter((m) => m.id !== matte) }) : state;
}

export function addStroke(state: ShotState, id: string, stroke: PaintStroke): ShotState {
  const layer = layerById(state, id);
  return layer?.kind === 'paint' ? changeLayer(state, id, { strokes: [...layer.strokes, stroke] }) : state;
}

export function layerById({ document }: ShotState, id: string): Layer | undefined {
  return document.layers.find((l) => l.id === id);
}

/** "Text 1", "Text 2", ...: the first name of a kind that is free. */
export function nextLayerName({ document }: ShotState, kind: string): string {
  for (let n = 1; ; n++) if (!document.layers.some((l) => l.name === `${kind} ${n}`)) return `${kind} ${n}`;
}

/** What a layer rides on is no longer there. */
export function isRideGone({ document }: ShotState, { rides }: Pick<Layer, 'rides'>): boolean {
  if (rides.on === 'frame') return false;
  if (rides.on === 'mover')
    return (
      rides.id !== '' && !rides.id.startsWith('scene-') && !document.movers.some((m) => m.id === rides.id)
    );
  return !document.trackers.some((t) => t.kind === rides.on && t.id === rides.id);
}
