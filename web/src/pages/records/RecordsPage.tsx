import { heatWords, shown } from '@prandel/presentation';
import { DEFAULT_METHOD, toSi, UNKNOWN_CARD } from '@prandel/core';
import { useMutation, useQuery } from '@tanstack/react-query';
import { Plus } from 'lucide-react';
import { useDeferredValue, useState } from 'react';
import { useForm } from 'react-hook-form';
import { NavLink, useParams } from 'react-router';
import { ask, queries, type Schemas } from '../../api/client.ts';
import { useRecords, useUnits } from '../../api/hooks.ts';
import { Field, Input, Notice } from '../../parts/Field.tsx';
import { MethodFields } from './MethodFields.tsx';
import {
  changedFields,
  RECORD_FIELDS,
  RECORD_KINDS,
  valueAt,
  withValue,
  type RecordField,
  type RecordKind,
} from './recordKinds.ts';
import { Changeable, For } from '../../parts/May.tsx';

type Row = Schemas['RecordRow'];

/** Records a shop reuses from job to job, one screen a kind: a list and the record beside it. */
export function RecordsPage() {
  const { kind: asked = 'customer' } = useParams();
  const about = RECORD_KINDS.find((k) => k.kind === asked) ?? RECORD_KINDS[0]!;
  const [search, setSearch] = useState('');
  const rows = useRecords(about.kind, useDeferredValue(search.trim()));
  const [open, setOpen] = useState<string | null>(null);
  const list = rows.data?.pages.flatMap((page) => page.records) ?? [];
  const row = open === 'new' ? blank(about.kind) : (list.find((r) => r.id === open) ?? null);
  return (
    <div className="mx-auto grid max-w-[1280px] gap-3 p-4">
      <div className="flex flex-wrap items-center gap-3">
        <h1>{about.many}</h1>
        <span className="text-ink-2">{about.says}</span>
        <span className="grow" />
        <input
          className="input !w-[240px]"
          placeholder="Find by name"
          aria-label={`Find a ${about.one}`}
          value={search}
          onChange={(e) => setSearch(e.target.value)}
        />
        <For role="technician">
          <button className="btn pri" onClick={() => setOpen('new')}>
            <Plus size={15} aria-hidden />
            New {about.one}
          </button>
        </For>
      </div>
      <nav className="flex flex-wrap gap-1" aria-label="Kinds of records">
        {RECORD_KINDS.map((k) => (
          <NavLink
            key={k.kind}
            to={`/records/${k.kind}`}
            className="tab"
            onClick={() => {
              setOpen(null);
              setSearch('');
            }}
          >
            {k.many}
          </NavLink>
        ))}
      </nav>
      {rows.error && <Notice kind="bad">{rows.error.message}</Notice>}
      <div className="grid items-start gap-3 md:grid-cols-[320px_minmax(0,1fr)]">
        <ul className="sheet divide-y divide-rule">
          {list.map((r) => (
            <li key={r.id}>
              <button
                className="w-full px-4 py-2.5 text-left hover:bg-well aria-pressed:bg-faint"
                aria-pressed={r.id === open}
                onClick={() => setOpen(r.id)}
              >
                <b>{r.label}</b>
                {typeof r.fields.owner === 'string' && r.fields.owner !== '' && (
                  <span className="text-ink-2"> {r.fields.owner}</span>
                )}
              </button>
            </li>
          ))}
          {rows.data && list.length === 0 && (
            <li className="text-ink-2 p-4">
              {search.trim() ? `No ${about.one} of this name.` : 'None yet. Add the first one.'}
            </li>
          )}
          {rows.hasNextPage && (
            <li className="p-2 text-center">
              <button className="btn sm" disabled={rows.isFetching} onClick={() => void rows.fetchNextPage()}>
                Show more
              </button>
            </li>
          )}
        </ul>
        {row ? (
          <Changeable>
            <RecordForm key={`${row.id}:${row.version}`} row={row} one={about.one} onDone={(id) => setOpen(id)} />
          </Changeable>
        ) : (
          <p className="text-ink-2 p-4">Choose a {about.one} on the left, or add one.</p>
        )}
      </div>
    </div>
  );
}

function blank(kind: RecordKind): Row {
  const fields = kind === 'method' ? { ...DEFAULT_METHOD } : kind === 'model-card' ? { ...UNKNOWN_CARD } : {};
  return { id: '', kind, label: '', version: 0, fields };
}

