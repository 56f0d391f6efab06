import type { FirstGoal } from '@lurn/core/plan';
import type { Fade, SceneMover } from '@lurn/core/scene';

/** What is known of a clip's file, once and for all: found when it is brought in. */
export interface ClipInfo {
  /** Size of the upright picture in its own pixels. */
  readonly width: number;
  readonly height: number;
  /** Width of a pixel over its height. */
  readonly pixelAspect: number;
  /** Quarter turns clockwise that bring the coded picture upright. */
  readonly turns: 0 | 1 | 2 | 3;
  readonly frames: number;
  /** The decoded stream's place in the file; missing in clips read before it was kept: then the first of pictures. */
  readonly stream?: number;
  /** Frames a second: exact where the rate is constant, else the average. */
  readonly fps: number;
  /** The rate as a fraction, such as `30000/1001`; null where it varies. */
  readonly rate: string | null;
  /** Length in seconds, the last frame included. */
  readonly duration: number;
  readonly codec: string;
  readonly container: string;
  readonly pixelFormat: string;
  readonly bitDepth: number;
  readonly colour: {
    readonly range: 'tv' | 'pc';
    readonly space: string | null;
    readonly transfer: string | null;
    readonly primaries: string | null;
    readonly siting: 'left' | 'center';
    /** Of HDR: the screen it was graded on, and its brightest and mean light, as x265 takes them; missing where not told. */
    readonly mastering?: { readonly display: string | null; readonly light: string | null };
  };
  readonly audio: { readonly codec: string; readonly channels: number; readonly rate: number } | null;
  /** File time of frame 0, in seconds, and of the file's earliest stream. */
  readonly startTime: number;
  readonly fileStart: number;
  /** Something the person should know, such as a file that ends early; null as a rule. */
  readonly warning: string | null;
  /** Frames whose pictures are damaged, both ends included; missing where none is. */
  readonly damaged?: readonly { readonly from: number; readonly to: number }[];
}

/** A copy that the page plays in place of the original, in parts of so many frames each: part k has frames k part and on. */
export interface ClipCopy {
  readonly width: number;
  readonly height: number;
  readonly part: number;
}

/** A strip of small pictures, one every so many frames; so many of them lie side by side in one file, a row. */
export interface Film {
  readonly every: number;
  readonly row: number;
  /** Size of one picture. */
  readonly width: number;
  readonly height: number;
}

/** What is known of a clip's pictures as a whole. */
export interface ClipScene {
  /** The surroundings first. */
  readonly movers: readonly SceneMover[];
  /** First frames of parts that have nothing to do with what is before them. */
  readonly cuts: readonly number[];
  /** Where one picture passes into another; each is a cut too. Missing in clips read before they were told. */
  readonly fades?: readonly Fade[];
  /** What the clip is steadied towards until an editor says otherwise. */
  readonly first: Pick<FirstGoal, 'goal' | 'smoothing' | 'sentence'>;
}

/** What has been made of a clip on the way. */
export interface ClipMade {
  /** In full size, for what browsers cannot decode. */
  readonly copy: ClipCopy | null;
  /** For playing what they cannot play at its rate. */
  readonly reduced: ClipCopy | null;
  readonly film: Film | null;
  /** True when there is a waveform: a byte a fiftieth of a second, 0 to 128. */
  readonly wave: boolean;
  /** What is known of the whole picture; null or missing where it was not analysed, or nothing was found to hold. */
  readonly scene?: ClipScene | null;
  /** Why nothing of the whole picture can be held, in a sentence; missing where something can, or it is not known. */
  readonly unheld?: string;
}

/** Sound codecs that a kind of file carries as they are; `pcm` stands for all of whole samples. */
export interface KeptSound {
  readonly keeps: readonly string[];
}

/** True when a track of such a codec stays as it is. */
export function soundStays({ keeps }: KeptSound, codec: string): boolean {
  return keeps.includes(codec.startsWith('pcm_') ? 'pcm' : codec);
}
