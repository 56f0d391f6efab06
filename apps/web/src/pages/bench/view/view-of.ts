import { LRUCache } from 'lru-cache';
import { givenBack, sceneOf, type Scene, type SceneLook } from '@lurn/core/compose';
import { chain, IDENTITY, invert, matrixWarp, scaling, type Matrix3 } from '@lurn/core/geometry';
import { deliveredFrom, deliveryInSource, type Plan, type Size } from '@lurn/core/plan';
import { plainLook, spotsOf, type ClipInfo } from '@lurn/model';
import { deviceToPicture, layOut, pictureToPane, scaleOf } from '../../../lib/view';
import { bench } from '../../../state/bench';
import { lookNow } from '../../../state/rasters';
import { shotDocument } from '../../../state/shot';
import { showsAt } from '../../../state/stations';
import type { View } from '../../../workers/picture.worker';
import type { ViewPane } from '../../../workers/view-pane';
import { magnifierPanes } from './magnifier-panes';

/** What the worker is to draw, in device pixels. @param draft  quickly rather than exactly */
export function viewOf({ width, height }: Size, draft: boolean): View {
  const { frame, layout, wipe, camera, info, magnifier, playing, tracking, blinked } = bench();
  const steady = bench().tried ?? bench().steady;
  const ratio = devicePixelRatio;
  const source = { scene: sourceScene(info, frame), over: null };
  const asShot = { scene: withLayers() ? givenBackAt(info, frame, steady) : source.scene, over: null };
  const panes = layOut(layout, width, height, wipe, blinked).map((pane): ViewPane => {
    const toPane = pictureToPane(camera, info, pane);
    const cut = pane.from * pane.width;
    const toPicture = deviceToPicture(toPane, cut, ratio);
    const close = scaleOf(camera, info, pane) * ratio >= 6;
    const steadied = pane.kind === 'steadied' && steady !== null;
    return {
      x: Math.round((pane.x + cut) * ratio),
      y: Math.round(pane.y * ratio),
      width: Math.round((pane.to - pane.from) * pane.width * ratio),
      height: Math.round(pane.height * ratio),
      quality: draft ? 'linear' : close && !steadied ? 'nearest' : 'cubic',
      ...(steadied ? steadiedPane(steady, frame, toPicture) : { ...asShot, toScene: toPicture }),
    };
  });
  const insets = magnifier ? magnifierPanes(magnifier, width, height) : [];
  const spot = bench().eyeView && spotsOf(shotDocument()).find((s) => bench().selected.includes(s.id));
  return {
    frame,
    eye: spot ? spot.eye : null,
    hurried: playing,
    lent: tracking !== null,
    draft,
    panes: [
      ...panes,
      ...insets.map((inset): ViewPane => ({
        x: Math.round(inset.x * ratio),
        y: Math.round(inset.y * ratio),
        width: Math.round(inset.width * ratio),
        height: Math.round(inset.height * ratio),
        quality: 'nearest',
        ...source,
        toScene: chain(invert(inset.toPane), scaling(1 / ratio)),
      })),
    ],
  };
}

/** A frame as it was shot. */
function sourceScene({ width, height }: Size, frame: number): Scene {
  const edges = { mode: 'colour', colour: [0, 0, 0] } as const;
  return {
    size: { width, height },
    base: { frame, toSource: matrixWarp(IDENTITY), edges, donors: [] },
    layers: [],
  };
}

/** Whether layers are seen: they would lie over what is marked and tracked, and can be hidden to compare. */
function withLayers(): boolean {
  const { station, bare } = bench();
  return !bare && !showsAt(station).marks && shotDocument().layers.length > 0;
}

/** A frame as it was shot, with the layers given back. */
function givenBackAt(info: ClipInfo, frame: number, plan: Plan | null): Scene {
  return givenBack(info, lookNow().look, frame, plan?.motions ?? NO_MOTIONS);
}

const NO_MOTIONS = {};

/** The delivered picture in a pane, and what is laid over it. */
function steadiedPane(
  plan: Plan,
  frame: number,
  toPicture: Matrix3,
): Pick<ViewPane, 'scene' | 'toScene' | 'over'> {
  const { layout } = bench();
  const { ref } = shotDocument();
  const compared = layout === 'onion' || layout === 'difference';
  return {
    scene: sceneAt(plan, frame),
    toScene: chain(invert(deliveryInSource(plan)), toPicture),
    over: compared
      ? {
          frame: ref,
          toSource: deliveredFrom(plan, ref),
          laying: layout === 'onion' ? 'half' : 'half negative',
        }
      : null,
  };
}

/** Scenes worked out so far: from which frames one borrows takes a while to find. */
const scenes = new LRUCache<number, Scene>({ max: 500 });
let scenesOf: readonly unknown[] = [];

function sceneAt(plan: Plan, frame: number): Scene {
  const { range } = shotDocument();
  const look = bench().bare ? bareLook() : lookNow().look;
  const from = [plan, look, range];
  if (from.some((part, i) => part !== scenesOf[i])) scenes.clear();
  scenesOf = from;
  let scene = scenes.get(frame);
  if (!scene) scenes.set(frame, (scene = sceneOf(plan, look, frame, range.from, range.to)));
  return scene;
}

let plain: { readonly edges: unknown; readonly look: SceneLook } | null = null;

/** Without the layers. */
function bareLook(): SceneLook {
  const { edges } = shotDocument();
  if (plain?.edges !== edges) plain = { edges, look: plainLook(edges) };
  return plain.look;
}
