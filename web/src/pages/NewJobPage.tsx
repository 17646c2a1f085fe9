import { useMutation } from '@tanstack/react-query';
import { useEffect } from 'react';
import { useFieldArray, useForm } from 'react-hook-form';
import { useNavigate } from 'react-router';
import { ask, queries, type Schemas } from '../api/client.ts';
import { useBays, useRecords } from '../api/hooks.ts';
import { Field, Input, Notice } from '../parts/Field.tsx';
import { Badge } from '../parts/marks.tsx';
import { newSetup } from '@prandel/core';

interface Form {
  title: string;
  vehicle: string;
  driven: string;
  aspiration: string;
  transmission: string;
  ratio: string;
  bay: string;
  inertia: string;
  a: string;
  candidates: { label: string; changes: string }[];
  low: string;
  high: string;
  matters: string;
  cooling: boolean;
  returnCheck: boolean;
  customer: string;
  claim: string;
  card: string;
  method: string;
  fuel: string;
  tune: string;
  tyres: string;
  oil: string;
  parts: string;
}

type Row = Schemas['RecordRow'];

/** A is the baseline; what is compared with it goes by the letters after it. */
const LETTERS = ['B', 'C', 'D', 'E', 'F', 'G'] as const;
const SETUPS = [newSetup('A', 'A'), ...LETTERS.map((id) => newSetup(id, id, 'A'))];

