import { crossedWords, instrumentFaultWords, lastGoodWords, USUAL_UNITS, type ShownUnits } from '@prandel/presentation';
import type { LiveSheet } from '@prandel/core';

const INSTRUMENT_NAMES = {
  rollers: 'Rollers',
  weather: 'Weather station',
  bus: 'Vehicle bus',
  aux: 'Auxiliary channels',
};

function lostWords(status: LiveSheet['instruments'][number], units: ShownUnits): string {
  const { kind, state, fault, ageS } = status;
  const name = INSTRUMENT_NAMES[kind];
  if (state === 'implausible' && fault) return `${name}: ${instrumentFaultWords(fault, units)}`;
  const read = lastGoodWords(status, units);
  const last = read && ageS !== null ? ` Last heard ${Math.round(ageS)} s ago: ${read}.` : '';
  return `${name} silent: look at its cable.${last}`;
}

/** The caution of the step. After the first pull of a round the straps have settled: they are looked at again. */
function cautionOf({ state, round }: LiveSheet): string {
  if (state === 'fitting')
    return 'Hot exhaust and coolant. Fuel vapour with an open fuel system: extinguisher at hand. Battery and high voltage by the maker’s procedure.';
  if (state !== 'pulling' && round?.pulls.length === 1)
    return 'First pull of the round done: look at the straps again before the next one.';
  return 'Before every pull: straps tight, extraction hose on, hearing protection, nobody in line with the wheels.';
}

/** One line that matters now: what failed, what waits, what nears a limit, which instrument is lost, else the caution of the step. */
export function Caution({
  sheet,
  failed,
  units = USUAL_UNITS,
}: {
  sheet: LiveSheet;
  failed: string | null;
  units?: ShownUnits;
}) {
  const warned = sheet.crossed.find((c) => c.level === 'warn');
  const lost = sheet.instruments.filter((i) => i.state !== 'connected');
  const text =
    failed ??
    (sheet.waiting > 0
      ? `The database does not take anything: ${sheet.waiting} samples wait in memory. Free the disk or start the database; do not stop the server.`
      : sheet.quarantined > 0
        ? `${sheet.quarantined === 1 ? 'One recording' : `${sheet.quarantined} recordings`} could not become a pull. Nothing is lost: see the page of bays.`
        : null) ??
    (warned
      ? `Watch out. ${crossedWords(warned, units)}`
      : lost.length > 0
        ? lost.map((status) => lostWords(status, units)).join(' ')
        : cautionOf(sheet));
  return (
    <div className="caution" role={failed || warned || sheet.waiting > 0 ? 'alert' : 'note'}>
      {text}
    </div>
  );
}
