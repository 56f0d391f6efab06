import {
  AnyObject,
  Frame,
  Hash,
  Id,
  Ids,
  Label,
  ListOf,
  Numbers,
  NumbersByName,
  Of,
  OneOf,
  Optional,
  RecordOf,
  Text,
  Whole,
  Within,
} from './checks.js';
import { DrawnRegroup } from './area.js';
import { EdgeSettings, TextStyle } from './layers/index.js';
import { LIMITS } from './limits.js';
import { TRACKERS } from './trackers/index.js';

/** What the server is sent, as classes that say what it may be. */

export class RenameClip {
  @Text(120)
  readonly name!: string;
}

export class OrderRender {
  /** The revision of the shot that the page shows. */
  @Whole([0, Number.MAX_SAFE_INTEGER])
  readonly revision!: number;

  /** Constant rate factor: lower is better and larger. */
  @Whole(LIMITS.crf)
  readonly crf!: number;

  /** The id of the delivery; the first where it is left out. */
  @Optional()
  @Id()
  readonly delivery?: string;
}

/** Renders by their ids, in the order in which they are to be made. */
export class OrderOfRenders {
  @Ids(10_000)
  readonly ids!: readonly string[];
}

/** Columns of one tracker; what they mean is checked where they are read. */
export class MeasuredBody {
  @OneOf(Object.keys(TRACKERS))
  readonly kind!: keyof typeof TRACKERS;

  @Whole([0, Number.MAX_SAFE_INTEGER])
  readonly start!: number;

  @Label(10_000_000)
  readonly state!: string;

  @Numbers()
  readonly confidence!: readonly number[];

  /** Vertices of a mesh. */
  @Optional()
  @Whole([1, LIMITS.vertices])
  readonly width?: number;

  @NumbersByName()
  readonly values!: Readonly<Record<string, readonly (number | null)[]>>;
}

export class SaveShotBody {
  @Whole([0, Number.MAX_SAFE_INTEGER])
  readonly revision!: number;

  /** Checked as a whole, with the clip at hand, by `parseDocument`. */
  @AnyObject()
  readonly document!: object;

  @RecordOf(() => MeasuredBody, 'measured')
  readonly measured!: Readonly<Record<string, MeasuredBody>>;
}

/** A graphic or a text as it is to be drawn: what it is kept under, how its edge runs, how large it is shown. */
abstract class AskRaster {
  @Text(LIMITS.text + 1000)
  readonly key!: string;

  @Of(() => EdgeSettings)
  readonly edge!: EdgeSettings;

  /** Pixels a side, by its area; 0 where the edge stays as it is. */
  @Within([0, 1e6])
  readonly side!: number;
}

export class AskAssetRaster extends AskRaster {
  @Hash()
  readonly hash!: string;
}

/** A frame of a film, as large as it is kept. */
export class AskFilmRaster {
  @Hash()
  readonly hash!: string;
  @Within(LIMITS.assetSide)
  readonly width!: number;
  @Within(LIMITS.assetSide)
  readonly height!: number;
  @Frame()
  readonly frame!: number;
}

/** Which mover's masks are to be made, on which frames, with what the editor said of features. */
export class AskMask {
  @Id()
  readonly mover!: string;
  @ListOf(() => DrawnRegroup, LIMITS.areas)
  readonly regroups!: readonly DrawnRegroup[];
  @Frame()
  readonly from!: number;
  @Frame()
  readonly to!: number;
  /** What the film is called. */
  @Text(LIMITS.nameLength)
  readonly name!: string;
}

export class AskTextRaster extends AskRaster {
  @Label(LIMITS.text)
  readonly text!: string;

  @Of(() => TextStyle)
  readonly style!: TextStyle;
}
