import {
  standings,
  type Job,
  type JointGains,
  type Judgement,
  type RankedBy,
  type RecordedPart,
  type Standings,
  type UseGain,
  type UseProfile,
  type WindowGains,
} from '@prandel/core';
import { useQuery } from '@tanstack/react-query';
import { useEffect, useMemo, useState } from 'react';
import { ask } from '../../api/client.ts';
import { askAside } from '../../judging/judge.ts';

const NO_PARTS: readonly RecordedPart[] = [];

/** What the shop's record says of the parts of a job. */
export function useRecordedParts(rowId: string): readonly RecordedPart[] {
  const { data } = useQuery({
    queryKey: ['parts', rowId],
    queryFn: () => ask('get', '/api/jobs/{id}/parts', { params: { path: { id: rowId } } }),
  });
  return data ?? NO_PARTS;
}

/** Gains drawn together, for the chances of the frontier; null until they are there. */
export function useJointGains(rowId: string, job: Job | null, judgement: Judgement | null, measure: string) {
  const [known, setKnown] = useState<{ readonly of: Judgement; readonly gains: JointGains | null } | null>(null);
  useEffect(() => {
    if (!job || !judgement || judgement.contrasts.length === 0) return;
    let wanted = true;
    void askAside<'joint'>(rowId, job, { kind: 'joint', measure }).then(
      (gains) => wanted && setKnown({ of: judgement, gains }),
    );
    return () => {
      wanted = false;
    };
  }, [rowId, job, judgement, measure]);
  return known && known.of === judgement ? known.gains : null;
}

/** Gains under uses of the car, in the order of the profiles; null until they are there. */
export function useUseGains(
  rowId: string,
  job: Job | null,
  judgement: Judgement | null,
  profiles: readonly UseProfile[],
): readonly (readonly UseGain[])[] | null {
  const [known, setKnown] = useState<{
    readonly of: readonly [Judgement, readonly UseProfile[]];
    readonly gains: readonly (readonly UseGain[])[];
  } | null>(null);
  useEffect(() => {
    if (!job || !judgement || judgement.verdicts.length === 0 || profiles.length === 0) return;
    let wanted = true;
    void askAside<'use'>(rowId, job, { kind: 'use', profiles }).then(
      (gains) => wanted && setKnown({ of: [judgement, profiles], gains }),
    );
    return () => {
      wanted = false;
    };
  }, [rowId, job, judgement, profiles]);
  return known && known.of[0] === judgement && known.of[1] === profiles ? known.gains : null;
}

/** Gains over other windows of the same pulls; null until they are there. */
export function useWindowGains(
  rowId: string,
  job: Job | null,
  judgement: Judgement | null,
  windows: readonly (readonly [number, number])[],
): readonly WindowGains[] | null {
  const [known, setKnown] = useState<{ readonly of: string; readonly gains: readonly WindowGains[] } | null>(null);
  const key = JSON.stringify(windows);
  useEffect(() => {
    if (!job || !judgement || windows.length === 0) return;
    let wanted = true;
    void askAside<'windows'>(rowId, job, { kind: 'windows', windows }).then(
      (gains) => wanted && setKnown({ of: key, gains }),
    );
    return () => {
      wanted = false;
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the windows themselves, not the list
  }, [rowId, job, judgement, key]);
  return known?.of === key ? known.gains : null;
}

/** The candidates in order. */
export function useStandings(
  job: Job | null,
  judgement: Judgement | null,
  measure: string,
  by: RankedBy,
  recorded: readonly RecordedPart[],
  use: readonly UseGain[] | null,
): Standings | null {
  return useMemo(
    () =>
      job && judgement && judgement.verdicts.length > 0
        ? standings(job, judgement, {
            ...{ measure, by, recorded },
            ...(use ? { use: new Map(use.map((u) => [u.candidate, u])) } : {}),
          })
        : null,
    [job, judgement, measure, by, recorded, use],
  );
}
