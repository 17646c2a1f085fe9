import type { StoredJob } from '../../api/client.ts';

/** The rounds of a commissioning day: there is no order to choose, and nothing to find. */
export function CommissioningPlan({ job }: { job: StoredJob['job'] }) {
  return (
    <div className="mx-auto grid max-w-[1280px] gap-3 p-4">
      <h1>Plan the day</h1>
      <section className="sheet card grid gap-2">
        <h3>{job.title}</h3>
        <p className="text-ink-2">
          {job.question.plan.length} rounds of one setup, 45 to 60 min apart, spread over the day. Nothing is compared:
          the rounds show how the bay scatters, mounts and drifts.
        </p>
        <p>
          {job.question.plan
            .map(({ setup, settle, counted }) => {
              const own = job.setups.find((s) => s.id === setup);
              return `${setup} ${settle}+${counted}${own?.remounted ? ' (straps off and on again first)' : ''}`;
            })
            .join(', ')}
        </p>
      </section>
    </div>
  );
}
