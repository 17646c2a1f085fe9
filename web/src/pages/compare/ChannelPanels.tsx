import { measureName } from '@prandel/core';
import {
  CHANNEL_STEP,
  channelAt,
  channelMeans,
  channelName,
  channelOfMeasure,
  channelPanelSvg,
  channelReading,
  channelSeconds,
  fadeSvgs,
  LEFT_GUTTER,
  plain,
  recordedChannels,
  RIGHT_GUTTER,
  withUnit,
  type ChannelAxis,
} from '@prandel/presentation';
import { memo, useMemo, useState } from 'react';
import { Badge } from '../../parts/marks.tsx';
import { For } from '../../parts/May.tsx';
import { capital, type Shown } from './ChannelCards.tsx';

const MOST_PANELS = 4;

type ChannelPicture = Parameters<typeof channelPanelSvg>[0] & Pick<Shown, 'units'>;

/**
 * Recorded channels on the comparison's own rpm axis, or over time from the start of full throttle; at most four, the first are what the
 * question is asked of. The values at the cross-hair stand in a fixed row above.
 */
export function ChannelPanels({
  shown,
  width,
  keeping,
  rpm,
  onRpm,
  onKeep,
}: {
  shown: Shown;
  width: number;
  keeping: boolean;
  /** Of the cross-hair that the comparison has too. */
  rpm: number | null;
  onRpm: (rpm: number | null) => void;
  onKeep: (channels: string[]) => void;
}) {
  const { job, judgement } = shown;
  const recorded = recordedChannels(judgement);
  const asked = job.question.measures.flatMap((m) => channelOfMeasure(measureName(m)) ?? []);
  const [chosen, setChosen] = useState<readonly string[] | null>(null);
  const [axis, setAxis] = useState<ChannelAxis>('rpm');
  const [second, setSecond] = useState<number | null>(null);
  const seconds = useMemo(() => channelSeconds(judgement), [judgement]);
  const kept = job.day?.channels ?? [...new Set(asked)];
  const panels = (chosen ?? kept).filter((c) => recorded.includes(c)).slice(0, MOST_PANELS);
  const differs = chosen !== null && panels.join() !== kept.filter((c) => recorded.includes(c)).join();
  const picture = useMemo(() => ({ ...shown, width, height: 112, fontSize: 11 }), [shown, width]);
  const over = useMemo(
    () => (axis === 'rpm' ? picture : { ...picture, axis, rpm: [0, seconds] as const }),
    [picture, axis, seconds],
  );
  if (recorded.length === 0) return null;
  const toggle = (channel: string) =>
    setChosen(panels.includes(channel) ? panels.filter((c) => c !== channel) : [...panels, channel]);
  const fades = job.question.measures.some((m) => m.id === 'fade');
  const [from, to] = over.rpm;
  const at = axis === 'rpm' ? rpm : second;
  const move = (e: React.MouseEvent<HTMLDivElement>) => {
    const box = e.currentTarget.getBoundingClientRect();
    const share = (e.clientX - box.left - LEFT_GUTTER) / (width - LEFT_GUTTER - RIGHT_GUTTER);
    const step = CHANNEL_STEP[axis];
    const place = share < 0 || share > 1 ? null : Math.round((from + share * (to - from)) / step) * step;
    if (axis === 'rpm') onRpm(place);
    else setSecond(place);
  };
  const leave = () => (axis === 'rpm' ? onRpm(null) : setSecond(null));
  return (
    <section className="sheet px-3 py-2" aria-label="Channels">
      <div className="flex flex-wrap items-center gap-1.5">
        <h3 className="mr-1">Channels</h3>
        {recorded.map((channel) => (
          <button
            key={channel}
            className="chip"
            aria-pressed={panels.includes(channel)}
            disabled={!panels.includes(channel) && panels.length >= MOST_PANELS}
            onClick={() => toggle(channel)}
          >
            {capital(channelName(channel))}
          </button>
        ))}
        {differs && (
          <For role="technician">
            <button className="btn sm" disabled={keeping} onClick={() => onKeep([...panels])}>
              Keep for the job
            </button>
          </For>
        )}
        {panels.length > 0 && seconds > 0 && (
          <>
            <span className="grow" />
            <div className="seg" role="group" aria-label="Axis of the channels">
              <button aria-pressed={axis === 'rpm'} onClick={() => setAxis('rpm')}>
                Engine speed
              </button>
              <button aria-pressed={axis === 'time'} onClick={() => setAxis('time')}>
                Time
              </button>
            </div>
          </>
        )}
      </div>
      {panels.length > 0 && <ReadOut shown={shown} panels={panels} axis={axis} at={at} />}
      <div className="relative" onMouseMove={move} onMouseLeave={leave}>
        {panels.map((channel) => (
          <Panel key={channel} channel={channel} view={over} />
        ))}
        {at !== null && panels.length > 0 && (
          <div
            className="border-ink pointer-events-none absolute inset-y-0 border-l border-dotted"
            style={{ left: LEFT_GUTTER + ((at - from) / (to - from)) * (width - LEFT_GUTTER - RIGHT_GUTTER) }}
          />
        )}
      </div>
      {fades && <Fades view={picture} asked={asked.join()} />}
      {panels.length === 0 && !fades && (
        <p className="text-ink-2 mt-1 text-[12px]">Choose up to four channels to see them over engine speed or time.</p>
      )}
    </section>
  );
}

