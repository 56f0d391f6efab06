import type { Amounts, Goal } from '@lurn/core/plan';
import type { EdgeMode } from '@lurn/core/warp';
import type { Comparison } from '@lurn/engine';
import { CHOICES, LIMITS } from '@lurn/model';
import { commonOf, marksOf, type Common } from './common.js';
import {
  crfOf,
  decimal,
  formatNamed,
  frameNumber,
  oneOf,
  UsageError,
  type OptionName,
  type Values,
} from './values.js';

/** A shot that was saved as a file, rendered. */
export interface ShotArguments {
  readonly kind: 'shot';
  readonly clip: string;
  readonly shot: string;
  /** null: as the shot has it. */
  readonly picture: 'steadied' | 'as-shot' | null;
  readonly alone: boolean;
  readonly out: string;
  readonly format: string | null;
  readonly crf: number | null;
  readonly json: boolean;
}

export interface SteadyArguments {
  readonly kind: 'steady';
  readonly clip: string;
  readonly marks: string | null;
  readonly tracks: string | null;
  /** Nothing is marked: the whole picture tells. */
  readonly auto: boolean;
  /** The name of the mover that is held; null for the surroundings. */
  readonly hold: string | null;
  /** Puts rows straight, where it is known how they lie. */
  readonly rowByRow: boolean;
  readonly ref: number;
  readonly from: number | null;
  readonly to: number | null;
  readonly goal: Goal;
  readonly use: Amounts;
  /** Takes a surface's perspective out as well. */
  readonly perspective: boolean;
  /** Seconds. */
  readonly smooth: number;
  /** null: Calm by the Gaussian. */
  readonly maxZoom: number | null;
  readonly edges: EdgeMode;
  readonly format: string | null;
  readonly compare: Comparison | null;
  readonly fitZoom: boolean;
  readonly motion: string | null;
  readonly out: string | null;
  readonly crf: number;
  readonly json: boolean;
}

const SHOT_OPTIONS: readonly OptionName[] = [
  ...(['shot', 'picture', 'layers-alone', 'out', 'format', 'crf', 'json'] as const),
];
const STEADY_OPTIONS: readonly OptionName[] = [
  ...([
    'marks',
    'spots',
    'tracks',
    'auto',
    'hold',
    'goal',
    'ref',
    'use',
    'smooth',
    'max-zoom',
    'from',
  ] as const),
  ...(['to', 'fit-zoom', 'row-by-row', 'edges', 'compare', 'labels', 'motion', 'out', 'format'] as const),
  ...(['crf', 'json'] as const),
];
const COMPONENTS = ['x', 'y', 'rotation', 'scale', 'perspective'];
const USUAL_CRF = 18;

/** What `steady` takes: a shot that was saved says most itself. */
export const steadyOptions = ({ shot }: Values) => (shot ? SHOT_OPTIONS : STEADY_OPTIONS);

export function steadyArguments(clip: string, values: Values): SteadyArguments | ShotArguments {
  const marks = marksOf(values);
  const common = commonOf(clip, values);
  if (values.shot) return shotArguments(values.shot, common, values);
  if (!values.goal) throw new UsageError('steady needs --goal.');
  const goal = oneOf('goal', values.goal, CHOICES.goal);
  for (const name of ['smooth', 'max-zoom'] as const) {
    if (values[name] !== undefined && goal !== 'calm')
      throw new UsageError(`--${name} belongs to --goal calm.`);
  }
  const edges = oneOf('edges', values.edges ?? 'colour', CHOICES.edges);
  const { format, named } = formatNamed(values.format);
  if (edges === 'transparent' && !named?.alpha) {
    throw new UsageError('--edges transparent needs a --format with alpha: see "lurn formats".');
  }
  if (format && !values.out) throw new UsageError('--format belongs to --out.');
  if (values.labels && !values.compare) throw new UsageError('--labels belongs to --compare.');
  if (values.compare && !values.out) throw new UsageError('--compare belongs to --out.');
  const auto = values.auto ?? false;
  if ([marks, values.tracks, auto || undefined].filter((v) => v !== undefined).length !== 1)
    throw new UsageError('steady needs one of --marks, --tracks, --auto and --shot.');
  if (values.hold !== undefined && values.tracks !== undefined)
    throw new UsageError('--hold belongs to --auto or --marks.');
  if (values['row-by-row'] && !auto) throw new UsageError('--row-by-row belongs to --auto.');

  const steady: SteadyArguments = {
    kind: 'steady',
    ...common,
    marks: marks ?? null,
    tracks: values.tracks ?? null,
    auto,
    hold: values.hold ?? null,
    rowByRow: values['row-by-row'] ?? false,
    ref: values.ref === undefined ? 0 : frameNumber('ref', values.ref),
    goal,
    ...components(values.use),
    smooth: values.smooth === undefined ? 1 : decimal('smooth', values.smooth, LIMITS.smoothing),
    maxZoom:
      values['max-zoom'] === undefined ? null : decimal('max-zoom', values['max-zoom'], LIMITS.maxZoom),
    edges,
    format,
    compare:
      values.compare === undefined
        ? null
        : { way: oneOf('compare', values.compare, CHOICES.compare), labels: values.labels ?? false },
    fitZoom: values['fit-zoom'] ?? false,
    motion: values.motion ?? null,
    crf: crfOf(values) ?? USUAL_CRF,
  };
  if (!steady.out && !steady.motion && !steady.json)
    throw new UsageError('steady has nothing to write: give --out, --motion or --json.');
  return steady;
}

function shotArguments(shot: string, { clip, out, json }: Common, values: Values): ShotArguments {
  if (out === null) throw new UsageError('steady --shot has nothing to write: give --out.');
  const alone = values['layers-alone'] ?? false;
  const { format, named } = formatNamed(values.format);
  if (alone && named && !named.alpha)
    throw new UsageError('--layers-alone needs a --format with alpha: see "lurn formats".');
  return {
    ...{ kind: 'shot', clip, shot, alone, out, format, json },
    picture: values.picture === undefined ? null : oneOf('picture', values.picture, CHOICES.picture),
    crf: crfOf(values),
  };
}

function components(text: string | undefined): Pick<SteadyArguments, 'use' | 'perspective'> {
  const names = text === undefined ? COMPONENTS : text.split(',').map((name) => name.trim());
  for (const name of names) {
    if (!COMPONENTS.includes(name))
      throw new UsageError(`--use takes x, y, rotation, scale and perspective, not "${name}".`);
  }
  const amount = (name: string) => (names.includes(name) ? 1 : 0);
  const use = { x: amount('x'), y: amount('y'), rotation: amount('rotation'), scale: amount('scale') };
  return { use, perspective: names.includes('perspective') };
}
