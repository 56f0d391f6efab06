import type { AnalysedScene, MoverMasks } from '@lurn/core/solve';
import { bench, setBench, useBench, type BenchState } from './bench';
import { sceneNow } from './scene';
import { useShot } from './shot';

/** Makes the masks of a frame's movers. @throws where the pictures cannot be read */
export type MaskMaker = (scene: AnalysedScene, frame: number) => Promise<MoverMasks>;

/** The playhead rests when it has not moved for so long. */
const RESTS_MS = 150;

/** The masks of the frame that is shown now; null while they are not made, or are of other movers. */
export function masksHere({ masks, shown }: BenchState, scene: AnalysedScene | null): MoverMasks | null {
  return masks && masks.scene === scene && masks.frame === shown ? masks.of : null;
}

const isWanted = ({ tint, tool, playing, tracking }: BenchState) =>
  (tint || tool.id === 'hold') && !playing && !tracking;

/** Has the masks of the frame that is shown made where movers are told apart and the playhead rests. @returns what ends it */
export function keepMasks(make: MaskMaker): () => void {
  let timer: ReturnType<typeof setTimeout> | undefined;
  let ended = false;
  const look = async () => {
    const scene = sceneNow();
    const { shown: frame } = bench();
    if (ended || !scene || !isWanted(bench()) || masksHere(bench(), scene)) return;
    // What cannot be read is told of by the picture's own worker; movers are shown in cells then.
    const of = await make(scene, frame).catch(() => null);
    if (ended || !of) return;
    if (sceneNow() === scene && bench().shown === frame) setBench({ masks: { scene, frame, of } });
  };
  const changed = () => {
    clearTimeout(timer);
    timer = setTimeout(() => void look(), RESTS_MS);
  };
  const keys: (keyof BenchState)[] = ['shown', 'playing', 'tracking', 'tint', 'tool', 'scene'];
  const stops = [
    useBench.subscribe((now, before) => {
      if (keys.some((k) => now[k] !== before[k])) changed();
    }),
    useShot.subscribe(({ state }, { state: before }) => {
      if (state.document.regroups !== before.document.regroups) changed();
    }),
  ];
  return () => {
    ended = true;
    clearTimeout(timer);
    stops.forEach((stop) => stop());
  };
}
