import type { SceneMover, WholeScene } from './movers.js';

/** What an editor may want to hold is seen for this part of the time of what is seen longest, and so large a share at the least. */
const [LASTS, LARGE] = [0.5, 0.02];
const MOST = 3;

/** The movers that a person would hold, the likeliest first: three at the most. What is laid over the picture is none. */
export function candidatesOf({ movers }: Pick<WholeScene, 'movers'>): SceneMover[] {
  const longest = Math.max(0, ...movers.map((m) => m.frames));
  return movers
    .filter((m, i) => i === 0 || (!m.overlay && m.frames >= LASTS * longest && m.share >= LARGE))
    .slice(0, MOST);
}

/** Evidence beyond these is worth a word. */
const [MOSTLY, THROUGHOUT, CLEARLY] = [0.6, 0.95, 0.15];

/** Why one of a scene's movers may be held, as what speaks for it: "is there throughout, lies behind the rest"; or null. */
export function reasonsFor(mover: SceneMover, movers: readonly SceneMover[]): string | null {
  const { evidence, rim } = mover;
  if (!evidence) return null;
  const others = movers.filter((m) => m !== mover && !m.overlay && m.evidence);
  const least = others.every((m) => m.evidence!.slide > 1.2 * evidence.slide);
  const said = [
    ...(evidence.presence >= THROUGHOUT ? ['is there throughout'] : []),
    ...(evidence.reach >= MOSTLY || rim >= MOSTLY ? ['lies all over the picture'] : []),
    ...(evidence.behind >= CLEARLY ? ['lies behind the rest'] : []),
    ...(others.length > 0 && least ? ['slides least'] : []),
    ...(evidence.behind <= -CLEARLY ? ['goes before the rest'] : []),
  ];
  return said.length > 0 ? said.join(', ') : null;
}
