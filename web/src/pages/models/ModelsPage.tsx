import { shortDay } from '@prandel/presentation';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { ask } from '../../api/client.ts';
import { Notice } from '../../parts/Field.tsx';
import { ShelfTabs } from '../shelf/ShelfTabs.tsx';

/** Models with how often they were there. */
export function ModelsPage() {
  const models = useQuery({ queryKey: ['models'], queryFn: () => ask('get', '/api/models') });
  return (
    <div className="mx-auto grid max-w-[1280px] gap-3 p-4">
      <div className="flex flex-wrap items-center gap-3">
        <h1>Models</h1>
        <span className="text-ink-2">What each reads, how it runs, what was tried on it, what was wrong with it.</span>
      </div>
      <ShelfTabs />
      {models.error && <Notice kind="bad">{models.error.message}</Notice>}
      {models.isPending && <div className="progress" role="progressbar" aria-label="Loading the models" />}
      {models.data?.length === 0 && (
        <div className="sheet p-8 text-center text-[15px]">
          No model card yet.{' '}
          <Link className="underline" to="/records/model-card">
            Add one
          </Link>
          : what its cars read, lose to heat and suffer from then gathers here.
        </div>
      )}
      {models.data && models.data.length > 0 && (
        <section className="sheet card overflow-x-auto" aria-label="Models">
          <table className="table">
            <thead>
              <tr>
                <th>Model</th>
                <th className="r">Jobs</th>
                <th className="r">Cars</th>
                <th className="!pl-6">Last here</th>
              </tr>
            </thead>
            <tbody>
              {models.data.map((m) => (
                <tr key={m.id}>
                  <td>
                    <Link className="font-[620] underline-offset-2 hover:underline" to={`/models/${m.id}`}>
                      {m.label}
                    </Link>
                  </td>
                  <td className="r num text-[14px]">{m.jobs}</td>
                  <td className="r num text-[14px]">{m.cars}</td>
                  <td className="text-ink-2 !pl-6">
                    {m.lastAt ? `${shortDay(m.lastAt, null)} ${new Date(m.lastAt).getFullYear()}` : 'never'}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
    </div>
  );
}
