import {
  comparePlans,
  framesIn,
  judgementSteps,
  jointGains,
  judgingProblem,
  leaveOut,
  NO_READINGS,
  PreparedPulls,
  useGains,
  warmUp,
  windowGains,
  type Job,
  type JointGains,
  type Judgement,
  type PlannedDay,
  type PlanRequest,
  type UseGain,
  type UseProfile,
  type WindowGains,
} from '@prandel/core';

/** What the page sends: frames of a job's pulls, or a job to be judged for one place on the screen. */
export type WorkerRequest =
  | { readonly row: string; readonly frames: ArrayBuffer }
  | { readonly judge: number; readonly place: string; readonly row: string; readonly job: Job }
  | { readonly answer: number; readonly row: string; readonly job: Job; readonly asked: SideQuestion };

/** What is asked of the pulls of a job besides its verdicts: gains drawn together, or gains under uses of the car. */
export type SideQuestion =
  | { readonly kind: 'joint'; readonly measure: string }
  | { readonly kind: 'use'; readonly profiles: readonly UseProfile[] }
  | { readonly kind: 'windows'; readonly windows: readonly (readonly [number, number])[] }
  | { readonly kind: 'plans'; readonly request: PlanRequest; readonly matters: number | null };
/** Plans beside each other, and which parts to leave for another day: none, some, or null where leaving does not help. */
export interface ComparedPlans {
  readonly plans: readonly PlannedDay[];
  readonly left: readonly string[] | null;
}
export interface SideAnswers {
  readonly joint: JointGains | null;
  readonly use: readonly (readonly UseGain[])[];
  readonly windows: readonly WindowGains[];
  readonly plans: ComparedPlans;
}

export type WorkerAnswer =
  | { readonly answered: number; readonly answer: SideAnswers[keyof SideAnswers] }
  | ({ readonly judged: number } & (
      | {
          readonly judgement: Judgement;
          readonly milliseconds: number;
          /** How far it goes: more follows until everything is there. */
          readonly step: 'curves' | 'verdicts' | 'all';
        }
      | { readonly failed: string }
      /** No frames stand for the samples of this job as it is now. */
      | { readonly wants: 'frames' }
      /** Something newer was asked for at the same place. */
      | { readonly superseded: true }
    ));

const STEPS = ['curves', 'verdicts', 'all'] as const;
/** Jobs whose frames are kept, the latest. */
const MOST_JOBS = 8;

const jobs = new Map<string, PreparedPulls>();
/** The latest that was asked for at each place. */
const latest = new Map<string, number>();

addEventListener('message', ({ data }: MessageEvent<WorkerRequest>) => {
  if ('frames' in data) return takeFrames(data.row, data.frames);
  if ('answer' in data) return answerAside(data.answer, data.row, data.job, data.asked);
  latest.set(data.place, data.judge);
  void judge(data.judge, data.place, data.row, data.job).catch((error: unknown) =>
    answer({ judged: data.judge, failed: error instanceof Error ? error.message : String(error) }),
  );
});

/** Without samples that fit the job nothing is answered: whoever asked has judged the job before. */
function answerAside(answered: number, row: string, job: Job, asked: SideQuestion): void {
  if (asked.kind === 'plans') return answer({ answered, answer: plansOf(asked.request, asked.matters) });
  const prepared = jobs.get(row);
  const known = prepared && prepared.missing(job).length === 0 ? prepared.of(job) : [];
  if (asked.kind === 'joint') answer({ answered, answer: jointGains(job, known, asked.measure) });
  else if (asked.kind === 'windows') answer({ answered, answer: windowGains(job, known, asked.windows) });
  else answer({ answered, answer: asked.profiles.map((profile) => useGains(job, known, profile)) });
}

function plansOf(request: PlanRequest, matters: number | null): ComparedPlans {
  const plans = comparePlans(request);
  const enough = matters === null || plans.some((p) => p.findsPercent <= matters);
  return { plans, left: enough ? [] : leaveOut(matters, request) };
}

const answer = (message: WorkerAnswer) => postMessage(message);
/** Lets what was sent meanwhile come in. */
const breath = () => new Promise((done) => setTimeout(done));

/** Runs what is to come while nobody waits for it. */
async function warm(): Promise<void> {
  for (const _ of warmUp()) {
    await breath();
    if (latest.size > 0) return;
  }
}
void warm();

async function judge(judged: number, place: string, row: string, job: Job): Promise<void> {
  const started = performance.now();
  const problem = judgingProblem(job);
  if (problem) throw new Error(`This job cannot be judged. ${problem.text}`);
  const prepared = jobs.get(row);
  if (!prepared || prepared.missing(job).length > 0) return answer({ judged, wants: 'frames' });
  const steps = judgementSteps(job, prepared.of(job));
  for (const step of STEPS) {
    const { value } = steps.next();
    const judgement = step === 'curves' ? curvesOf(value as Judgement) : (value as Judgement);
    answer({ judged, judgement, milliseconds: performance.now() - started, step });
    await breath();
    if (latest.get(place) !== judged) return answer({ judged, superseded: true });
  }
}

/** Readings of channels are nine tenths of what would be sent, and no curve needs them: they come with the verdicts. */
function curvesOf(judgement: Judgement): Judgement {
  return { ...judgement, pulls: judgement.pulls.map((pull) => ({ ...pull, readings: NO_READINGS })) };
}

function takeFrames(row: string, document: ArrayBuffer): void {
  const prepared = new PreparedPulls();
  prepared.take(framesIn(document));
  jobs.delete(row);
  jobs.set(row, prepared);
  for (const old of [...jobs.keys()].slice(0, -MOST_JOBS)) jobs.delete(old);
}
