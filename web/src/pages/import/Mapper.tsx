import { shown } from '@prandel/presentation';
import { fromSi } from '@prandel/core';
import { useQuery } from '@tanstack/react-query';
import { ask, Refusal, type Schemas } from '../../api/client.ts';
import { useUnits } from '../../api/hooks.ts';
import { Notice } from '../../parts/Field.tsx';
import { ColumnTable } from './ColumnTable.tsx';

type Columns = Schemas['ColumnMappingDto'][];

/** Columns of the files with the guessed meaning, correctable, and the curves that come of it. */
export function Mapper({
  jobId,
  files,
  columns,
  onColumns,
}: {
  jobId: string;
  files: Schemas['StagedFile'][];
  columns: Columns;
  onColumns: (columns: Columns) => void;
}) {
  const fileIds = files.map((f) => f.id!);
  const preview = useQuery({
    queryKey: ['preview', jobId, fileIds, columns],
    queryFn: () =>
      ask('post', '/api/jobs/{id}/import-preview', { params: { path: { id: jobId } }, body: { fileIds, columns } }),
    retry: false,
    placeholderData: (old) => old,
  });
  return (
    <div className="grid gap-3 grid-cols-[minmax(0,1fr)] lg:grid-cols-[minmax(0,1fr)_440px]">
      <ColumnTable files={files} columns={columns} onColumns={onColumns} />
      <section className="sheet card" aria-label="Preview">
        <h2>What comes of it</h2>
        {preview.error instanceof Refusal ? (
          <Notice kind="bad">
            <ul>
              {(preview.error.problems.length > 0
                ? preview.error.problems
                : [{ line: null, message: preview.error.message }]
              )
                .slice(0, 8)
                .map((p, i) => (
                  <li key={i}>
                    {p.line ? `Line ${p.line}: ` : ''}
                    {p.message}
                  </li>
                ))}
            </ul>
          </Notice>
        ) : preview.error ? (
          <Notice kind="bad">{preview.error.message}</Notice>
        ) : preview.data ? (
          <Preview pulls={preview.data} />
        ) : (
          <div className="progress" role="progressbar" aria-label="Drawing" />
        )}
      </section>
    </div>
  );
}

/** Small curves of all pulls on one panel, with their figures below. */
function Preview({ pulls }: { pulls: Schemas['PreviewPull'][] }) {
  const units = useUnits();
  const all = pulls.flatMap((p) => p.curve).filter((c) => Number.isFinite(c.powerW));
  const span = (values: number[]) => [Math.min(...values), Math.max(...values)] as const;
  const [x0, x1] = span(all.map((c) => c.rpm));
  const [y0, y1] = span(all.map((c) => c.powerW));
  const x = (rpm: number) => 36 + ((rpm - x0) / (x1 - x0 || 1)) * 366;
  const y = (w: number) => 140 - ((w - y0) / (y1 - y0 || 1)) * 128;
  return (
    <>
      {all.length > 0 && (
        <svg
          viewBox="0 0 410 162"
          className="mt-1 w-full"
          role="img"
          aria-label={`Preview of ${pulls.length} power curves`}
        >
          <rect x="36" y="6" width="366" height="138" fill="var(--well)" />
          {pulls.map((p, i) => (
            <path
              key={i}
              d={p.curve
                .filter((c) => Number.isFinite(c.powerW))
                .map((c, k) => `${k ? 'L' : 'M'}${x(c.rpm).toFixed(1)} ${y(c.powerW).toFixed(1)}`)
                .join('')}
              fill="none"
              stroke="var(--ink)"
              strokeOpacity=".5"
            />
          ))}
          <g fontSize="11" fill="var(--ink-3)">
            <text x="0" y="14">
              {Math.round(fromSi(y1, units.power))}
            </text>
            <text x="0" y="143">
              {Math.round(fromSi(y0, units.power))}
            </text>
            <text x="36" y="158">
              {x0}
            </text>
            <text x="402" y="158" textAnchor="end">
              {x1} rpm
            </text>
            <text x="44" y="20">
              Wheel power, {units.power}
            </text>
          </g>
        </svg>
      )}
      <div className="max-h-[260px] overflow-auto" tabIndex={0} role="group" aria-label="Pulls found">
        <table className="table">
          <thead>
            <tr>
              <th>Pull</th>
              <th className="r">Rows</th>
              <th className="r">rpm</th>
              <th className="r">Peak, {units.power}</th>
            </tr>
          </thead>
          <tbody>
            {pulls.map((p, i) => (
              <tr key={i}>
                <td>
                  <span className="break-all">{p.file}</span>
                  {p.name && !/^pull \d+$/.test(p.name) ? ` · ${p.name}` : ''}
                  {p.findings.map((f) => (
                    <div key={f.text} className="text-wait text-[12px] leading-snug">
                      {f.text}
                    </div>
                  ))}
                </td>
                <td className="r">{p.rows}</td>
                <td className="r whitespace-nowrap">
                  {p.rpmFrom === null ? '–' : `${Math.round(p.rpmFrom)}–${Math.round(p.rpmTo ?? 0)}`}
                </td>
                <td className="r">
                  {shown(p.curve.length > 0 ? Math.max(...p.curve.map((c) => c.powerW ?? 0)) : null, units.power)}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </>
  );
}
