import { setNonce } from 'get-nonce';
import { QueryClientProvider } from '@tanstack/react-query';
import { lazy, StrictMode, Suspense } from 'react';
import { createRoot } from 'react-dom/client';
import { createBrowserRouter, Navigate, redirect, RouterProvider } from 'react-router';
import { queries } from './api/client.ts';
import { bayOfDevice } from './app/mood.ts';
import { Shell } from './app/Shell.tsx';
import { For, LookOnly } from './parts/May.tsx';
import { Wrong } from './pages/Wrong.tsx';
import { comparePage } from './pages/compare/comparePageAhead.ts';
import './styles.css';

/** Only styles that bear the nonce of this page are accepted; components that bring their own take it from here. */
setNonce(document.querySelector<HTMLMetaElement>('meta[name=csp-nonce]')?.content ?? '');

const SignInPage = lazy(() => import('./pages/SignInPage.tsx').then((m) => ({ default: m.SignInPage })));
const JobsPage = lazy(() => import('./pages/jobs/JobsPage.tsx').then((m) => ({ default: m.JobsPage })));
const AccountPage = lazy(() => import('./pages/AccountPage.tsx').then((m) => ({ default: m.AccountPage })));
const NewJobPage = lazy(() => import('./pages/newJob/NewJobPage.tsx').then((m) => ({ default: m.NewJobPage })));
const JobPage = lazy(() => import('./pages/job/JobPage.tsx').then((m) => ({ default: m.JobPage })));
const ImportPage = lazy(() => import('./pages/import/ImportPage.tsx').then((m) => ({ default: m.ImportPage })));
const TrayFilePage = lazy(() => import('./pages/day/TrayFilePage.tsx').then((m) => ({ default: m.TrayFilePage })));
const DayPage = lazy(() => import('./pages/day/DayPage.tsx').then((m) => ({ default: m.DayPage })));
const TranslatorPage = lazy(() =>
  import('./pages/translator/TranslatorPage.tsx').then((m) => ({ default: m.TranslatorPage })),
);
const ComparePage = lazy(() => comparePage().then((m) => ({ default: m.ComparePage })));
const RunSheetPage = lazy(() => import('./pages/bay/RunSheetPage.tsx').then((m) => ({ default: m.RunSheetPage })));
const BaysPage = lazy(() => import('./pages/bays/BaysPage.tsx').then((m) => ({ default: m.BaysPage })));
const JoinPage = lazy(() => import('./pages/people/JoinPage.tsx').then((m) => ({ default: m.JoinPage })));
const PeoplePage = lazy(() => import('./pages/people/PeoplePage.tsx').then((m) => ({ default: m.PeoplePage })));
const PlanPage = lazy(() => import('./pages/plan/PlanPage.tsx').then((m) => ({ default: m.PlanPage })));
const RecordsPage = lazy(() => import('./pages/records/RecordsPage.tsx').then((m) => ({ default: m.RecordsPage })));
const TodayPage = lazy(() => import('./pages/today/TodayPage.tsx').then((m) => ({ default: m.TodayPage })));
const ShootoutPage = lazy(() => import('./pages/shootout/ShootoutPage.tsx').then((m) => ({ default: m.ShootoutPage })));
const RoadPage = lazy(() => import('./pages/road/RoadPage.tsx').then((m) => ({ default: m.RoadPage })));
const VerifyPage = lazy(() => import('./pages/seal/VerifyPage.tsx').then((m) => ({ default: m.VerifyPage })));
const SharedPage = lazy(() => import('./pages/seal/SharedPage.tsx').then((m) => ({ default: m.SharedPage })));
const ShelfPage = lazy(() => import('./pages/shelf/ShelfPage.tsx').then((m) => ({ default: m.ShelfPage })));
const PartPage = lazy(() => import('./pages/shelf/PartPage.tsx').then((m) => ({ default: m.PartPage })));
const BayChartsPage = lazy(() =>
  import('./pages/bayCharts/BayChartsPage.tsx').then((m) => ({ default: m.BayChartsPage })),
);
const ModelsPage = lazy(() => import('./pages/models/ModelsPage.tsx').then((m) => ({ default: m.ModelsPage })));
const ModelPage = lazy(() => import('./pages/models/ModelPage.tsx').then((m) => ({ default: m.ModelPage })));
const TrendsPage = lazy(() => import('./pages/trends/TrendsPage.tsx').then((m) => ({ default: m.TrendsPage })));
const ReportPage = lazy(() => import('./pages/ReportPage.tsx').then((m) => ({ default: m.ReportPage })));