/** The same picture is neither drawn nor put in anew while the cross-hair moves. */
const Panel = memo(function Panel({ channel, view }: { channel: string; view: ChannelPicture }) {
  return (
    <div
      className="mt-1.5"
      data-channel={channel}
      dangerouslySetInnerHTML={{ __html: channelPanelSvg(view, channel) }}
    />
  );
});

/** @param asked names of the channels that the question is asked of, with commas */
const Fades = memo(function Fades({ view, asked }: { view: ChannelPicture; asked: string }) {
  const html = fadeSvgs({ ...view, height: 132 }, asked === '' ? [] : asked.split(','), view.units);
  return <div className="mt-1.5" data-testid="fade" dangerouslySetInnerHTML={{ __html: html }} />;
});

/** Values of every panel at the cross-hair, with their pointwise band. */
function ReadOut({
  shown: { job, judgement, hiddenSetups, units },
  panels,
  axis,
  at,
}: {
  shown: Shown;
  panels: readonly string[];
  axis: ChannelAxis;
  at: number | null;
}) {
  const means = useMemo(
    () => panels.map((channel) => [channel, channelMeans({ job, judgement }, channel, axis)] as const),
    [job, judgement, panels.join(), axis], // eslint-disable-line react-hooks/exhaustive-deps -- the names decide, not the list
  );
  return (
    <div
      className="text-ink-2 flex min-h-[26px] flex-wrap items-center gap-x-4 gap-y-0.5 text-[12px] [&_b]:text-ink"
      data-testid="channel-read-out"
    >
      {at === null ? (
        <span>Move over the panels to read values with their 95 % band.</span>
      ) : (
        <>
          <b>{axis === 'rpm' ? `${at} rpm` : `${plain(at, 1)} s`}</b>
          {means.map(([channel, own]) => {
            const read = channelReading(channel, units);
            // A difference has no zero point to move.
            const size = (half: number) => Math.abs(read.to(half) - read.to(0));
            return (
              <span key={channel} className="inline-flex items-center gap-1.5 whitespace-nowrap">
                {capital(channelName(channel))}
                {channelAt(own, axis, at)
                  .filter(({ setupId }) => !hiddenSetups.has(setupId))
                  .map(({ setupId, value, half }) => (
                    <span key={setupId} className="inline-flex items-center gap-1">
                      <Badge id={setupId} setups={job.setups} />
                      <span>
                        <b>{plain(read.to(value), read.digits)}</b>
                        {Number.isFinite(half)
                          ? ` ±${withUnit(plain(size(half), read.digits), read.unit)}`
                          : ` ${read.unit}`}
                      </span>
                    </span>
                  ))}
              </span>
            );
          })}
        </>
      )}
    </div>
  );
}
