import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { ask, queries, type Schemas } from '../../api/client.ts';
import { Input, Notice } from '../../parts/Field.tsx';
import { For } from '../../parts/May.tsx';

type Answer = Schemas['NewSignalAnswer']['answer'];

const CHOICES: readonly [Answer, string, string][] = [
  ['calibration', 'Calibration changed', 'Enter the new one under Bays: it begins a new epoch.'],
  ['sensor', 'Sensor replaced', 'The chart begins anew.'],
  ['tyre', 'Tyre or its pressure', 'The chart begins anew.'],
  ['nothing', 'Looked, nothing found', 'The chart goes on; the next signal is told again.'],
];

/** What somebody found behind a signal; until then every page of the bay says that it waits. */
export function SignalAnswerForm({ bay, chart }: { bay: string; chart: Schemas['NewSignalAnswer']['chart'] }) {
  const [answer, setAnswer] = useState<Answer | null>(null);
  const [words, setWords] = useState('');
  const send = useMutation({
    mutationFn: (body: Schemas['NewSignalAnswer']) =>
      ask('post', '/api/bays/{id}/charts/answers', { params: { path: { id: bay } }, body }),
    onSettled: () =>
      Promise.all(['bay-charts', 'bay-signals'].map((key) => queries.invalidateQueries({ queryKey: [key] }))),
  });
  return (
    <div className="notice bad grid gap-2" role="group" aria-label="Answer the signal">
      <p className="text-[15px]">
        <b>Something changed, or chance played a rare trick.</b> Look at tyres, pressures, sensors and the calibration,
        then say what it was.
      </p>
      <For role="technician">
        <div className="flex flex-wrap gap-2">
          {CHOICES.map(([key, label]) => (
            <button
              key={key}
              type="button"
              className="btn"
              aria-pressed={answer === key}
              onClick={() => setAnswer(key)}
            >
              {label}
            </button>
          ))}
        </div>
        {answer && (
          <div className="flex flex-wrap items-center gap-2">
            <span className="text-ink-2">{CHOICES.find(([key]) => key === answer)![2]}</span>
            <div className="min-w-[240px] grow">
              <Input
                aria-label="What was done"
                placeholder="What was done"
                maxLength={500}
                value={words}
                onChange={(e) => setWords(e.target.value)}
              />
            </div>
            <button
              type="button"
              className="btn pri"
              disabled={send.isPending}
              onClick={() => send.mutate({ chart, answer, words })}
            >
              Answer
            </button>
          </div>
        )}
      </For>
      {send.error && <Notice kind="bad">{send.error.message}</Notice>}
    </div>
  );
}
