import '@fontsource-variable/hanken-grotesk';
import '@fontsource-variable/spline-sans-mono';
import './styles.css';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { createRoot } from 'react-dom/client';
import { createBrowserRouter, Link, RouterProvider, useRouteError } from 'react-router';
import { BenchPage } from './pages/bench/BenchPage';
import { ShotsPage } from './pages/shots/ShotsPage';

const client = new QueryClient({ defaultOptions: { queries: { retry: 1, staleTime: 2000 } } });

const router = createBrowserRouter([
  { path: '/', element: <ShotsPage />, errorElement: <Fault /> },
  { path: '/shots/:id', element: <BenchPage />, errorElement: <Fault /> },
  {
    path: '*',
    element: (
      <p className="p-6">
        There is no such page.{' '}
        <Link className="link" to="/">
          Back to the shots
        </Link>
      </p>
    ),
  },
]);

/** What is shown when the page itself fails: the shot is on the server, and a reload opens it again. */
function Fault() {
  const error = useRouteError();
  return (
    <div className="space-y-3 p-6" role="alert">
      <p>The page failed: {error instanceof Error ? error.message : String(error)}</p>
      <p className="quiet">What you have done is kept. Open the page again and go on.</p>
      <button type="button" className="btn btn-sm btn-primary" onClick={() => location.reload()}>
        Open it again
      </button>
    </div>
  );
}

createRoot(document.getElementById('root')!).render(
  <QueryClientProvider client={client}>
    <RouterProvider router={router} />
  </QueryClientProvider>,
);
