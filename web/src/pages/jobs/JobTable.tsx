import { gainInterval, type ShownUnits, withUnit } from '@prandel/presentation';
import {
  createColumnHelper,
  rowSortingFeature,
  tableFeatures,
  useTable,
  type SortingState,
} from '@tanstack/react-table';
import { useWindowVirtualizer } from '@tanstack/react-virtual';
import { ArrowDown, ArrowUp } from 'lucide-react';
import { useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react';
import { Link } from 'react-router';
import type { Schemas } from '../../api/client.ts';
import { useUnits } from '../../api/hooks.ts';
import { For } from '../../parts/May.tsx';
import { VerdictTag } from '../../parts/marks.tsx';
import { DeleteJob } from './DeletedJobs.tsx';
import { USUALLY_FALLING, type JobOrder } from './jobSearch.ts';
import './jobTable.css';

type Row = Schemas['JobRow'];
const features = tableFeatures({ rowSortingFeature });
const column = createColumnHelper<typeof features, Row>();
const day = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: '2-digit' });
const dayOf = (at: string | null) => (at ? day.format(new Date(at)) : '–');
/** Rows are drawn this far beyond the window, so that scrolling shows none missing. */
const BEYOND = 12;
const ROW_PX = 52;

const COLUMNS = column.columns([
  column.accessor('title', {
    header: 'Question',
    cell: ({ row: { original: job } }) => (
      <Link to={`/jobs/${job.id}`} className="text-[14px] leading-tight font-[650] after:absolute after:inset-0">
        {job.title}
      </Link>
    ),
  }),
  column.accessor('vehicle', { header: 'Car' }),
  column.accessor('number', { header: 'Number', cell: ({ getValue }) => <span className="num">{getValue()}</span> }),
  column.accessor((job) => job.state, {
    id: 'verdict',
    header: 'Verdict',
    cell: ({ row }) => <Verdicts job={row.original} />,
  }),
  column.accessor((job) => job.pulls, { id: 'pulls', header: 'Pulls', enableSorting: false }),
  column.accessor('openedAt', { id: 'opened', header: 'Opened', cell: ({ getValue }) => dayOf(getValue()) }),
  column.accessor('updatedAt', { id: 'updated', header: 'Last change', cell: ({ getValue }) => dayOf(getValue()) }),
  column.display({
    id: 'delete',
    header: () => <span className="sr-only">Delete</span>,
    cell: ({ row }) => (
      <For role="technician">
        <DeleteJob id={row.original.id} />
      </For>
    ),
  }),
]);

/** Jobs as a table of any length: only what the window shows is drawn, more is asked for on the way down. */
export function JobTable({
  rows,
  order,
  onOrder,
  onEnd,
}: {
  rows: readonly Row[];
  order: JobOrder;
  onOrder: (order: JobOrder) => void;
  /** Called when the last row comes near; null: there are no more. */
  onEnd: (() => void) | null;
}) {
  const data = useMemo(() => [...rows], [rows]);
  const sorting = useMemo(
    (): SortingState => [{ id: order.sort, desc: order.direction === 'falling' }],
    [order.sort, order.direction],
  );
  const table = useTable({ features, columns: COLUMNS, data, manualSorting: true, state: { sorting } });
  const body = useRef<HTMLDivElement>(null);
  const [top, setTop] = useState(0);
  useLayoutEffect(() => setTop(body.current?.offsetTop ?? 0), []);
  const virtual = useWindowVirtualizer({
    count: data.length,
    estimateSize: () => ROW_PX,
    getItemKey: (i) => data[i]!.id,
    overscan: BEYOND,
    scrollMargin: top,
  });
  const drawn = virtual.getVirtualItems();
  const nearEnd = (drawn.at(-1)?.index ?? 0) >= data.length - BEYOND;
  useEffect(() => {
    if (nearEnd) onEnd?.();
  }, [nearEnd, onEnd]);
  const all = table.getRowModel().rows;
  return (
    <div className="sheet job-table" role="table" aria-label="Jobs" aria-rowcount={onEnd ? -1 : data.length + 1}>
      {table.getHeaderGroups().map((group) => (
        <div key={group.id} role="row" className="job-row head">
          {group.headers.map((header) => {
            const sorts = header.column.getCanSort() && header.column.id in USUALLY_FALLING;
            const falling = order.direction === 'falling';
            const own = order.sort === header.column.id;
            return (
              <div
                key={header.id}
                role="columnheader"
                data-column={header.column.id}
                aria-sort={!sorts ? undefined : own ? (falling ? 'descending' : 'ascending') : 'none'}
              >
                {sorts ? (
                  <button
                    type="button"
                    className="sort"
                    onClick={() => onOrder(nextOrder(header.column.id as JobOrder['sort'], order))}
                  >
                    <table.FlexRender header={header} />
                    {own && (falling ? <ArrowDown size={12} aria-hidden /> : <ArrowUp size={12} aria-hidden />)}
                  </button>
                ) : (
                  <table.FlexRender header={header} />
                )}
              </div>
            );
          })}
        </div>
      ))}
      <div ref={body} role="rowgroup" className="relative" style={{ height: virtual.getTotalSize() }}>
        {drawn.map((item) => (
          <div
            key={item.key}
            ref={virtual.measureElement}
            data-index={item.index}
            role="row"
            aria-rowindex={item.index + 2}
            className="job-row absolute inset-x-0 top-0 hover:bg-well"
            style={{ transform: `translateY(${item.start - virtual.options.scrollMargin}px)` }}
          >
            {all[item.index]?.getAllCells().map((cell) => (
              <div key={cell.id} role="cell" data-column={cell.column.id}>
                <table.FlexRender cell={cell} />
              </div>
            ))}
          </div>
        ))}
      </div>
    </div>
  );
}

/** The other way round, or by another column in its usual direction. */
function nextOrder(sort: JobOrder['sort'], now: JobOrder): JobOrder {
  const falling = now.sort === sort ? now.direction !== 'falling' : USUALLY_FALLING[sort];
  return { sort, direction: falling ? 'falling' : 'rising' };
}

function Verdicts({ job }: { job: Row }) {
  const units = useUnits();
  if (job.pulls === 0) return <span className="text-ink-3">No pulls yet.</span>;
  if (job.state === 'pending') return <span className="text-ink-3">Being worked out …</span>;
  if (job.state === 'not-judged') return <span className="text-act">{job.problem}</span>;
  return job.verdicts.map((v) => (
    <div key={`${v.candidate} ${v.measure}`} className="flex items-center gap-2.5">
      <span className="text-ink-2 w-5 font-[650]">{v.candidate}</span>
      <span className="w-[164px]">
        <VerdictTag verdict={v.verdict} measure={v.measure} word="long" size={12} />
      </span>
      <span className={`whitespace-nowrap ${v.verdict === 'not-comparable' ? 'text-ink-3 line-through' : ''}`}>
        {v.gain && gainWords(v.gain, units)}
      </span>
    </div>
  ));
}

function gainWords(gain: Schemas['GainCell'], units: ShownUnits): string {
  const { estimate, half, unit } = gainInterval(gain, units);
  return withUnit(`${estimate} ±${half}`, unit);
}
