/** A part of the invented shop's two years, with what it really does: the truth that its shelf is held against. */
export interface YearPart {
  readonly name: string;
  readonly kind: string;
  /** Mean effect, log-percent of power, and how much it differs between cars (standard deviation). */
  readonly effect: number;
  readonly spread: number;
  readonly promisedPercent: number | null;
  readonly price: number;
  readonly hours: number;
  /** How many cars had it. */
  readonly cars: number;
  readonly boostedOnly?: boolean;
}

const part = (
  name: string,
  kind: string,
  [effect, spread, promisedPercent]: readonly [number, number, number | null],
  [price, hours, cars]: readonly [number, number, number],
  more: Partial<YearPart> = {},
): YearPart => ({ name, kind, effect, spread, promisedPercent, price, hours, cars, ...more });

/** Twenty-five parts; names, effects and promises are invented. */
export const YEAR_PARTS: readonly YearPart[] = [
  part('panel filter, cotton', 'intake', [0.2, 0.4, 4], [62, 0.3, 13]),
  part('panel filter, foam', 'intake', [0.1, 0.3, 3], [38, 0.3, 5]),
  part('open intake with heat shield', 'intake', [1.1, 0.8, 8], [290, 1.2, 11]),
  part('long intake pipe, smooth', 'intake', [1.4, 0.6, 5], [175, 1, 7]),
  part('larger throttle body', 'intake', [0.6, 0.7, 6], [340, 1.5, 6]),
  part('manifold spacer', 'intake', [-0.3, 0.5, 4], [88, 1, 4]),
  part('insulated manifold gasket', 'intake', [0.4, 0.3, null], [65, 1, 6]),
  part('silencer, straight-through', 'exhaust', [1.2, 0.7, 5], [310, 1.1, 12]),
  part('exhaust from the catalyst back, 60 mm', 'exhaust', [1.9, 0.9, 9], [640, 2.2, 10]),
  part('exhaust from the catalyst back, 70 mm', 'exhaust', [1.6, 1.1, 12], [720, 2.4, 5]),
  part('tubular manifold, four into one', 'exhaust', [2.6, 1, 10], [890, 5, 7]),
  part('tubular manifold, short', 'exhaust', [1.2, 0.8, 8], [560, 4.5, 3]),
  part('underdrive pulley', 'drive', [1.5, 0.4, 5], [145, 1.3, 9]),
  part('electric water pump', 'drive', [1.1, 0.4, 4], [390, 2, 5]),
  part('light flywheel', 'drive', [0.3, 0.4, 6], [410, 4.5, 4]),
  part('thin axle oil', 'fluid', [0.5, 0.3, null], [44, 0.5, 7]),
  part('low-friction engine oil', 'fluid', [0.3, 0.3, 3], [58, 0.6, 8]),
  part('cold plugs', 'ignition', [0, 0.2, 2], [52, 0.5, 5]),
  part('coil packs, high energy', 'ignition', [0, 0.25, 5], [230, 0.6, 6]),
  part('low-temperature thermostat', 'cooling', [-0.9, 0.6, 2], [32, 0.6, 4]),
  part('bonnet vents', 'cooling', [0.2, 0.4, null], [180, 3, 2]),
  part('front-mounted charge cooler', 'boost', [3.4, 1.2, 10], [680, 5, 7], { boostedOnly: true }),
  part('charge pipes, aluminium', 'boost', [0.7, 0.5, 5], [260, 1.8, 4], { boostedOnly: true }),
  part('blow-off valve, open', 'boost', [-0.2, 0.4, 3], [150, 0.7, 3], { boostedOnly: true }),
  part('performance catalyst', 'exhaust', [2.1, 0.8, 8], [750, 2.5, 1]),
];
