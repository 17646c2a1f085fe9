import type { Schemas } from '../../api/client.ts';
import { ROLE_CHOICES } from './columnChoices.ts';

/** How several pulls stand in a file. */
export const ARRANGED: Readonly<Record<string, string>> = {
  one: 'one pull a file',
  blocks: 'several pulls below each other',
  named: 'a column names the pull',
  'side-by-side': 'pulls side by side',
};

export type Columns = Schemas['ColumnMappingDto'][];

/** Columns of files of one kind with their guessed meaning and unit, each correctable. */
export function ColumnTable({
  files,
  columns,
  onColumns,
}: {
  files: readonly Schemas['StagedFile'][];
  columns: Columns;
  onColumns: (columns: Columns) => void;
}) {
  const first = files[0]!;
  const change = (i: number, patch: Partial<Columns[number]>) =>
    onColumns(columns.map((c, k) => (k === i ? { ...c, ...patch } : c)));
  return (
    <section className="sheet card" aria-label="Columns">
      <div className="flex flex-wrap items-baseline gap-x-3">
        <h2>What the columns mean</h2>
        <span className="text-ink-2">
          {files.length} {files.length === 1 ? 'file' : 'files'} · {first.encoding},{' '}
          {first.delimiter === '\t' ? 'tab' : `“${first.delimiter}”`} between cells, decimal{' '}
          {first.decimal === ',' ? 'comma' : 'point'}
          {first.headerLine ? `, header in line ${first.headerLine}` : ', no header'}
          {first.arrangement && first.arrangement !== 'one' ? `, ${ARRANGED[first.arrangement] ?? ''}` : ''}
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
  );
}
