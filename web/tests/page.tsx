/** Draws a part as a page of the application would: with its queries, its way and who works with it. */
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { render } from '@testing-library/react'
import type { ReactNode } from 'react'
import { MemoryRouter, Outlet, Route, Routes } from 'react-router'

const ANA = { id: 1, name: 'Ana', role: 'technician' }

/** Draw it. role: of who works with the page. */
export function draw(part: ReactNode, role = 'technician') {
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false, staleTime: Infinity } } })
  queries.setQueryData(['here'], {
    way: 'pick',
    me: { ...ANA, role },
    people: [],
    by_password: false,
    idle_minutes: 240,
  })
  const page = render(
    <QueryClientProvider client={queries}>
      <MemoryRouter>
        <Routes>
          <Route element={<Outlet context={{ light: 'paper', setLight: () => undefined }} />}>
            <Route path="*" element={part} />
          </Route>
        </Routes>
      </MemoryRouter>
    </QueryClientProvider>,
  )
  return { ...page, queries }
}
