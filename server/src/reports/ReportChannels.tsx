import { airExplains, factsNamed, isCurved, measureName } from '@prandel/core';
import {
  channelName,
  channelOfMeasure,
  channelPanelSvg,
  compareGeometry,
  fadeSvgs,
  plain,
  recordedChannels,
  rollOnSvg,
  shown,
  signed,
} from '@prandel/presentation';
import type { ReportInput } from './reportInput.ts';

/** The channels that the question is asked of, over engine speed; a fade by place in the round; what the air alone would explain. */
export function ReportChannels({ input }: { input: ReportInput }) {
  const { job, judgement, units } = input;
  const recorded = recordedChannels(judgement);
  const names = job.question.measures.map(measureName);
  const asked = [...new Set(names.flatMap((m) => channelOfMeasure(m) ?? []))];
  const channels = (job.day?.channels ?? asked).filter((c) => recorded.includes(c));
  const fades = job.question.measures.some((m) => m.id === 'fade');
  const lines = judgement.verdicts
    .filter((v) => isCurved(factsNamed(v.measure)))
    .flatMap((v) => airLine(input, v.candidate, v.gain?.percent ?? null));
  const hiddenSetups = new Set(job.setups.filter((s) => s.returnsTo).map((s) => s.id));
  const curved = judgement.setups.some((s) => s.pulls > 0);
  const size = { width: 912, height: 118, fontSize: 12 };
  const rollOns = rollOnSvg({ job, judgement, hiddenSetups, units, showPulls: true, ...size, height: 220 });
  const answers = rollOns && (
    <section>
      <h2>
        Answer to the pedal<span>thick line: mean of the roll-ons; thin lines: single ones</span>
      </h2>
      <div dangerouslySetInnerHTML={{ __html: rollOns }} />
    </section>
  );
  if (!curved || (channels.length === 0 && !fades && lines.length === 0)) return answers || null;
  const { rpmFrom, rpmTo } = compareGeometry({
    ...{ job, judgement, units, hiddenSetups, candidate: '', measure: '', fontSize: 12 },
    ...{ hiddenPulls: new Set<string>(), showPulls: true, showSetAside: false },
    size: { width: 912, power: 170, torque: 90, ribbon: 100 },
  });
  const view = { job, judgement, hiddenSetups, units, showPulls: true, rpm: [rpmFrom, rpmTo] as const, ...size };
  return (
    <>
      {answers}
      <section>
        {(channels.length > 0 || fades) && (
          <h2>
            What else was read<span>thick line: mean of the counted pulls; shading: 95 % at each engine speed</span>
          </h2>
        )}
        {channels.map((channel) => (
          <div key={channel} dangerouslySetInnerHTML={{ __html: channelPanelSvg(view, channel) }} />
        ))}
        {fades && <div dangerouslySetInnerHTML={{ __html: fadeSvgs({ ...view, height: 140 }, asked, units) }} />}
        {lines.map((words) => (
          <p key={words} className="small">
            {words}
          </p>
        ))}
      </section>
    </>
  );
}

function airLine({ job, judgement, units }: ReportInput, candidate: string, percent: number | null): string[] {
  const air = airExplains(job, judgement, candidate);
  if (!air || percent === null) return [];
  const t = (celsius: number) => `${shown(celsius, units.temperature)} ${units.temperature}`;
  return [
    `What the air alone would explain, to first order: ${signed(air.percent)} % of power at the wheels for ${candidate}, of ${signed(percent)} % measured (${channelName(air.temperature)} ${t(air.baseline.celsius)} to ${t(air.candidate.celsius)}, pressure ${plain(air.baseline.pressure, 1)} to ${plain(air.candidate.pressure, 1)} kPa, over the window).`,
  ];
}
