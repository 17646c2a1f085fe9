import { Link, useRouteError } from 'react-router';

/** A page that does not exist or broke. */
export function Wrong() {
  const error = useRouteError() as Error | undefined;
  return (
    <div className="grid gap-3 p-10" role="alert">
      <h1>{error ? 'This page broke' : 'There is no such page'}</h1>
      <p className="text-ink-2">
        {error
          ? `${error.message ?? 'Unknown error'}. Nothing that was stored is lost.`
          : 'The address may be mistyped, or the job belongs to another shop.'}
      </p>
      <div>
        <Link to="/jobs" className="btn">
          Back to the jobs
        </Link>
      </div>
    </div>
  );
}
