import { moment, plain, shown, spansDays, pullFindingWords } from '@prandel/presentation';
import {
  changesText,
  isOfRollOns,
  kindOf,
  PULL_KINDS,
  pullsInOrder,
  type JudgedPull,
  type Judgement,
  type Pull,
  type PullKind,
  type Setup,
} from '@prandel/core';
import { Undo2, XCircle } from 'lucide-react';
import { Dialog } from 'radix-ui';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { ask, type Schemas, type StoredJob } from '../../api/client.ts';
import { useJobChange, useUnits } from '../../api/hooks.ts';
import { Field, Input, Notice } from '../../parts/Field.tsx';
import { Badge } from '../../parts/marks.tsx';
import { GaugeGrid } from './GaugeGrid.tsx';
import { StartByHand } from './HandReadings.tsx';

const REASONS = [
  'tyre slip',
  'intake air outside the window',
  'pull cut short',
  'shift or pickup spike',
  'fan was off',
  'knock or abort',
];

/** Every pull of a setup with its findings; a pull is set aside with a reason, never deleted. */
export function PullTable({
  setup,
  stored,
  judgement,
}: {
  setup: Setup;
  stored: StoredJob;
  judgement: Judgement | null;
}) {
  const { job, version, rowId } = stored;
  const units = useUnits();
  const [asking, setAsking] = useState<Pull | null>(null);
  const change = useJobChange<{ pull: Pull; edit: Schemas['PullEdit'] }>(rowId, ({ pull, edit }) =>
    ask('patch', '/api/jobs/{id}/pulls/{pull}', { params: { path: { id: rowId, pull: pull.id } }, body: edit }),
  );
  const pulls = pullsInOrder(job.pulls.filter((p) => p.setupId === setup.id));
  const rounds = new Set(pulls.map((p) => p.round)).size;
  const several = spansDays(
    job.pulls.map((p) => p.startedAt),
    job.timeZone,
  );
  const asksRollOns = job.question.measures.some((m) => isOfRollOns(m.id));
  const counted = pulls.filter((p) => p.status === 'counted').length;
  return (
    <section className="sheet card" aria-label={`Setup ${setup.id}`}>
      <div className="flex flex-wrap items-center gap-2">
        <Badge id={setup.id} setups={job.setups} />
        <h2>{setup.label}</h2>
        {setup.returnsTo && <span className="text-ink-2">return check of {setup.returnsTo}</span>}
        <span className="text-ink-2 grow text-right">
          {pulls.length === 0
            ? 'no pulls'
            : `${counted} counted of ${pulls.length} pulls${rounds > 1 ? ` in ${rounds} rounds` : ''}`}
        </span>
        <GaugeGrid setup={setup} stored={stored} />
      </div>
      {setup.changes.length > 0 && <p className="text-ink-2 mt-0.5 text-[12px]">{changesText(setup.changes)}</p>}
      {change.error && (
        <div className="mt-2">
          <Notice kind="bad">{change.error.message}</Notice>
        </div>
      )}
      {pulls.length > 0 && (
        <div className="mt-1.5 overflow-x-auto" tabIndex={0} role="group" aria-label={`Pulls of setup ${setup.id}`}>
          <table className="table">
            <thead>
              <tr>
                <th>Pull</th>
                <th>Time</th>
                <th className="r">Intake, {units.temperature}</th>
                <th className="r">Factor</th>
                <th className="r">Mean, {units.power}</th>
                <th className="r">Peak, {units.power}</th>
                <th>Use and findings</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {pulls.map((pull, i) => {
                const judged = judgement?.pulls.find((p) => p.id === pull.id);
                return (
                  <tr key={pull.id} className={pull.status === 'counted' ? '' : 'text-ink-3'}>
                    <td className="whitespace-nowrap font-[620]">
                      {setup.id}·{i + 1}
                    </td>
                    <td>{pull.startedAt ? moment(pull.startedAt, job.timeZone, several) : '–'}</td>
                    <td className="r">{shown(pull.intakeStartC, units.temperature)}</td>
                    <td className="r">{judged?.factor ? plain(judged.factor, 3) : '–'}</td>
                    <td className="r">{shown(judged?.windowMeanW, units.power)}</td>
                    <td className="r whitespace-nowrap">
                      {shown(judged?.peak?.value, units.power)}{' '}
                      <span className="text-ink-3">{judged?.peak ? Math.round(judged.peak.rpm) : ''}</span>
                    </td>
                    <td className="min-w-[180px]">
                      {(pull.kind ?? (asksRollOns ? 'sweep' : null)) && (
                        <select
                          className="input !min-h-[26px] !w-auto !py-0 mr-2 text-[12px]"
                          aria-label={`Kind of ${setup.id}·${i + 1}`}
                          value={kindOf(pull)}
                          disabled={change.isPending}
                          onChange={(e) => {
                            const { status, reason } = pull;
                            const kind = e.target.value as PullKind;
                            change.mutate({ pull, edit: { version, status, reason, kind } });
                          }}
                        >
                          {PULL_KINDS.map((kind) => (
                            <option key={kind} value={kind}>
                              {kind}
                            </option>
                          ))}
                        </select>
                      )}
                      <Findings pull={pull} judged={judged} />
                    </td>
                    <td className="r whitespace-nowrap">
                      <StartByHand job={rowId} pull={pull} name={`${setup.id}·${i + 1}`} />{' '}
                      {pull.status === 'set-aside' ? (
                        <button
                          className="btn sm"
                          disabled={change.isPending}
                          onClick={() => change.mutate({ pull, edit: { version, status: 'counted', reason: null } })}
                        >
                          <Undo2 size={13} aria-hidden />
                          Bring back
                        </button>
                      ) : (
                        <button
                          className="btn sm"
                          disabled={change.isPending}
                          aria-label={`Set aside ${setup.id}·${i + 1}`}
                          onClick={() => setAsking(pull)}
                        >
                          <XCircle size={13} aria-hidden />
                          Set aside
                        </button>
                      )}
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        </div>
      )}
      {asking && (
        <AskReason
          name={`${setup.id}·${pulls.indexOf(asking) + 1}`}
          onClose={() => setAsking(null)}
          onReason={(reason) => {
            change.mutate({ pull: asking, edit: { version, status: 'set-aside', reason } });
            setAsking(null);
          }}
        />
      )}
    </section>
  );
}

function Findings({ pull, judged }: { pull: Pull; judged: JudgedPull | undefined }) {
  const use =
    pull.status === 'settle'
      ? 'settle'
      : pull.status === 'set-aside'
        ? `set aside: ${pull.reason ?? 'no reason'}`
        : judged && !judged.used
          ? 'left out'
          : 'counted';
  return (
    <>
      <span className={use === 'left out' || pull.status === 'set-aside' ? 'text-act' : ''}>{use}</span>
      {pull.marks
        ?.filter((mark) => mark !== pull.reason)
        .map((mark) => (
          <div key={mark} className="text-wait text-[12px] leading-snug font-[620]">
            {mark}
          </div>
        ))}
      {judged?.findings.map((f) => (
        <div
          key={`${f.code} ${f.fromRpm}`}
          className={`text-[12px] leading-snug ${f.severity === 'info' ? 'text-ink-3' : 'text-wait'}`}
        >
          {pullFindingWords(f)}
        </div>
      ))}
    </>
  );
}

function AskReason({
  name,
  onClose,
  onReason,
}: {
  name: string;
  onClose: () => void;
  onReason: (reason: string) => void;
}) {
  const { register, handleSubmit, setValue, watch } = useForm({ defaultValues: { reason: '' } });
  const reason = watch('reason');
  const send = handleSubmit(() => {
    if (reason.trim()) onReason(reason.trim());
  });
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className="dialog" aria-describedby="aside-why">
          <Dialog.Title asChild>
            <h2>Set pull {name} aside</h2>
          </Dialog.Title>
          <p id="aside-why" className="text-ink-2">
            The pull stays in the job and in the report with its reason; it no longer counts.
          </p>
          <div className="flex flex-wrap gap-1.5">
            {REASONS.map((r) => (
              <button key={r} className="btn sm" aria-pressed={reason === r} onClick={() => setValue('reason', r)}>
                {r}
              </button>
            ))}
          </div>
          <form onSubmit={(e) => void send(e)} className="grid gap-3">
            <Field label="Reason">
              <Input autoFocus maxLength={300} {...register('reason')} />
            </Field>
            <div className="flex justify-end gap-2">
              <button type="button" className="btn" onClick={onClose}>
                Keep counting it
              </button>
              <button className="btn pri" disabled={!reason.trim()}>
                Set aside
              </button>
            </div>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
