/** Samples of eight bits, row by row, as the kernels take them. */
export interface BytePlane {
  readonly width: number;
  readonly height: number;
  /** Bytes from the start of one row to the start of the next. */
  readonly stride: number;
  readonly data: Uint8Array;
}

/** Samples of eight bits, or of more in sixteen. */
export interface AnyPlane extends Omit<BytePlane, 'data'> {
  readonly data: Uint8Array | Uint16Array;
}
