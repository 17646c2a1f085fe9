/**
 * Saturation vapour pressure over liquid water in Pa, for air between 0 and 60 °C and a little beyond.
 *
 * Source: Hyland & Wexler (1983) as printed in the ASHRAE Handbook of Fundamentals, chapter Psychrometrics,
 * equation for liquid water (coefficients C8–C13). Over water on both sides of the triple point, as the
 * correction standards mean it. `saturationVapourPressurePa(25)` is 3169 Pa.
 * @example saturationVapourPressurePa(20) // 2338.8
 */
export function saturationVapourPressurePa(airC: number): number {
  const t = airC + 273.15;
  return Math.exp(
    -5.8002206e3 / t +
      1.3914993 -
      4.8640239e-2 * t +
      4.1764768e-5 * t * t -
      1.4452093e-8 * t * t * t +
      6.5459673 * Math.log(t),
  );
}

/**
 * Vapour pressure in Pa from relative humidity as a fraction 0–1.
 * @throws RangeError when the humidity is outside 0–1 ("looks like per cent" above 1)
 * @example vapourPressurePa(20, 0.5) // 1169.4
 */
export function vapourPressurePa(airC: number, relativeHumidity: number): number {
  if (!(relativeHumidity >= 0 && relativeHumidity <= 1)) {
    throw new RangeError(
      relativeHumidity > 1
        ? `relative humidity ${relativeHumidity} looks like per cent; write it as a fraction 0–1`
        : `relative humidity ${relativeHumidity} is not a fraction 0–1`,
    );
  }
  return relativeHumidity * saturationVapourPressurePa(airC);
}

/**
 * Vapour pressure in Pa from a dew point in °C: air is saturated at its dew point.
 * @example vapourPressureFromDewPointPa(10) // 1228
 */
export function vapourPressureFromDewPointPa(dewPointC: number): number {
  return saturationVapourPressurePa(dewPointC);
}

/**
 * Vapour pressure in Pa from a wet-bulb reading (°C) at a station pressure in hPa.
 * Source: ASHRAE Handbook of Fundamentals, the humidity-ratio equation of the wet-bulb thermometer above freezing.
 * @example vapourPressureFromWetBulbPa(30, 20, 1013.25) // 1684.86
 */
export function vapourPressureFromWetBulbPa(airC: number, wetBulbC: number, pressureHpa: number): number {
  const pressurePa = pressureHpa * 100;
  const saturatedPa = saturationVapourPressurePa(wetBulbC);
  const saturatedRatio = (0.621945 * saturatedPa) / (pressurePa - saturatedPa);
  const ratio =
    ((2501 - 2.326 * wetBulbC) * saturatedRatio - 1.006 * (airC - wetBulbC)) / (2501 + 1.86 * airC - 4.186 * wetBulbC);
  return (pressurePa * ratio) / (0.621945 + ratio);
}
