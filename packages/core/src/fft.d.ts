/** The part of fft.js that is used (github.com/indutny/fft.js has no types of its own). */
declare module 'fft.js' {
  export default class FFT {
    /** @param size  a power of two above 1 */
    constructor(size: number);
    /** Room for `size` complex numbers, real and imaginary parts by turns. */
    createComplexArray(): number[];
    /** The transform of real values; only the first half of the spectrum is written. */
    realTransform(out: number[], values: ArrayLike<number>): void;
  }
}
