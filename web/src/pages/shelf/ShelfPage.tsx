import { expectedWords, forestNextSvg, forestRowSvg, forestScale, signed } from '@prandel/presentation';
import { useInfiniteQuery } from '@tanstack/react-query';
import { useDeferredValue, useState } from 'react';
import { Link } from 'react-router';
import { ask, type Schemas } from '../../api/client.ts';
import { Notice } from '../../parts/Field.tsx';
import { StripHead } from './StripHead.tsx';
import { ShelfTabs } from './ShelfTabs.tsx';

const STRIP = 330;
const ROW = 26;
type Part = Schemas['ShelfListed'];

/** Every part with what it did on the cars that had it, on one scale. */
export function ShelfPage() {
  const [search, setSearch] = useState('');
  const [tried, setTried] = useState(true);
  const q = useDeferredValue(search.trim());
  const list = useInfiniteQuery({
    queryKey: ['shelf', q, tried],
    initialPageParam: '',
    placeholderData: (before) => before,
    getNextPageParam: (page: Schemas['ShelfPage']) => page.next ?? undefined,
    queryFn: ({ pageParam }) =>
      ask('get', '/api/shelf', {
        params: { query: { tried, ...(q ? { q } : {}), ...(pageParam ? { after: pageParam } : {}) } },
      }),
  });
  const parts = list.data?.pages.flatMap((page) => page.parts) ?? [];
  const scale = forestScale(
    parts.map(() => null),
    parts.flatMap((p) => (p.nextLow === null ? [p.estimate] : [p.nextLow, p.nextHigh])),
    STRIP,
  );
  return (
    <div className="mx-auto grid max-w-[1280px] gap-3 p-4">
      <div className="flex flex-wrap items-center gap-3">
        <h1>Part shelf</h1>
        <span className="text-ink-2">What parts did on the cars that had them, nulls and losses too.</span>
        <span className="grow" />
        <label className="flex items-center gap-1.5">
          <input type="checkbox" checked={tried} onChange={(e) => setTried(e.target.checked)} />
          only parts that were tried
        </label>
        <input
          className="input !w-[220px]"
          placeholder="Find a part"
          aria-label="Find a part"
          value={search}
          onChange={(e) => setSearch(e.target.value)}
        />
      </div>
      <ShelfTabs />
      {list.error && <Notice kind="bad">{list.error.message}</Notice>}
      {list.isPending && <div className="progress" role="progressbar" aria-label="Loading the shelf" />}
      {list.data && parts.length === 0 && (
        <div className="sheet p-8 text-center text-[15px]">
          {q ? 'No part of this name.' : 'No part was tried yet.'} A part comes here once a job that fits it, by itself,
          against the setup before, has a verdict.
        </div>
      )}
      {parts.length > 0 && (
        <section className="sheet card overflow-x-auto" aria-label="Parts">
          <table className="table">
            <thead>
              <tr>
                <th>Part</th>
                <th>Kind</th>
                <th className="r">Cars</th>
                <th className="r">Average, %</th>
                <th className="r">Promised, %</th>
                <th className="!pl-5">Next car, %</th>
                <StripHead scale={scale} />
              </tr>
            </thead>
            <tbody>
              {parts.map((part) => (
                <PartRow key={part.id} part={part} strip={stripOf(part, scale)} />
              ))}
            </tbody>
          </table>
          {list.hasNextPage && (
            <div className="p-2 text-center">
              <button className="btn sm" disabled={list.isFetching} onClick={() => void list.fetchNextPage()}>
                Show more
              </button>
            </div>
          )}
          <p className="text-ink-3 mt-2 text-[12px]">
            Outlined bar: where the next car’s own gain is expected, 95 %. A square alone: one or two cars, which say
            nothing of the next. Dashes: what the maker promises.
          </p>
        </section>
      )}
    </div>
  );
}

function PartRow({ part, strip }: { part: Part; strip: string }) {
  const { id, name, kind, cars, estimate, low, high, nextLow, nextHigh, promisedPercent } = part;
  return (
    <tr>
      <td>
        <Link className="font-[620] underline-offset-2 hover:underline" to={`/shelf/${id}`}>
          {name}
        </Link>
      </td>
      <td className="text-ink-2">{kind}</td>
      <td className="r num text-[14px]">{cars}</td>
      <td className="r whitespace-nowrap">
        {estimate === null ? '–' : <b>{signed(estimate)}</b>}
        {low !== null && high !== null && (
          <span className="text-ink-2">
            {' '}
            {signed(low)} to {signed(high)}
          </span>
        )}
      </td>
      <td className="r text-ink-2">{promisedPercent === null ? '' : signed(promisedPercent)}</td>
      <td className="!pl-5 whitespace-nowrap">
        {nextLow !== null && nextHigh !== null ? (
          `${signed(nextLow)} to ${signed(nextHigh)}`
        ) : (
          <span className="text-ink-3">{cars === 0 ? 'never tried' : 'too few cars'}</span>
        )}
      </td>
      <td>
        <span
          title={expectedWords({ cars, estimate, low: nextLow, high: nextHigh })}
          dangerouslySetInnerHTML={{ __html: strip }}
        />
      </td>
    </tr>
  );
}

function stripOf(
  { estimate, nextLow, nextHigh, promisedPercent }: Part,
  scale: ReturnType<typeof forestScale>,
): string {
  if (nextLow !== null && nextHigh !== null)
    return forestNextSvg(scale, { low: nextLow, high: nextHigh }, promisedPercent, ROW);
  const range = estimate === null ? null : { estimate, low: estimate, high: estimate };
  return forestRowSvg(scale, { range, weight: 0, verdict: 'not-resolved' }, 1, promisedPercent, ROW);
}
