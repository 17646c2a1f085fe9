import { shown } from '@prandel/presentation';
import { fromSi } from '@prandel/core';
import { useQuery } from '@tanstack/react-query';
import { ask, Refusal, type Schemas } from '../../api/client.ts';
import { useUnits } from '../../api/hooks.ts';
import { Notice } from '../../parts/Field.tsx';
import { ROLE_CHOICES } from './columnChoices.ts';

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
  const first = files[0]!;
  const fileIds = files.map((f) => f.id!);
  const preview = useQuery({
    queryKey: ['preview', jobId, fileIds, columns],
    queryFn: () =>
      ask('post', '/api/jobs/{id}/import-preview', { params: { path: { id: jobId } }, body: { fileIds, columns } }),
    retry: false,
    placeholderData: (old) => old,
  });
  const change = (i: number, patch: Partial<Columns[number]>) =>
    onColumns(columns.map((c, k) => (k === i ? { ...c, ...patch } : c)));
  return (
    <div className="grid gap-3 grid-cols-[minmax(0,1fr)] lg:grid-cols-[minmax(0,1fr)_440px]">
      <section className="sheet card" aria-label="Columns">
        <div className="flex flex-wrap items-baseline gap-x-3">
          <h2>What the columns mean</h2>
          <span className="text-ink-2">
            {files.length} {files.length === 1 ? 'file' : 'files'} · {first.encoding},{' '}
            {first.delimiter === '\t' ? 'tab' : `“${first.delimiter}”`} between cells, decimal{' '}
            {first.decimal === ',' ? 'comma' : 'point'}
            {first.headerLine ? `, header in line ${first.headerLine}` : ', no header'}
          </span>
        </div>
        {first.remembered && <p className="text-ok mt-1">Mapped as you did the last time with this header.</p>}
        <div className="mt-2 overflow-x-auto" tabIndex={0} role="group" aria-label="Column mapping">
          <table className="table">
            <thead>
              <tr>
                <th>Column</th>
                <th>First values</th>
                <th>Is</th>
                <th>In</th>
                <th className="r">Sure</th>
              </tr>
            </thead>
            <tbody>
              {first.columns?.map((c, i) => {
                const mapped = columns[i]!;
                const choice = ROLE_CHOICES.find((r) => r.role === mapped.role);
                const samples = first.pulls?.[0]?.sample[i] ?? [];
                const touched = mapped.role !== c.role || (mapped.unit ?? null) !== c.unit;
                return (
                  <tr key={i}>
                    <td className="font-[620]">{c.name}</td>
                    <td className="text-ink-3 whitespace-nowrap">{samples.map((v) => v ?? '–').join(', ')}</td>
                    <td>
                      <select
                        className="input !min-h-[28px] !w-[150px] !py-0.5"
                        aria-label={`Meaning of ${c.name}`}
                        value={mapped.role}
                        onChange={(e) => {
                          const role = ROLE_CHOICES.find((r) => r.role === e.target.value)!;
                          change(i, {
                            role: role.role,
                            unit: role.units.includes(mapped.unit ?? '') ? mapped.unit! : (role.units[0] ?? null),
                          });
                        }}
                      >
                        {ROLE_CHOICES.map((r) => (
                          <option key={r.role} value={r.role}>
                            {r.label}
                          </option>
                        ))}
                      </select>
                    </td>
                    <td>
                      {choice && choice.units.length > 0 ? (
                        <select
                          className="input !min-h-[28px] !w-[96px] !py-0.5"
                          aria-label={`Unit of ${c.name}`}
                          value={mapped.unit ?? ''}
                          onChange={(e) => change(i, { unit: e.target.value })}
                        >
                          {!choice.units.includes(mapped.unit ?? '') && (
                            <option value={mapped.unit ?? ''}>{mapped.unit ?? 'choose'}</option>
                          )}
                          {choice.units.map((u) => (
                            <option key={u}>{u}</option>
                          ))}
                        </select>
                      ) : (
                        <span className="text-ink-3">{mapped.unit ?? ''}</span>
                      )}
                    </td>
                    <td className={`r ${!touched && c.confidence < 0.7 ? 'text-wait font-[620]' : 'text-ink-3'}`}>
                      {touched ? 'by you' : `${Math.round(c.confidence * 100)} %`}
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        </div>
      </section>
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
