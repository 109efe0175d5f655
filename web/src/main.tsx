import '@fontsource/atkinson-hyperlegible/400.css'
import '@fontsource/atkinson-hyperlegible/700.css'
import '@fontsource/jetbrains-mono/500.css'
import './styles.css'
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { createRoot } from 'react-dom/client'
import { createBrowserRouter, RouterProvider } from 'react-router'
import { Frame } from './Frame'
import { StartPage } from './pages/StartPage'

const queries = new QueryClient({ defaultOptions: { queries: { staleTime: 10_000, retry: 1 } } })

const router = createBrowserRouter([
  {
    element: <Frame />,
    HydrateFallback: () => null,
    children: [
      { path: '/', element: <StartPage /> },
      { path: '/jobs/:id', lazy: async () => ({ Component: (await import('./pages/Workbench')).Workbench }) },
      { path: '/jobs/:id/place', lazy: async () => ({ Component: (await import('./pages/PlacePage')).PlacePage }) },
      { path: '/jobs/:id/figures', lazy: async () => ({ Component: (await import('./pages/FiguresPage')).FiguresPage }) },
      { path: '/jobs/:id/sheet', lazy: async () => ({ Component: (await import('./pages/SheetPage')).SheetPage }) },
      { path: '/sums', lazy: async () => ({ Component: (await import('./pages/SumsPage')).SumsPage }) },
      { path: '/workshop', lazy: async () => ({ Component: (await import('./pages/WorkshopPage')).WorkshopPage }) },
      { path: '/codes', lazy: async () => ({ Component: (await import('./pages/CodeBook')).CodeBook }) },
      { path: '*', element: <StartPage /> },
    ],
  },
])

const root = document.getElementById('root')
if (root) {
  createRoot(root).render(
    <QueryClientProvider client={queries}>
      <RouterProvider router={router} />
    </QueryClientProvider>,
  )
}
