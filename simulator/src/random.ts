import { uniformFloat64 } from 'pure-rand/distribution/uniformFloat64';
import { mersenne } from 'pure-rand/generator/mersenne';

/** A seeded source of chance: the same seed gives the same day. */
export class Random {
  readonly #generator;
  #spare: number | null = null;

  constructor(seed: number) {
    // The Mersenne Twister mixes its seed, so that neighbouring seeds give unrelated days.
    this.#generator = mersenne(seed);
  }

  /** Uniform on [0, 1). */
  uniform(): number {
    return uniformFloat64(this.#generator);
  }

  /** Normal with the given standard deviation (Box & Muller 1958). */
  normal(sd = 1): number {
    if (this.#spare !== null) {
      const value = this.#spare;
      this.#spare = null;
      return value * sd;
    }
    const radius = Math.sqrt(-2 * Math.log(1 - this.uniform()));
    const angle = 2 * Math.PI * this.uniform();
    this.#spare = radius * Math.sin(angle);
    return radius * Math.cos(angle) * sd;
  }
}
