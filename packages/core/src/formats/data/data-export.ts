import type { Pack } from '../packing.js';
import type { DataChoices } from './choices.js';
import type { DataKind, MovingData } from './moving-data.js';

export interface DataFile {
  /** Its name where there are several; of a single one it is chosen by whoever writes it. */
  readonly name: string;
  /** To come where it is packed elsewhere: see {@link inTurn}. */
  readonly content: string | Uint8Array | Promise<Uint8Array>;
}

/** A kind of file that data leaves in: adding one is adding a file here and a line to the list. */
export interface DataExport {
  /** Stands on the command line. */
  readonly id: string;
  readonly name: string;
  readonly extension: string;
  /** What it can tell of. */
  readonly of: readonly DataKind[];
  /** Choices that it heeds: the others are laid down by what it is. */
  readonly heeds: readonly (keyof DataChoices)[];
  /** Holds a mesh beside the matrices of a motion: see `withMeshes`. */
  readonly meshes?: boolean;
  /** Several files, a folder or zip of them: so many a frame, and what they are, as a sentence. */
  readonly many?: { readonly aFrame: number; readonly about: string };
  /** Maps every pixel: needs what is bent told exactly, see `withWarps`. */
  readonly maps?: boolean;
  /**
   * @param data  in our coordinates
   * @param pack  a way to pack bytes elsewhere, where there is one
   * @throws LurnError `no-size`, `no-rate` where it needs what is not known
   */
  readonly files: (data: MovingData, choices: DataChoices, pack?: Pack) => Iterable<DataFile>;
}

/** A number as short as it can be told, to a thousand millionth. */
export const plain = (v: number): number => {
  const rounded = Math.round(v * 1e9) / 1e9;
  return Object.is(rounded, -0) ? 0 : rounded;
};

/** A matrix' cell with every digit: of those of perspective the ninth decimal is much. */
export const exact = (v: number): number => (v === 0 ? 0 : v);

/** A pixel's place to a ten thousandth: of thousands of points that is enough. */
export const rounded = (v: number): number => Math.round(v * 1e4) / 1e4;
