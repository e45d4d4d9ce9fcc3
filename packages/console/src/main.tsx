import '@fontsource/atkinson-hyperlegible/latin-400.css';
import '@fontsource/atkinson-hyperlegible/latin-700.css';
import '@fontsource/jetbrains-mono/latin-400.css';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { RouterProvider } from '@tanstack/react-router';
import { createRoot } from 'react-dom/client';
import { router } from './router.js';
import { GlobalStyle } from './theme/GlobalStyle.js';

const queries = new QueryClient({ defaultOptions: { queries: { retry: 1, staleTime: 1_000 } } });

createRoot(document.getElementById('root') as HTMLElement).render(
  <QueryClientProvider client={queries}>
    <GlobalStyle />
    <RouterProvider router={router} />
  </QueryClientProvider>,
);
