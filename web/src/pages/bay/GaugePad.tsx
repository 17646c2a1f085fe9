import { channelWords, handReadingProblem, type HandMoment, type LiveSheet } from '@prandel/core';
import { channelName } from '@prandel/presentation';
import { useMutation } from '@tanstack/react-query';
import { Delete } from 'lucide-react';
import { useState } from 'react';
import { ask, queries, type Schemas } from '../../api/client.ts';
import { useKeys } from '../../parts/useKeys.ts';
import './gauge.css';

/** Gauges that a car or a bay may have and nobody records. */
const GAUGES = ['oil_c', 'oil_bar', 'coolant_c', 'gearbox_c', 'charge_c', 'exhaust_c', 'fuel_kpa', 'manifold_kpa'];
const MOMENTS: readonly (readonly [HandMoment, string])[] = [
  ['start', 'at the start'],
  ['peak', 'highest'],
  ['end', 'at the end'],
];
const KEPT = 'prandel.gauge';

/** A gauge is read off: which, when, and its number on keys for gloves. The reading goes to the last pull. */
export function GaugePad({ sheet, onClose }: { sheet: LiveSheet; onClose: () => void }) {
  const [channel, setChannel] = useState(() => localStorage.getItem(KEPT) ?? GAUGES[0]!);
  const [moment, setMoment] = useState<HandMoment>('peak');
  const [typed, setTyped] = useState('');
  const pull = sheet.round!.pulls.at(-1)!;
  const { unit } = channelWords(channel);
  const keep = useMutation({
    mutationFn: (readings: Schemas['GaugeDto'][]) =>
      ask('post', '/api/jobs/{id}/gauges', { params: { path: { id: sheet.job!.id } }, body: { readings } }),
    onSuccess: () => {
      localStorage.setItem(KEPT, channel);
      setTyped('');
      void queries.invalidateQueries({ queryKey: ['job', sheet.job!.id] });
    },
  });
  const value = typed === '' || typed === '-' ? NaN : Number(typed);
  const wrong = Number.isFinite(value) ? handReadingProblem({ pullId: pull.id, channel, moment, value }) : null;
  const send = () => {
    if (Number.isFinite(value) && !wrong && !keep.isPending) keep.mutate([{ pullId: pull.id, channel, moment, value }]);
  };
  const press = (key: string) => {
    keep.reset();
    if (key === 'back') setTyped(typed.slice(0, -1));
    else if (key === '-') setTyped(typed.startsWith('-') ? typed.slice(1) : `-${typed}`);
    else if (key === '.' && typed.includes('.')) return;
    else if (typed.length < 7) setTyped(typed + key);
  };
  useKeys(['*'], (key, e) => {
    if (key === 'escape') return onClose();
    if (/^[0-9.-]$/.test(key)) press(key);
    else if (key === ',') press('.');
    else if (key === 'backspace') press('back');
    else if (key === 'enter' && !(e.target instanceof HTMLButtonElement)) send();
  });
  return (
    <div className="gauge-pad" role="dialog" aria-modal="true" aria-label="Read a gauge">
      <div className="gauge-what">
        <h2>Gauge during pull {pull.position}</h2>
        <div className="gauge-list" role="group" aria-label="Gauge">
          {GAUGES.map((c) => (
            <button key={c} className="bay-btn" aria-pressed={c === channel} onClick={() => setChannel(c)}>
              <span>
                {channelName(c)}
                <small>{channelWords(c).unit}</small>
              </span>
            </button>
          ))}
        </div>
        <div className="gauge-when" role="group" aria-label="When it was read">
          {MOMENTS.map(([m, words]) => (
            <button key={m} className="bay-btn" aria-pressed={m === moment} onClick={() => setMoment(m)}>
              {words}
            </button>
          ))}
        </div>
      </div>
      <div className="gauge-keys">
        <output className="gauge-value num" aria-label="Reading">
          {typed.replace('-', '\u2212') || '–'} <small>{unit}</small>
        </output>
        <p className="gauge-said" role="status">
          {keep.error?.message ??
            (wrong
              ? 'No gauge shows that.'
              : keep.isSuccess
                ? `Kept for pull ${pull.position}.`
                : `${channelName(channel)}, ${MOMENTS.find(([m]) => m === moment)![1]}`)}
        </p>
        <div className="gauge-digits">
          {['7', '8', '9', '4', '5', '6', '1', '2', '3', '-', '0', '.'].map((key) => (
            <button
              key={key}
              className="bay-btn"
              aria-label={key === '-' ? 'minus' : key === '.' ? 'point' : key}
              onClick={() => press(key)}
            >
              {key === '-' ? '\u2212' : key}
            </button>
          ))}
        </div>
        <div className="gauge-do">
          <button className="bay-btn" aria-label="Delete a digit" onClick={() => press('back')}>
            <Delete size={34} aria-hidden />
          </button>
          <button className="bay-btn pri" disabled={!Number.isFinite(value) || wrong !== null} onClick={send}>
            Keep
          </button>
          <button className="bay-btn" onClick={onClose}>
            Done
          </button>
        </div>
      </div>
    </div>
  );
}
