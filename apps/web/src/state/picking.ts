import { toast } from 'sonner';
import type { Point, Region } from '@lurn/core/geometry';
import { graphicsOutOf, type Rgb } from '@lurn/core/picture';
import { changeMatte, layerById, NEW_RANGE } from '@lurn/model';
import { bench, setBench } from './bench';
import { change } from './layers';
import { edit, shotState } from './shot';

/** Colours taken from the picture, by pressing on it. */

/** What the picture that is shown tells of a place as shot; null beyond it. */
interface Colours {
  colourAt(at: Point): Promise<Rgb | null>;
  /** What hangs together with it by its colour. @param reach  how far colours may be from that, 0 to 1 */
  regionAt(at: Point, reach: number): Promise<Region | null>;
}

const NONE: Colours = { colourAt: () => Promise.resolve(null), regionAt: () => Promise.resolve(null) };
let ask = NONE;

/** Says who knows the picture. @returns what ends it */
export function tellColours(by: Colours): () => void {
  ask = by;
  return () => (ask = NONE);
}

/** Colours are alike that are no farther apart than this, unless somebody asks for more or less. */
export const LIKE = 0.12;

/** What hangs together with a place by its colour; says so where there is nothing. */
export async function likeAt(at: Point, reach: number): Promise<Region | null> {
  const region = await ask.regionAt(at, reach);
  if (!region)
    toast.info('Nothing hangs together there by its colour: press on the picture.', { id: 'pick' });
  return region;
}

const hex = (rgb: Rgb) => `#${rgb.map((v) => Math.round(v).toString(16).padStart(2, '0')).join('')}`;

/** Takes the colour at a place of the frame that is shown, as shot, for what the tool in the hand says. */
export async function pickAt(at: Point): Promise<void> {
  const { tool, brush, info } = bench();
  if (tool.id !== 'pick') return;
  const rgb = await ask.colourAt(at);
  if (!rgb) {
    toast.info('There is no picture there: press on the picture.', { id: 'pick' });
    return;
  }
  const colour = hex(rgb);
  setBench({ tool: { id: tool.matte === 'brush' ? 'paint' : 'mark' } });
  if (tool.matte === 'brush') {
    // What is painted is a screen's colour: on HDR it is told as one that becomes what was picked.
    setBench({ brush: { ...brush, colour: hex(graphicsOutOf(info.colour, rgb)) } });
    return;
  }
  const layer = layerById(shotState(), tool.layer);
  if (!layer) return;
  if (tool.matte === null) {
    if (layer.kind !== 'tint') return;
    change(layer.id, { colours: { ...(layer.colours ?? NEW_RANGE), colour } });
    return;
  }
  const matte = layer.mattes.find((m) => m.id === tool.matte);
  if (matte?.kind === 'colour')
    edit((s) => changeMatte(s, layer.id, matte.id, { range: { ...matte.range, colour } }));
}
