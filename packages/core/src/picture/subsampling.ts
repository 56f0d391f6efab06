/** How many luma samples one chroma sample spans. */
export interface Subsampling {
  readonly x: 1 | 2 | 4;
  readonly y: 1 | 2;
}

/** Where chroma samples sit: `left`, on the first luma column as in MPEG-2 and H.264; `center`, between them. */
export type ChromaSiting = 'left' | 'center';
