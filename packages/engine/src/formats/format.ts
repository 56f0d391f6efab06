import type { ClipInfo } from '@lurn/model';

/** What an encoder is told of a delivery besides its size. */
export interface FormatSettings {
  /** Constant rate factor, of formats that heed one. */
  readonly crf: number;
  /** How thoroughly x264 looks: tests are in a hurry. */
  readonly preset: string;
}

/** A kind of file that leaves the program: adding one is adding a file here and a line to the list. */
export interface Format {
  /** Stands in documents, orders and on the command line. */
  readonly id: string;
  readonly name: string;
  readonly extension: string;
  /** Bits a sample that it carries. */
  readonly depths: readonly number[];
  readonly alpha: boolean;
  readonly sound: boolean;
  /** Settings that it heeds. */
  readonly settings: readonly (keyof FormatSettings)[];
  /** ffmpeg's name of the planes that are handed to its encoder. */
  readonly planes: (info: ClipInfo) => string;
  readonly video: (info: ClipInfo, settings: FormatSettings) => string[];
  readonly audio: (info: ClipInfo) => string[];
  readonly muxer: string;
  /** Why it cannot hold a clip; null where it can. */
  readonly refuses: (info: ClipInfo) => string | null;
}
