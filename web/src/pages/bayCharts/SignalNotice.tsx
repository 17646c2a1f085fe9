import { SIGNAL_NAMES, shortDay } from '@prandel/presentation';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { ask } from '../../api/client.ts';

/** Signals that nobody has answered, of one bay or of all. */
export function useSignals(bay?: string) {
  const { data } = useQuery({
    queryKey: ['bay-signals'],
    queryFn: () => ask('get', '/api/bay-signals'),
    refetchInterval: 60_000,
  });
  return (data ?? []).filter((s) => bay === undefined || s.bay === bay);
}

export const CHART_NAMES = { reference: 'The reference car reads', second: 'The weather station reads' } as const;

/** A line on every page of a bay until somebody has answered its signal. */
export function SignalNotice({ bay, className = 'notice bad' }: { bay: string; className?: string }) {
  const signals = useSignals(bay);
  const [first] = signals;
  if (!first) return null;
  return (
    <div className={className} role="alert">
      <b>{first.label} may not be what it was.</b> {CHART_NAMES[first.chart]} {SIGNAL_NAMES[first.code]} since{' '}
      {shortDay(first.at, null)}.{' '}
      <Link className="underline" to={`/bays/${bay}/charts`}>
        Look and answer
      </Link>
    </div>
  );
}