const waiting = (page: React.ReactNode) => (
  <Suspense fallback={<div className="progress" role="progressbar" aria-label="Loading" />}>{page}</Suspense>
);

/** A page that only changes something: who may only look is told so before anything is typed. */
const technicians = (page: React.ReactNode) => (
  <For role="technician" else={<LookOnly />}>
    {page}
  </For>
);

/** A tablet of the bay that is switched on opens where it was; afterwards Today is Today. */
let opensAt = location.pathname === '/' ? bayOfDevice() : null;
function toTheBay(): Response | null {
  const bay = opensAt;
  opensAt = null;
  return bay ? redirect(bay) : null;
}

const router = createBrowserRouter([
  { path: '/sign-in', element: waiting(<SignInPage />), errorElement: <Wrong /> },
  { path: '/join', element: waiting(<JoinPage />), errorElement: <Wrong /> },
  { path: '/verify', element: waiting(<VerifyPage />), errorElement: <Wrong /> },
  { path: '/s', element: waiting(<SharedPage />), errorElement: <Wrong /> },
  { path: '/bays/:bay', element: waiting(<RunSheetPage />), errorElement: <Wrong /> },
  {
    path: '/',
    element: <Shell />,
    errorElement: <Wrong />,
    children: [
      { index: true, loader: toTheBay, element: waiting(<TodayPage />) },
      { path: 'bays', element: waiting(<BaysPage />) },
      { path: 'bays/:bay/charts', element: waiting(<BayChartsPage />) },
      { path: 'people', element: waiting(<PeoplePage />) },
      { path: 'account', element: waiting(<AccountPage />) },
      { path: 'records', element: <Navigate to="/records/customer" replace /> },
      { path: 'records/:kind', element: waiting(<RecordsPage />) },
      { path: 'translator', element: waiting(<TranslatorPage />) },
      { path: 'trends', element: waiting(<TrendsPage />) },
      { path: 'models', element: waiting(<ModelsPage />) },
      { path: 'models/:id', element: waiting(<ModelPage />) },
      { path: 'shelf', element: waiting(<ShelfPage />) },
      { path: 'shelf/:id', element: waiting(<PartPage />) },
      { path: 'jobs', element: waiting(<JobsPage />) },
      { path: 'jobs/new', element: waiting(technicians(<NewJobPage />)) },
      { path: 'jobs/:id', element: waiting(<JobPage />) },
      { path: 'jobs/:id/plan', element: waiting(<PlanPage />) },
      { path: 'jobs/:id/which/:tab?', element: waiting(<ShootoutPage />) },
      { path: 'jobs/:id/import', element: waiting(technicians(<ImportPage />)) },
      { path: 'jobs/:id/tray/:bay/:file', element: waiting(technicians(<TrayFilePage />)) },
      { path: 'jobs/:id/day', element: waiting(technicians(<DayPage />)) },
      { path: 'jobs/:id/compare', element: waiting(<ComparePage />) },
      { path: 'jobs/:id/road', element: waiting(<RoadPage />) },
      { path: 'jobs/:id/report', element: waiting(<ReportPage />) },
      { path: '*', element: <Wrong /> },
    ],
  },
]);

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <QueryClientProvider client={queries}>
      <RouterProvider router={router} />
    </QueryClientProvider>
  </StrictMode>,
);
