import '@fontsource-variable/hanken-grotesk';
import '@fontsource-variable/spline-sans-mono';
import './styles.css';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { createRoot } from 'react-dom/client';
import { createBrowserRouter, Link, RouterProvider } from 'react-router';
import { Toaster } from 'sonner';
import { BenchPage } from './pages/bench/BenchPage';
import { ShotsPage } from './pages/shots/ShotsPage';

const client = new QueryClient({ defaultOptions: { queries: { retry: 1, staleTime: 2000 } } });

const router = createBrowserRouter([
  { path: '/', element: <ShotsPage /> },
  { path: '/shots/:id', element: <BenchPage /> },
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

createRoot(document.getElementById('root')!).render(
  <QueryClientProvider client={client}>
    <RouterProvider router={router} />
    <Toaster
      position="bottom-left"
      toastOptions={{ className: '!bg-base-300 !text-base-content !border-neutral !rounded-sm' }}
    />
  </QueryClientProvider>,
);
