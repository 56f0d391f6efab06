import { bench, useBench, type ToolInHand } from '../../../state/bench';
import { AreaTool } from './area';
import { ByColourTool } from './soft/by-colour';
import { ByHandTool } from './by-hand';
import { CarryOnTool } from './carry-on';
import { HoldTool } from './hold';
import { MarkTool } from './mark';
import { PaintTool } from './paint';
import { PickTool } from './pick';
import { PointsTool } from './soft/points';
import { RectangleTool } from './rectangle';
import type { Tool } from './tool';

export type { PointerAt, Press, Target, Tool } from './tool';

/** Every tool, made from what it has been told. */
const TOOLS: { readonly [K in ToolInHand['id']]: (told: Extract<ToolInHand, { id: K }>) => Tool } = {
  mark: () => new MarkTool(),
  rectangle: () => new RectangleTool(),
  hold: () => new HoldTool(),
  area: ({ kind, box }) => new AreaTool(kind, box),
  paint: () => new PaintTool(),
  pick: () => new PickTool(),
  points: () => new PointsTool(),
  'by-colour': () => new ByColourTool(),
  'by-hand': ({ step }) => new ByHandTool(step),
  'carry-on': ({ spot }) => new CarryOnTool(spot),
};

function made(told: ToolInHand): Tool {
  return (TOOLS[told.id] as (told: ToolInHand) => Tool)(told);
}

/** The tool in the hand, changed as the Bench says: the old one is laid down, the new one taken up. */
export class Hand {
  private told = bench().tool;
  private current = made(this.told);
  private readonly forget: () => void;

  constructor() {
    this.current.enter();
    this.forget = useBench.subscribe(({ tool }) => {
      if (tool === this.told) return;
      // Laying one down changes the Bench, too: by then it has been.
      this.told = tool;
      this.current.exit();
      this.current = made(tool);
      this.current.enter();
    });
  }

  get tool(): Tool {
    return this.current;
  }

  close(): void {
    this.forget();
    this.current.exit();
  }
}

/** What the tool in the hand says over the picture. */
export function hintOf(told: ToolInHand): string | null {
  return made(told).hint();
}
