declare module 'psychrolib' {
  const psychrolib: {
    SI: unknown;
    SetUnitSystem(system: unknown): void;
    GetSatVapPres(dryBulbC: number): number;
    GetTWetBulbFromRelHum(dryBulbC: number, relativeHumidity: number, pressurePa: number): number;
    GetTDewPointFromRelHum(dryBulbC: number, relativeHumidity: number): number;
    GetVapPresFromRelHum(dryBulbC: number, relativeHumidity: number): number;
  };
  export default psychrolib;
}
