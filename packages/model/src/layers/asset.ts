import { Flag, Hash, Optional, Text, Within } from '../checks.js';
import { LIMITS } from '../limits.js';

/** A file that layers show, kept with the shot. */
export class Asset {
  /** SHA-256 of the file, in hexadecimal digits. */
  @Hash()
  readonly hash!: string;
  @Text(LIMITS.assetName)
  readonly name!: string;
  @Within(LIMITS.assetSide)
  readonly width!: number;
  @Within(LIMITS.assetSide)
  readonly height!: number;
  @Within([0, LIMITS.assetBytes])
  readonly bytes!: number;
  /** Pictures in it: 1 of a graphic; of a film as many as it has, and how many a second. */
  @Within(LIMITS.filmFrames)
  readonly frames!: number;
  @Within(LIMITS.filmRate)
  readonly fps!: number;
  /** True where its colours are codes of the shot's own clip, as a clean plate's are. */
  @Optional()
  @Flag()
  readonly ofClip?: boolean;
  /** True for a drawing that is sharp at any size. */
  @Flag()
  readonly vector!: boolean;
}

/** A file that was taken over. */
export interface TakenAsset {
  readonly asset: Asset;
  /** What the person should know of it, in sentences. */
  readonly notes: readonly string[];
}

/** A film of masks that was made. */
export interface MadeMask extends TakenAsset {
  /** Its samples per pixel of the upright picture. */
  readonly scale: number;
}