function RecordForm({ row, one, onDone }: { row: Row; one: string; onDone: (id: string | null) => void }) {
  const { register, handleSubmit, setValue, getValues, watch } = useForm({
    defaultValues: { label: row.label, fields: row.fields },
  });
  const { label, fields } = watch();
  const save = useMutation({
    mutationFn: async () => {
      const name = label.trim();
      if (row.id === '')
        return (await ask('post', '/api/records', { body: { kind: row.kind, label: name, fields } })).id;
      // Only what was changed here is sent: what the form does not show stays as it is.
      const changed = changedFields(row.fields, fields);
      await ask('patch', '/api/records/{kind}/{id}', {
        params: { path: { kind: row.kind, id: row.id } },
        body: {
          version: row.version,
          ...(name === row.label ? {} : { label: name }),
          ...(Object.keys(changed).length > 0 ? { fields: changed } : {}),
        },
      });
      return row.id;
    },
    onSuccess: async (id) => {
      await queries.invalidateQueries({ queryKey: ['records', row.kind] });
      onDone(id);
    },
  });
  const set = (path: string, value: unknown) => setValue('fields', withValue(getValues('fields'), path, value));
  return (
    <form className="sheet card grid gap-3" onSubmit={(e) => void handleSubmit(() => save.mutate())(e)}>
      <Field label="Name">
        <Input required {...register('label')} />
      </Field>
      {row.kind === 'method' ? (
        <MethodFields fields={fields} set={set} />
      ) : (
        <div className="grid gap-3 sm:grid-cols-2">
          {RECORD_FIELDS[row.kind].map((field) => (
            <RecordInput
              key={field.path}
              field={field}
              value={valueAt(fields, field.path)}
              set={(v) => set(field.path, v)}
            />
          ))}
        </div>
      )}
      {row.kind === 'vehicle' && row.id !== '' && <VehicleHeat id={row.id} />}
      {save.error && <Notice kind="bad">{save.error.message}</Notice>}
      {save.isSuccess && <Notice kind="plain">Saved.</Notice>}
      <div className="flex justify-end gap-2">
        <button type="button" className="btn" onClick={() => onDone(null)}>
          Close
        </button>
        <button className="btn pri" disabled={save.isPending || label.trim() === ''}>
          Save the {one}
        </button>
      </div>
    </form>
  );
}

/** What the car loses per degree of start temperature, by its jobs; nothing where none of them tells. */
function VehicleHeat({ id }: { id: string }) {
  const units = useUnits();
  const { data } = useQuery({
    queryKey: ['vehicle-heat', id],
    queryFn: () => ask('get', '/api/records/vehicle/{id}/heat', { params: { path: { id } } }),
  });
  if (!data?.heat) return null;
  return (
    <p className="text-ink-2 text-[12.5px]" data-testid="vehicle-heat">
      {heatWords(data.heat, units)}
    </p>
  );
}

function RecordInput({ field, value, set }: { field: RecordField; value: unknown; set: (value: unknown) => void }) {
  const text = typeof value === 'string' || typeof value === 'number' ? String(value) : '';
  if (field.kind === 'powers') return <PowersInput field={field} value={value} set={set} />;
  if (field.kind === 'flag')
    return (
      <label className="flex items-center gap-2 self-end pb-1.5">
        <input type="checkbox" checked={value === true} onChange={(e) => set(e.target.checked)} />
        {field.label}
      </label>
    );
  return (
    <Field label={field.label} {...(field.hint ? { hint: field.hint } : {})}>
      {field.kind === 'long' ? (
        <textarea className="input" rows={3} value={text} onChange={(e) => set(e.target.value)} />
      ) : field.kind === 'choice' ? (
        <select className="input" value={text} onChange={(e) => set(e.target.value)}>
          {field.choices!.map(([key, words]) => (
            <option key={key} value={key}>
              {words}
            </option>
          ))}
        </select>
      ) : (
        <Input
          type={field.kind === 'number' ? 'number' : 'text'}
          step="any"
          value={text}
          onChange={(e) =>
            set(field.kind === 'number' ? (e.target.value === '' ? null : Number(e.target.value)) : e.target.value)
          }
        />
      )}
    </Field>
  );
}

/** Several powers in the person's unit, separated by semicolons; stored in watts. */
function PowersInput({ field, value, set }: { field: RecordField; value: unknown; set: (value: unknown) => void }) {
  const { power } = useUnits();
  const stored = Array.isArray(value) ? value.filter((w): w is number => typeof w === 'number') : [];
  const [text, setText] = useState(stored.map((w) => shown(w, power, 1)).join('; '));
  return (
    <Field label={`${field.label}, ${power}, separated by semicolons`} {...(field.hint ? { hint: field.hint } : {})}>
      <Input
        value={text}
        onChange={(e) => {
          setText(e.target.value);
          const numbers = e.target.value.split(/[;\s]+/).map((v) => Number(v.replace(',', '.')));
          set(numbers.filter((v) => v > 0 && Number.isFinite(v)).map((v) => Math.round(toSi(v, power))));
        }}
      />
    </Field>
  );
}
