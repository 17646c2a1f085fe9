import { expectedWords, signed } from '@prandel/presentation';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { ask, type Schemas } from '../api/client.ts';

/** What the shelf expects of a part of this name on the next car; nothing where no job tells. */
export function Expected({
  part,
  beside = () => '',
}: {
  part: string;
  /** What is said beside it. */
  beside?: (expected: Schemas['ExpectedGain']) => string;
}) {
  const name = part.trim();
  const { data } = useQuery({
    queryKey: ['shelf', 'expected', name],
    queryFn: () => ask('get', '/api/shelf/expected', { params: { query: { name } } }),
    enabled: name !== '',
    staleTime: 30_000,
  });
  const words = data ? expectedWords(data) : '';
  if (!data?.part || words === '') return null;
  return (
    <p className="text-[12.5px]" data-testid="expected">
      <Link className="underline" to={`/shelf/${data.part}`} target="_blank">
        {name}
      </Link>{' '}
      <b>{words}</b>
      {data.promisedPercent !== null && (
        <span className="text-ink-2">; its maker promises {signed(data.promisedPercent)} %</span>
      )}
      {beside(data) && <span>. {beside(data)}</span>}
    </p>
  );
}
