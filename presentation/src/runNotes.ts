import {
  carriedByPulls,
  DISAGREEMENTS,
  school,
  setupLine,
  suspectLabel,
  wordsOf,
  type DisagreementKey,
  type FaultSearch,
  type Job,
} from '@prandel/core';
import { complaintWords } from './searchWords.ts';

/** One matter on which shops differ, and what this job's method says about it. */
export interface SchoolFollowed {
  readonly matter: DisagreementKey;
  readonly label: string;
  readonly says: string;
}

/** The schools that the job's method wrote down, in the order of `DISAGREEMENTS`; empty when it wrote none. */
export function schoolsFollowed(job: Pick<Job, 'method'>): SchoolFollowed[] {
  const written = job.method.schools ?? {};
  return (Object.keys(DISAGREEMENTS) as DisagreementKey[])
    .filter((matter) => written[matter] !== undefined)
    .map((matter) => {
      const { label, schools } = DISAGREEMENTS[matter];
      return { matter, label, says: (schools as Readonly<Record<string, string>>)[school(job.method, matter)]! };
    });
}

/** What a school obliges a report to say, by matter and school. Common practice, no source. */
const OBLIGES: Readonly<Record<string, string>> = {
  'rig frontOff': 'Not as driven: the front end was off for every setup.',
  'hood open': 'The hood stood open for steady air, not as driven.',
  'safeties off': 'Engine safeties were off, so that power is a clean function of the conditions.',
  'controllerReset reset': 'The engine controller was reset after the part; a reset moves the result by itself.',
  'tune own': 'Each setup ran its own tune: part and tune cannot be told apart.',
  'load loaded':
    'Slow loaded sweeps: power reads lower when hot, and torque higher on a turbo, than in a fast unloaded sweep.',
  'pause none':
    'Pulls followed each other without a pause to provoke heat; temperatures were held on the first of a round only.',
  'pause fixed': 'The pause was a fixed time; temperatures were held on the first pull of a round only.',
  'fuel fixed': 'Run on a fixed high-octane fuel, not on the customer’s own.',
  'firstPull counts': 'The first pull of a round counts here, although a cool engine flatters it.',
  'stock arrived':
    'The reference is the car as it arrived: a worn or dirty old part makes a new one look better than its design.',
  'stock serviced': 'The reference is the car after a service, not as it arrived.',
  'stock tuned': 'The reference was already tuned.',
  'stock best': 'The reference carries the best-known part, not the maker’s.',
  'lastWord road': 'The house gives the last word to the road; this sheet holds the rollers’ result only.',
};

/** Sentences about how the day was run that belong beside its result; empty when nothing was out of the ordinary. */
export function runNotes(job: Job): string[] {
  const notes = schoolsFollowed(job).flatMap(({ matter }) => OBLIGES[`${matter} ${school(job.method, matter)}`] ?? []);
  if (job.bay.readoutScale !== 1)
    notes.push(`The bay’s read-out is scaled by ${job.bay.readoutScale}; the figures here are native.`);
  for (const id of job.question.candidateSetups) {
    const changed = changedThings(job, id);
    if (changed.length > 1)
      notes.push(
        `${id} differs from ${job.question.baselineSetup} in ${changed.length} things: ${changed.join(', ')}. Its result is theirs together and cannot be divided between them.`,
      );
  }
  const drawn = job.day?.plan.order === 'randomised' ? job.day.plan.drawn : null;
  notes.push(...dayNotes(job), ...permanentNotes(job));
  if (drawn) notes.push(`The order of the setups was drawn: ${drawn.candidates.join(', ')} (seed ${drawn.seed}).`);
  return notes;
}

/** What cannot come off again, and what was run with it on although it is not made from it. */
export function permanentNotes(job: Pick<Job, 'setups' | 'pulls' | 'question'>): string[] {
  const pulled = job.setups.filter((s) => s.permanent && job.pulls.some((p) => p.setupId === s.id)).map((s) => s.id);
  const carried = carriedByPulls(job);
  return pulled.map((id) => {
    const on = carried.filter((c) => c.carries === id).map((c) => c.setup);
    return on.length === 0
      ? `${id} cannot come off again; whatever was run after it is made from it.`
      : `${id} cannot come off again: ${on.join(', ')} ${on.length === 1 ? 'was' : 'were'} run with it on, and what ${on.length === 1 ? 'it shows' : 'they show'} has ${id} in it.`;
  });
}

/** What happened on the day that belongs beside its result. */
function dayNotes({ day }: Job): string[] {
  const notes: string[] = [];
  for (const { at, reason, what } of day?.amendments ?? [])
    notes.push(
      `The question was amended on ${at.slice(0, 10)}, after its first counted pull: ${what}. Reason: ${reason}.`,
    );
  const losses = day?.intake['Small losses found'];
  if (losses) notes.push(`Small losses were found at intake and belong to the reference: ${losses}.`);
  for (const search of day?.searches ?? []) notes.push(searchNote(search));
  for (const [key, reason] of Object.entries(day?.closedEarly ?? {})) {
    const [setup, round] = key.split('#');
    notes.push(`Round ${round} of ${setup} was closed before its plan was in: ${reason.toLowerCase()}.`);
  }
  const { extended } = day?.plan ?? {};
  if (extended) {
    const rounds = extended.rounds.map((r) => `${r.counted} of ${r.setup}`).join(', then ');
    notes.push(
      extended.declared
        ? `The plan left the question open; the extension that was declared beforehand was made: ${rounds}.`
        : `Pulls were added after the result could be seen, without having been declared: ${rounds}.`,
    );
  }
  if (day?.cannotBeUndone) notes.push(`The change cannot be undone (${day.cannotBeUndone}): there is no return check.`);
  return notes;
}

/** A search for what is wrong with the car, in one sentence: what for, how long, what it came to. */
function searchNote(search: FaultSearch): string {
  const culprit = search.looks.find((l) => l.result !== 'fine');
  const fine = search.looks.length - (culprit ? 1 : 0);
  const what = `Because the car ${complaintWords(search)}, ${search.looks.length} ${search.looks.length === 1 ? 'thing was' : 'things were'} looked at`;
  if (!culprit) return `${what}; nothing was found.`;
  const end = culprit.result === 'cured' ? 'found and cured before the comparison' : 'found, and not cured';
  return `${what}${fine > 0 ? `, ${fine} of them fine` : ''}: ${suspectLabel(culprit.suspect)}, ${end}.`;
}

/** What a setup changes against the baseline, its parents' changes first; a part taken out to make room is no change of its own. */
function changedThings({ setups, question }: Job, id: string): string[] {
  return setupLine(setups, id, question.baselineSetup).flatMap(({ changes }) => {
    const all = changes.filter(({ text }) => text.trim() !== '');
    const added = all.filter(({ kind }) => kind !== 'part-removed');
    return (added.length > 0 ? added : all).map((change) =>
      change.kind === 'part-fitted' ? wordsOf(change) : change.text.trim(),
    );
  });
}
