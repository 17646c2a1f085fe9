import { reasonWords } from '@prandel/presentation';
import { useMutation, useQuery } from '@tanstack/react-query';
import { ask, queries, type BayListed, type Schemas } from '../../api/client.ts';
import { useSheets } from '../../live/useSheets.ts';
import { Notice } from '../../parts/Field.tsx';
import { stopwatch } from '../bay/bayStyles.ts';
import { stateWords } from '../today/NeedsYou.tsx';

const CABLES = [
  ['rollers', 'Rollers'],
  ['weather', 'Weather station'],
  ['bus', 'Vehicle bus'],
  ['aux', 'Auxiliary channels'],
] as const;

/** The bench of the demo: the simulated car's pedal, fan, part, weather and cables. Not there outside the demo. */
export function BenchCard({ bays }: { bays: readonly BayListed[] }) {
  // The demo has one bay at the bench: the one with rollers that has a job, else the first with rollers.
  const own = bays.filter((b) => b.instruments.rollers);
  const bay = own.find((b) => b.job) ?? own[0];
  const [seen] = useSheets(bay ? [bay] : []);
  const bench = useQuery({
    queryKey: ['bench'],
    queryFn: () => ask('get', '/api/bench'),
    refetchInterval: (query) => (query.state.error ? false : 1000),
    retry: false,
  });
  const order = useMutation({
    mutationFn: (asked: Schemas['BenchOrder']) => ask('post', '/api/bench', { body: asked }),
    onSettled: () => queries.invalidateQueries({ queryKey: ['bench'] }),
  });
  if (!bench.data) return null;
  const { fan, doorOpen, setup, speed, weather, plugged, slipNext, pulling, atMs } = bench.data;
  const choose = <T extends string | number>(
    label: string,
    value: T,
    options: readonly (readonly [T, string])[],
    asked: (v: T) => Schemas['BenchOrder'],
  ) => (
    <div className="grid gap-1">
      <span className="text-ink-2 text-[12px]">{label}</span>
      <div className="seg" role="group" aria-label={label}>
        {options.map(([key, words]) => (
          <button key={key} aria-pressed={key === value} onClick={() => order.mutate({ ...asked(key) })}>
            {words}
          </button>
        ))}
      </div>
    </div>
  );
  return (
    <section className="sheet card grid gap-3" aria-label="Bench of the simulated car">
      <div className="flex flex-wrap items-baseline gap-3">
        <h2>Bench of the simulated car</h2>
        <span className="text-ink-2">
          Its clock says {new Date(atMs).toLocaleTimeString('en-GB')}. Everything here happens to the car and the room,
          not to the records.
        </span>
      </div>
      {seen?.sheet && (
        <p className="bg-well flex flex-wrap items-baseline gap-x-3 rounded px-3 py-2" data-testid="bench-sees">
          <span className="text-ink-2">{seen.bay.label} says</span>
          <b className="text-[17px]">{stateWords(seen.sheet)}</b>
          {seen.sheet.waitS !== null && seen.sheet.state !== 'ready' && (
            <span className="num text-[22px]">{stopwatch(seen.sheet.waitS)}</span>
          )}
          <span className="text-ink-2">
            {seen.sheet.reasons
              .slice(0, 2)
              .map((reason) => reasonWords(reason))
              .join('; ')}
          </span>
        </p>
      )}
      <div className="flex flex-wrap items-end gap-x-6 gap-y-3">
        <button className="btn pri !min-h-[44px] px-6" onClick={() => order.mutate({ pedal: !pulling })}>
          {pulling ? 'Lift the pedal' : 'Press the pedal'}
        </button>
        {choose(
          'Time runs',
          speed,
          [
            [1, '×1'],
            [5, '×5'],
            [20, '×20'],
            [60, '×60'],
          ] as const,
          (v) => ({ speed: v }),
        )}
        {choose(
          'On the car',
          setup === 'B' ? 'B' : 'A',
          [
            ['A', 'A, or A again'],
            ['B', 'B'],
          ] as const,
          (v) => ({ fit: v }),
        )}
        {choose(
          'Fan',
          fan,
          [
            ['on', 'in place'],
            ['moved', 'moved away'],
            ['off', 'off'],
          ] as const,
          (v) => ({ fan: v }),
        )}
        {choose(
          'Bay door',
          doorOpen ? 'open' : 'shut',
          [
            ['shut', 'shut'],
            ['open', 'open'],
          ] as const,
          (v) => ({ doorOpen: v === 'open' }),
        )}
        {choose(
          'Weather',
          weather.airC,
          [
            [-5, '5 °C colder'],
            [0, 'as it comes'],
            [6, '6 °C warmer'],
          ] as const,
          (v) => ({ weather: { airC: v, pressureHpa: v === 0 ? 0 : -4 } }),
        )}
        <button className="btn" aria-pressed={slipNext} onClick={() => order.mutate({ slipNext: true })}>
          {slipNext ? 'The tyres will slip' : 'Let the tyres slip'}
        </button>
        <button className="btn" onClick={() => order.mutate({ resetController: true })}>
          Reset the controller
        </button>
        <button className="btn" onClick={() => order.mutate({ skipSeconds: 45 * 60 })}>
          Let 45 min pass
        </button>
      </div>
      <div className="flex flex-wrap gap-3">
        {CABLES.map(([kind, name]) => (
          <label key={kind} className="flex items-center gap-2">
            <input
              type="checkbox"
              checked={plugged[kind] ?? false}
              onChange={(e) => order.mutate({ plug: { [kind]: e.target.checked } })}
            />
            {name} cable in
          </label>
        ))}
      </div>
      {order.error && <Notice kind="bad">{order.error.message}</Notice>}
    </section>
  );
}