/** The question, the vehicle and two setups, written down before the first counted pull. */
export function NewJobPage() {
  const go = useNavigate();
  const form = useForm<Form>({
    defaultValues: {
      title: '',
      vehicle: '',
      driven: '',
      aspiration: 'natural',
      transmission: 'manual',
      ratio: '',
      bay: 'Bay 1',
      inertia: '',
      a: 'as arrived',
      candidates: [{ label: '', changes: '' }],
      low: '3000',
      high: '6500',
      matters: '1',
      cooling: false,
      returnCheck: false,
      customer: '',
      claim: '',
      card: '',
      method: '',
      fuel: '',
      tune: '',
      tyres: '',
      oil: '',
      parts: '',
    },
  });
  const { errors } = form.formState;
  const candidates = useFieldArray({ control: form.control, name: 'candidates' });
  const bays = useBays().data ?? [];
  const firstBay = bays[0]?.label;
  useEffect(() => {
    // The shop's own bay, until somebody types another.
    if (firstBay && !form.formState.dirtyFields.bay) form.resetField('bay', { defaultValue: firstBay });
  }, [firstBay, form]);
  const records = {
    customer: useRecords('customer').data?.records ?? [],
    vehicle: useRecords('vehicle').data?.records ?? [],
    card: useRecords('model-card').data?.records ?? [],
    method: useRecords('method').data?.records ?? [],
  };
  const open = useMutation({
    mutationFn: ({ form: v }: { form: Form; next: 'import' | 'plan' }) =>
      ask<Schemas['JobCreated']>('POST', '/jobs', requestOf(v, records.card, records.method)),
    onSuccess: async ({ id }, { next }) => {
      await queries.invalidateQueries({ queryKey: ['jobs'] });
      await go(`/jobs/${id}/${next}`);
    },
  });
  /** A known vehicle brings what is written on its record. */
  const takeVehicle = (label: string) => {
    const paper = records.vehicle.find((r) => r.label === label)?.paper as Record<string, string | number> | undefined;
    if (!paper) return;
    const put = (name: Exclude<keyof Form, 'candidates'>, key: string) => {
      if (paper[key] !== undefined && paper[key] !== null) form.setValue(name, String(paper[key]));
    };
    put('driven', 'drivenWheels');
    put('aspiration', 'aspiration');
    put('transmission', 'transmission');
    put('ratio', 'engineToRollerRatio');
    put('customer', 'owner');
    put('card', 'modelCard');
    put('fuel', 'fuel');
    put('tune', 'tune');
    put('tyres', 'tyres');
    put('oil', 'oil');
    put('parts', 'partsFitted');
  };
  const text = (name: Exclude<keyof Form, 'candidates'>, rule?: string) =>
    form.register(name, rule ? { required: rule } : {});
  return (
    <form
      className="mx-auto grid max-w-[1080px] gap-3 p-4"
      noValidate
      onSubmit={(e) => void form.handleSubmit((v) => open.mutate({ form: v, next: 'import' }))(e)}
    >
      <h1>New job</h1>
      <section className="sheet card grid gap-3">
        <h2>The question</h2>
        <Field label="What is to be decided, in words" error={errors.title?.message}>
          <Input
            {...text('title', 'Write the question in words.')}
            placeholder="Does the part add power at the wheels?"
          />
        </Field>
        <div className="grid gap-3 sm:grid-cols-3">
          <Field label="Window from, rpm" error={errors.low?.message}>
            <Input inputMode="numeric" {...text('low', 'From which engine speed?')} />
          </Field>
          <Field label="Window to, rpm" error={errors.high?.message}>
            <Input
              inputMode="numeric"
              {...form.register('high', {
                required: 'To which engine speed?',
                validate: (v, all) => Number(v) > Number(all.low) || 'The window must rise.',
              })}
            />
          </Field>
          <Field label="Gain that would matter, %" hint="Agreed before the first counted pull.">
            <Input inputMode="decimal" {...text('matters')} />
          </Field>
        </div>
        <label className="flex items-center gap-2">
          <input type="checkbox" {...form.register('cooling')} />
          The part is meant to change the intake air temperature
        </label>
      </section>
      <div className="grid gap-3 md:grid-cols-2">
        <section className="sheet card grid content-start gap-3">
          <h2>The setups</h2>
          <div className="flex items-end gap-2">
            <Badge id="A" setups={SETUPS} />
            <div className="grow">
              <Field label="Baseline" error={errors.a?.message}>
                <Input {...text('a', 'Name the baseline.')} />
              </Field>
            </div>
          </div>
          {candidates.fields.map((field, i) => (
            <div key={field.id} className="grid gap-2">
              <div className="flex items-end gap-2">
                <Badge id={LETTERS[i]!} setups={SETUPS} />
                <div className="grow">
                  <Field
                    label={i === 0 ? 'With the change' : 'With another change'}
                    error={errors.candidates?.[i]?.label?.message}
                  >
                    <Input
                      {...form.register(`candidates.${i}.label`, { required: `Name setup ${LETTERS[i]}.` })}
                      placeholder={i === 0 ? 'electric fan' : 'electric fan and thermostat'}
                    />
                  </Field>
                </div>
                {i > 0 && (
                  <button type="button" className="btn" onClick={() => candidates.remove(i)}>
                    Remove
                  </button>
                )}
              </div>
              <Field
                label={`What was changed for ${LETTERS[i]}, items separated by semicolons`}
                {...(i === 0
                  ? {
                      hint: 'Name a fuel, tune, hood or fan change here: whatever differs and is not named makes the setups not comparable.',
                    }
                  : {})}
              >
                <Input {...form.register(`candidates.${i}.changes`)} placeholder="part fitted: electric cooling fan" />
              </Field>
            </div>
          ))}
          {candidates.fields.length < LETTERS.length && (
            <button
              type="button"
              className="btn justify-self-start"
              onClick={() => candidates.append({ label: '', changes: '' })}
            >
              Compare one more setup
            </button>
          )}
          <label className="flex items-center gap-2">
            <input type="checkbox" {...form.register('returnCheck')} />
            Return check: the first setup goes back on at the end
          </label>
        </section>
        <section className="sheet card grid content-start gap-3">
          <h2>Vehicle and bay</h2>
          <Field label="Vehicle" error={errors.vehicle?.message}>
            <Input
              list="vehicles"
              {...form.register('vehicle', {
                required: 'Name the vehicle.',
                onChange: (e: { target: { value: string } }) => takeVehicle(e.target.value),
              })}
            />
          </Field>
          <div className="grid grid-cols-3 gap-3">
            <Field label="Driven wheels">
              <select className="input" {...text('driven')}>
                <option value="">not recorded</option>
                <option value="front">front</option>
                <option value="rear">rear</option>
                <option value="all">all</option>
                <option value="motorcycle">motorcycle</option>
              </select>
            </Field>
            <Field label="Aspiration">
              <select className="input" {...text('aspiration')}>
                <option value="natural">natural</option>
                <option value="turbo">turbo</option>
                <option value="supercharged">supercharged</option>
              </select>
            </Field>
            <Field label="Transmission">
              <select className="input" {...text('transmission')}>
                <option value="manual">manual</option>
                <option value="automatic">automatic</option>
                <option value="cvt">CVT</option>
              </select>
            </Field>
          </div>
          <div className="grid grid-cols-2 gap-3">
            <Field label="Roller inertia, kg·m²" hint="Only needed for files with roller speed.">
              <Input inputMode="decimal" {...text('inertia')} />
            </Field>
            <Field label="Engine over roller speed" hint="Only needed without an rpm pickup.">
              <Input inputMode="decimal" {...text('ratio')} />
            </Field>
          </div>
          <Field label="Bay">
            <Input list="bays" {...text('bay')} />
          </Field>
        </section>
      </div>
      <section className="sheet card grid gap-3">
        <h2>Intake</h2>
        <div className="grid gap-3 sm:grid-cols-2 lg:grid-cols-4">
          <Field label="Customer">
            <Input list="customers" {...text('customer')} />
          </Field>
          <Field label="Claim being tested">
            <Input {...text('claim')} placeholder="four kilowatts, says the seller" />
          </Field>
          <Field label="Model card">
            <select className="input" {...text('card')}>
              <option value="">none yet</option>
              {records.card.map((r) => (
                <option key={r.id}>{r.label}</option>
              ))}
            </select>
          </Field>
          <Field label="House method">
            <select className="input" {...text('method')}>
              <option value="">usual tolerances</option>
              {records.method.map((r) => (
                <option key={r.id}>{r.label}</option>
              ))}
            </select>
          </Field>
          <Field label="Fuel and grade">
            <Input {...text('fuel')} />
          </Field>
          <Field label="Tune file and revision">
            <Input {...text('tune')} />
          </Field>
          <Field label="Tyres and pressure">
            <Input {...text('tyres')} />
          </Field>
          <Field label="Oil">
            <Input {...text('oil')} />
          </Field>
        </div>
        <Field
          label="Parts already fitted"
          hint="Walk round for small losses too: a dragging brake, an over-oiled filter, fluid of unknown grade."
        >
          <Input {...text('parts')} />
        </Field>
        <datalist id="bays">
          {bays.map((b) => (
            <option key={b.id} value={b.label} />
          ))}
        </datalist>
        <datalist id="customers">
          {records.customer.map((r) => (
            <option key={r.id} value={r.label} />
          ))}
        </datalist>
        <datalist id="vehicles">
          {records.vehicle.map((r) => (
            <option key={r.id} value={r.label} />
          ))}
        </datalist>
      </section>
      {open.error && <Notice kind="bad">{open.error.message}</Notice>}
      <div className="flex justify-end gap-2">
        <button
          type="button"
          className="btn min-h-[38px] px-6"
          disabled={open.isPending}
          onClick={() => void form.handleSubmit((v) => open.mutate({ form: v, next: 'plan' }))()}
        >
          Open the job and plan the day
        </button>
        <button className="btn pri min-h-[38px] px-6" disabled={open.isPending}>
          Open the job and import pulls
        </button>
      </div>
    </form>
  );
}

