import '@fontsource/atkinson-hyperlegible/400.css'
import '@fontsource/atkinson-hyperlegible/700.css'
import '@fontsource/jetbrains-mono/500.css'
import './styles/index.css'
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { createRoot } from 'react-dom/client'
import { registerSW } from 'virtual:pwa-register'
import { createBrowserRouter, RouterProvider } from 'react-router'
import { Frame } from './Frame'
import { tell } from './shared/notice'
import { bringBack, keepUp } from './shared/offlineViews'
import { loadVocabulary } from './shared/vocabulary'
import { BrokenPage } from './shared/BrokenPage'
import { loaded } from './shared/loaded'
import { StartPage } from './start/StartPage'

// the server is on this bench: whether the building has a network says nothing about it
const queries = new QueryClient({
  defaultOptions: {
    queries: { staleTime: 10_000, retry: 1, networkMode: 'always' },
    mutations: { networkMode: 'always' },
  },
})

const errorElement = <BrokenPage />
const router = createBrowserRouter([
  {
    element: <Frame />,
    errorElement,
    HydrateFallback: () => null,
    children: [
      {
        errorElement,
        children: [
          { path: '/', element: <StartPage /> },
          { path: '/jobs/:id', lazy: () => loaded(async () => (await import('./bench/Workbench')).Workbench) },
          { path: '/jobs/:id/place', lazy: () => loaded(async () => (await import('./place/PlacePage')).PlacePage) },
          {
            path: '/jobs/:id/figures',
            lazy: () => loaded(async () => (await import('./figures/FiguresPage')).FiguresPage),
          },
          { path: '/jobs/:id/sheet', lazy: () => loaded(async () => (await import('./papers/SheetPage')).SheetPage) },
          { path: '/jobs/:id/mend', lazy: () => loaded(async () => (await import('./repair/MendPage')).MendPage) },
          {
            path: '/jobs/:id/papers',
            lazy: () => loaded(async () => (await import('./papers/PapersPage')).PapersPage),
          },
          {
            path: '/jobs/:id/curves',
            lazy: () => loaded(async () => (await import('./recordings/RecordingsPage')).RecordingsPage),
          },
          { path: '/sums', lazy: () => loaded(async () => (await import('./sums/SumsPage')).SumsPage) },
          { path: '/workshop', lazy: () => loaded(async () => (await import('./workshop/WorkshopPage')).WorkshopPage) },
          { path: '/people', lazy: () => loaded(async () => (await import('./people/PeoplePage')).PeoplePage) },
          { path: '/guide', lazy: () => loaded(async () => (await import('./guide/GuidePage')).GuidePage) },
          { path: '/codes', lazy: () => loaded(async () => (await import('./codes/CodeBook')).CodeBook) },
          { path: '*', element: <StartPage /> },
        ],
      },
    ],
  },
])

keepUp(queries)
// the first view comes first: what is kept for later is fetched when it stands
window.setTimeout(
  () =>
    registerSW({
      onNeedRefresh: () => tell('A new version is here. Load this page anew: what waits to be sent is safe.'),
    }),
  2500,
)

const root = document.getElementById('root')
void Promise.all([bringBack(queries), loadVocabulary()]).finally(() => {
  if (!root) return
  createRoot(root).render(
    <QueryClientProvider client={queries}>
      <RouterProvider router={router} />
    </QueryClientProvider>,
  )
})
