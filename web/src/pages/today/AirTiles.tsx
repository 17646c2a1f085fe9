import { plain, signed } from '@prandel/presentation';
import { fromSi, type LiveSheet } from '@prandel/core';
import { useUnits } from '../../api/hooks.ts';

/** The bay's air now: what the correction is made of, and how far it has drifted since the first baseline. */
export function AirTiles({ sheet, bay, named = false }: { sheet: LiveSheet; bay: string; named?: boolean }) {
  const units = useUnits();
  const value = (key: string) => {
    const live = sheet.readings[key];
    return live && live.ageS <= 30 ? live.value : null;
  };
  const [airC, pressure, humidity] = [value('airC'), value('pressureHpa'), value('relativeHumidity')];
  const tiles: [string, string, string][] = [
    [
      named ? `Air in ${bay}` : 'Air in the bay',
      airC === null ? '–' : plain(fromSi(airC, units.temperature), 1),
      units.temperature,
    ],
    [
      'Station pressure',
      pressure === null ? '–' : plain(fromSi(pressure * 100, units.pressure), units.pressure === 'hPa' ? 1 : 2),
      units.pressure,
    ],
    ['Humidity', humidity === null ? '–' : plain(humidity * 100, 0), '%'],
    ['Density altitude', sheet.air ? plain(sheet.air.densityAltitudeM, 0) : '–', 'm'],
    ['Correction factor', sheet.air ? sheet.air.factor.toFixed(4) : '–', ''],
  ];
  const drift = sheet.air?.driftPercent ?? null;
  return (
    <section
      className="sheet grid grid-cols-2 divide-rule sm:grid-cols-3 lg:grid-cols-6 lg:divide-x"
      aria-label={`Air of ${bay}`}
    >
      {tiles.map(([label, figure, unit]) => (
        <div key={label} className="px-3.5 py-2.5">
          <div className="text-ink-2 text-[12px]">{label}</div>
          <div className="num text-[27px] leading-tight">
            {figure} <span className="text-ink-2 text-[13px] font-[450]">{unit}</span>
          </div>
        </div>
      ))}
      <div className="px-3.5 py-2.5">
        <div className="text-ink-2 text-[12px]">Air density since the first pull</div>
        <div className="num text-[27px] leading-tight">
          {drift === null ? '–' : signed(drift)} <span className="text-ink-2 text-[13px] font-[450]">%</span>
        </div>
      </div>
    </section>
  );
}