function number(text: string): number | null {
  const value = Number(text.replace(',', '.'));
  return text.trim() === '' || !Number.isFinite(value) ? null : value;
}

function requestOf(v: Form, cards: readonly Row[], methods: readonly Row[]): Schemas['NewJob'] {
  const fuel = v.fuel.trim();
  const state: Record<string, string> = fuel ? { fuel } : {};
  const compared = v.candidates.map(({ label, changes }, i) => ({ id: LETTERS[i]!, label, changes }));
  const card = cards.find((r) => r.label === v.card)?.paper;
  const method = methods.find((r) => r.label === v.method)?.paper;
  const intake = Object.entries({ Tune: v.tune, Tyres: v.tyres, Oil: v.oil, 'Parts already fitted': v.parts }).filter(
    ([, words]) => words.trim() !== '',
  );
  return {
    title: v.title,
    vehicle: {
      label: v.vehicle,
      drivenWheels: v.driven || null,
      aspiration: v.aspiration || null,
      transmission: v.transmission || null,
      engineToRollerRatio: number(v.ratio),
    },
    bay: { label: v.bay, kind: number(v.inertia) ? 'inertia' : null, rollerInertiaKgM2: number(v.inertia) },
    question: {
      text: v.title,
      baselineSetup: 'A',
      candidateSetups: compared.map(({ id }) => id),
      measure: 'windowMeanPower',
      windowRpm: [number(v.low) ?? 3000, number(v.high) ?? 6500],
      meaningfulGainPercent: number(v.matters) ?? 1,
      partChangesIntakeTemperature: v.cooling,
    },
    setups: [
      { id: 'A', label: v.a, changes: '', state },
      ...compared.map((setup) => ({ ...setup, parentId: 'A', state })),
      ...(v.returnCheck
        ? [{ id: 'A2', label: 'return check', parentId: 'A', returnsTo: 'A', changes: '', state }]
        : []),
    ],
    ...(method ? { method: method as unknown as Schemas['MethodDto'] } : {}),
    day: {
      customer: v.customer.trim() || null,
      claim: v.claim.trim() || null,
      intake: Object.fromEntries(intake),
      ...(card ? { modelCard: card } : {}),
    },
    timeZone: Intl.DateTimeFormat().resolvedOptions().timeZone,
  };
}
