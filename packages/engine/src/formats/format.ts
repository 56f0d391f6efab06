import type { ClipInfo, KeptSound } from '@lurn/model';
import type { SampleLayout } from '../layout.js';

/** What an encoder is told of a delivery besides its size. */
export interface FormatSettings {
  /** Constant rate factor as x264 counts it, of formats that heed one: each takes what looks alike on its own scale. */
  readonly crf: number;
  /** How thoroughly x264 and x265 look: tests are in a hurry. */
  readonly preset: string;
}

/** How sound goes into a file, track by track. */
export interface SoundRule extends KeptSound {
  /** True where even those are written anew, sample by sample. */
  readonly anewToo?: boolean;
  /** What others become: in a few words, by which options, and whether that loses anything. */
  readonly anew: { readonly as: string; readonly args: readonly string[]; readonly loses: boolean };
}

/** A kind of file that leaves the program: adding one is adding a file here and a line to the list. */
export interface Format {
  /** Stands in documents, orders and on the command line. */
  readonly id: string;
  readonly name: string;
  /** What it is for, in a few words. */
  readonly use: string;
  readonly extension: string;
  /** Bits a sample that it carries. */
  readonly depths: readonly number[];
  readonly alpha: boolean;
  /** How it takes sound; null where it holds pictures alone. */
  readonly sound: SoundRule | null;
  /** True where a browser plays it. */
  readonly plays: boolean;
  /** Settings that it heeds. */
  readonly settings: readonly (keyof FormatSettings)[];
  /** ffmpeg's encoder: where the tool at hand has none of that name it is not offered. */
  readonly encoder: string;
  /** How the planes lie that are handed to its encoder. */
  readonly planes: (info: ClipInfo) => SampleLayout;
  /** Options of the encoder. */
  readonly video: (info: ClipInfo, settings: FormatSettings) => readonly string[];
  /** True where the encoder writes how colours are coded into every picture, as that picture tells it. */
  readonly tagsPictures?: boolean;
  /** What is done to the pictures before they are encoded. */
  readonly filters?: (info: ClipInfo) => readonly string[];
  /** True for a quick look: it has a screen's colours, and HDR is shown as the page shows it. */
  readonly looks?: boolean;
  readonly muxer: string;
  /** Options of the muxer. */
  readonly muxing?: readonly string[];
  /** The codec's name in the file, where it is not the usual one. */
  readonly tag?: string;
  /** True where parts of it cannot be joined: it is short, and encoded in one go. */
  readonly inOneGo?: boolean;
  /** True where the file cannot say by how many quarter turns it is to be shown: its pictures are turned. */
  readonly upright?: boolean;
  /** The extension of each picture, where the file is a zip of them. */
  readonly pictures?: string;
  /** What is made of each picture when all are put together: by us, where the tool has no encoder. */
  readonly finish?: {
    readonly extension: string;
    readonly picture: (bytes: Uint8Array, width: number, height: number, info: ClipInfo) => Uint8Array;
  };
  /** Why it cannot hold a clip; null where it can. */
  readonly refuses: (info: ClipInfo) => string | null;
}
