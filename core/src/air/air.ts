import { vapourPressurePa } from './vapourPressure.ts';

/** Gas constants of dry air and water vapour, J/(kg·K). Source: CIPM-2007 (Picard et al. 2008), rounded. */
const R_DRY = 287.055;
const R_VAPOUR = 461.495;
/** Sea level of the standard atmosphere. Source: ICAO Doc 7488 / ISO 2533. */
const SEA_LEVEL_HPA = 1013.25;
const SEA_LEVEL_K = 288.15;
const LAPSE_K_PER_M = 0.0065;
const SEA_LEVEL_DENSITY = 1.225;
const TEMPERATURE_HEIGHT_M = SEA_LEVEL_K / LAPSE_K_PER_M;
const PRESSURE_EXPONENT = 5.25588;
const DENSITY_EXPONENT = 0.234969;

/** The air around a pull: station pressure (never reduced to sea level), temperature, humidity 0–1. */
export interface Air {
  readonly pressureHpa: number;
  readonly airC: number;
  readonly relativeHumidity: number;
}

/**
 * Pressure of the air without its water vapour, hPa.
 * @example dryAirPressureHpa({ pressureHpa: 1000, airC: 25, relativeHumidity: 0.5 }) // 984.154
 */
export function dryAirPressureHpa(air: Air): number {
  return air.pressureHpa - vapourPressurePa(air.airC, air.relativeHumidity) / 100;
}

/**
 * Density of moist air in kg/m³: ρ = pd/(287.055·T) + pv/(461.495·T).
 * @example airDensityKgM3({ pressureHpa: 1013.25, airC: 15, relativeHumidity: 0 }) // 1.22499
 */
export function airDensityKgM3(air: Air): number {
  const t = air.airC + 273.15;
  const vapourPa = vapourPressurePa(air.airC, air.relativeHumidity);
  return (air.pressureHpa * 100 - vapourPa) / (R_DRY * t) + vapourPa / (R_VAPOUR * t);
}

/**
 * Height in the standard atmosphere (m) that has this density. Source: ICAO Doc 7488 / ISO 2533.
 * @example densityAltitudeM(1.1117) // 999.473
 */
export function densityAltitudeM(densityKgM3: number): number {
  return TEMPERATURE_HEIGHT_M * (1 - (densityKgM3 / SEA_LEVEL_DENSITY) ** DENSITY_EXPONENT);
}

/**
 * Standard atmosphere below 11 km at a geopotential height: pressure hPa, temperature K, density kg/m³.
 * @example standardAtmosphere(1000).pressureHpa // 898.746
 */
export function standardAtmosphere(heightM: number): {
  pressureHpa: number;
  temperatureK: number;
  densityKgM3: number;
} {
  const temperatureK = SEA_LEVEL_K - LAPSE_K_PER_M * heightM;
  const pressureHpa = SEA_LEVEL_HPA * (temperatureK / SEA_LEVEL_K) ** PRESSURE_EXPONENT;
  return { pressureHpa, temperatureK, densityKgM3: (pressureHpa * 100) / (287.05287 * temperatureK) };
}

/**
 * Station pressure (hPa) from an altimeter setting (QNH, not QFF) and the elevation, by the standard atmosphere.
 * @example stationPressureHpa(1013.25, 500) // 954.608
 */
export function stationPressureHpa(altimeterSettingHpa: number, elevationM: number): number {
  const exponent = 1 / PRESSURE_EXPONENT;
  const base = (altimeterSettingHpa / SEA_LEVEL_HPA) ** exponent - (LAPSE_K_PER_M * elevationM) / SEA_LEVEL_K;
  return SEA_LEVEL_HPA * base ** PRESSURE_EXPONENT;
}

/**
 * Whether a "station" pressure fits the bay's elevation: more than 40 hPa off the standard atmosphere looks like a
 * sea-level reading. The 40 hPa are common practice, no source.
 * @example pressureFitsElevation(1013, 650) // false
 */
export function pressureFitsElevation(pressureHpa: number, elevationM: number): boolean {
  return Math.abs(pressureHpa - standardAtmosphere(elevationM).pressureHpa) <= 40;
}
