declare module "fft.js" {
  /** Radix-4 FFT of a power-of-two size. */
  export default class FFT {
    constructor(size: number);
    createComplexArray(): number[];
    /** fills the first half of `out` (interleaved re, im) from real input */
    realTransform(out: number[], input: ArrayLike<number>): void;
  }
}
